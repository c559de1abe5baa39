"""Reading xBRL-JSON, the JSON form of the Open Information Model (REC 2021):
facts with their dimensions.

The consolidated view is what has no dimension beside concept, entity, period, unit and language;
facts with others are kept under a basis that names these, and never mixed with it. Values are in
full; `decimals` only says how exact they are.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal, InvalidOperation
from typing import Any

from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import CONSOLIDATED, FactRecord
from wise_ledger.sources.amounts import in_units
from wise_ledger.sources.errors import bad_figure, damaged
from wise_ledger.sources.mapping import TagMapping

DOCUMENT_TYPES = ("https://xbrl.org/2021/xbrl-json",)
MOST_BYTES = 100_000_000
_PLAIN = ("concept", "entity", "period", "unit", "language", "noteId")


@dataclass(frozen=True)
class Report:
    """The facts of a report, its tags without an item, and the entities that it speaks of."""

    facts: Figures
    unmapped: tuple[str, ...]
    entities: frozenset[str]


def read_report(
    body: Any, where: str, published: datetime, mapping: TagMapping, template: str | None
) -> Report:
    """The facts of a report by a mapping;
    raises `SourceDamaged` for another shape and `BadFigure` for a bad figure.
    """
    info = body.get("documentInfo") if isinstance(body, dict) else None
    if not isinstance(info, dict) or info.get("documentType") not in DOCUMENT_TYPES:
        type_ = info.get("documentType") if isinstance(info, dict) else body
        raise damaged(
            where, type_, f"this is no xBRL-JSON report: its type is not {DOCUMENT_TYPES[0]}"
        )
    stated = body.get("facts", {})
    if not isinstance(stated, dict):
        raise damaged(where, stated, "its facts are no object")
    facts, unmapped, entities = [], [], set()
    for name, fact in stated.items():
        at = f"{where}, fact {name}"
        dimensions = fact.get("dimensions") if isinstance(fact, dict) else None
        if not isinstance(dimensions, dict) or not isinstance(dimensions.get("concept"), str):
            raise damaged(at, fact, "the fact has no dimensions, or no concept among them")
        entities.add(str(dimensions.get("entity", "")))
        value = fact.get("value")
        if value is None:
            continue  # nil: the report says that there is nothing to say
        concept = dimensions["concept"]
        rule = mapping.rule(concept, template)
        if rule is None:
            unmapped.append(concept)
            continue
        if "period" not in dimensions:
            raise bad_figure(at, concept, "it is for no period")
        item = ITEMS[rule.item]
        start, end = _period(dimensions["period"], at)
        facts.append(
            FactRecord(
                item=item.code,
                period_start=start,
                period_end=end,
                value=_value(value, rule.power, rule.sign, at),
                reported=str(value),
                scale=rule.power,
                unit=rule.unit or _unit(dimensions.get("unit"), item.unit),
                published_at=published,
                place=f"/facts/{name.replace('~', '~0').replace('/', '~1')}",
                basis=_basis(dimensions),
            )
        )
    return Report(Figures.of(facts), tuple(unmapped), frozenset(entities))


def _basis(dimensions: Mapping[str, Any]) -> str:
    """`consolidated`, or the other dimensions by name: `tvf:SegmentAxis=agk:Home`."""
    others = sorted((k, str(v)) for k, v in dimensions.items() if k not in _PLAIN)
    return "; ".join(f"{k}={v}" for k, v in others) or CONSOLIDATED


def _period(text: Any, at: str) -> tuple[date | None, date]:
    """An interval ends, and an instant is, as the named day begins:
    the day before is the last (OIM, periods).
    """
    begin, _, end = text.rpartition("/") if isinstance(text, str) else ("", "", "")
    try:
        last = _last_day(end)
        return (datetime.fromisoformat(begin).date() if begin else None), last
    except (ValueError, OverflowError):
        raise bad_figure(at, text, "this is no period") from None


def _last_day(text: str) -> date:
    at = datetime.fromisoformat(text)
    return (
        (at - timedelta(days=1)).date()
        if (at.hour, at.minute, at.second) == (0, 0, 0)
        else at.date()
    )


def _unit(unit: Any, kind: str) -> str:
    """`iso4217:EUR` as EUR, `iso4217:EUR/xbrli:shares` as EUR/shares, none as
    pure or, of counts, count.
    """
    if unit is None:
        return "count" if kind == "count" else "pure"
    return "/".join(part.rpartition(":")[2] for part in str(unit).split("/"))


def _value(text: Any, power: int, sign: int, at: str) -> float:
    if isinstance(text, bool) or not isinstance(text, str | int | Decimal):
        raise bad_figure(at, text, "this is no number")
    try:
        return in_units(text if isinstance(text, int) else Decimal(text), power, sign)
    except InvalidOperation:
        raise bad_figure(at, text, "this is no number") from None
    except ValueError as error:
        raise bad_figure(at, text, str(error)) from None
