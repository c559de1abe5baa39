"""Explain one figure of one company: inputs, facts, documents, versions."""

import json
from dataclasses import dataclass
from datetime import date, datetime
from math import isnan
from typing import Any

from sqlalchemy import Connection

from wise_ledger.core.answers.cells import mark_names
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.items import Nature
from wise_ledger.core.errors import bad_input
from wise_ledger.core.fiscal.labels import Period
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.conversion import Conversion
from wise_ledger.core.language.explain import Explained, explain
from wise_ledger.core.language.units import Axis
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.time.instants import as_instant
from wise_ledger.core.time.periods import NO_END, as_date, day
from wise_ledger.core.timelines.lineage import Derivation, facts_under
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.store import marketreading, reading
from wise_ledger.store.reading import Document, Fact
from wise_ledger.words import whole_number
from wise_ledger.work.currencies import in_currency
from wise_ledger.work.datedinputs import DatedInputWords, InputOnDate
from wise_ledger.work.desk import Desk

_READABLE = 5_000_000  # bytes; larger documents are not looked into


@dataclass(frozen=True)
class FigureVersion:
    """How the figure read from an instant on, and the documents that made it so."""

    known_from: datetime
    value: float | None
    reason: str | None
    marks: tuple[str, ...]
    standing: bool  # the one that counts at the cut-off
    later: bool  # not yet known at the cut-off
    documents: tuple[Document, ...]
    # what became known without any: split, fiscal_year, template or rate
    because: str | None


@dataclass(frozen=True)
class FigureInput:
    """An input: its figure, how it was formed, and the facts under it with their signs."""

    expression: str
    title: str
    unit: str
    value: float | None
    currency: str | None
    end: date
    period: str
    form: str
    facts: tuple[tuple[int, Fact], ...]
    derivation: Derivation | None
    of: dict[int, Fact]  # every fact under it, by its number


@dataclass(frozen=True)
class ConversionUsed:
    """A rate by which an amount was converted: the mean from `start` to
    `end`, or that of `end` (M2).
    """

    expression: str
    source: str
    target: str
    rate: float | None
    start: date | None
    end: date
    rates: int | None  # how many the mean is of


@dataclass(frozen=True)
class Beside:
    """What a document says at the place of a fact: the source's tag,
    and whether its sign is the other one.
    """

    tag: str | None
    turned: bool


@dataclass(frozen=True)
class Explanation:
    """A figure, down to the documents."""

    company: str
    name: str
    symbol: str | None
    expression: str
    unit: str
    value: float | str | None
    reason: str | None
    currency: str | None
    marks: tuple[str, ...]
    end: date | None
    period: str | None
    known_on: datetime
    batch: int
    inputs: tuple[FigureInput, ...]
    versions: tuple[FigureVersion, ...]
    besides: dict[int, Beside]  # of facts by their number
    conversions: tuple[ConversionUsed, ...]
    dated: tuple[InputOnDate, ...]


def explain_figure(
    desk: Desk, viewpoint: Viewpoint, company: str, expression: str, *, end: date | None = None
) -> Explanation:
    """Look into an expression for a company (any identifier), at a period end if one is given:
    the nominal one, or as it was reported.
    """
    snapshot = desk.snapshots.of(viewpoint)
    step = plan(expression, snapshot.view.vocabulary)
    if step.axis is Axis.CROSS:
        problem = "this is reckoned over all companies of a list, and one company alone is none"
        raise bad_input(
            "expression", expression, problem, "explain what is inside it, or screen a list by it"
        )
    if step.unit.kind == "truth":
        raise bad_input(
            "expression",
            expression,
            "this says yes or no",
            "explain one side of it, such as net_income",
        )
    number, cutoff = snapshot.number(company, viewpoint.cutoff), viewpoint.cutoff
    given = None if end is None else day(Period(None, end).nominal_end)
    found = explain(
        snapshot.view.tracing(number),
        expression,
        number,
        in_currency(snapshot, viewpoint),
        end=given,
    )
    wanted = {f for v in found.versions for f in v.facts}
    wanted |= {f for i in found.inputs if i.derivation for f, _ in facts_under(i.derivation)}
    with desk.ledger.database.read() as connection:
        facts = reading.facts_by_id(connection, wanted, snapshot.view.limits)
        besides = _besides(connection, facts)
        words = DatedInputWords(
            snapshot, expression, number, cutoff, marketreading.contributors(connection)
        )
    reason = Reason(found.values.reason[0, 0])
    raw = None if reason else found.values.value[0, 0]
    return Explanation(
        company=snapshot.ids[number],
        name=snapshot.name(number, cutoff),
        symbol=snapshot.symbol(number, cutoff),
        expression=expression,
        unit=found.step.unit.plain().name,
        value=raw if raw is None or isinstance(raw, str) else float(raw),
        reason=reason.code if reason else None,
        currency=currency_name(int(found.values.currency[0, 0])),
        marks=mark_names(int(found.values.marks[0, 0])),
        end=None if found.end == NO_END else as_date(found.end),
        period=None if found.end == NO_END else snapshot.label(number, found.end, cutoff),
        known_on=viewpoint.known_on,
        batch=snapshot.batch,
        inputs=_inputs(snapshot, found, number, cutoff, facts),
        versions=_versions(found, cutoff, facts, _known(snapshot, number)),
        besides=besides,
        conversions=tuple(_conversion(expression, c) for c in found.conversions),
        dated=tuple(words.of(d) for d in found.dated),
    )


def _conversion(expression: str, used: Conversion) -> ConversionUsed:
    return ConversionUsed(
        expression[used.place.begin : used.place.end],
        currency_name(used.source) or "",
        currency_name(used.target) or "",
        None if isnan(used.rate) else used.rate,
        None if used.start is None else as_date(used.start),
        as_date(used.end),
        used.rates,
    )


def _besides(connection: Connection, facts: dict[int, Fact]) -> dict[int, Beside]:
    """Look into the documents for what the source calls each figure, as far as they are JSON."""
    bodies: dict[str, Any] = {}
    out = {}
    for number, fact in facts.items():
        tag, document = None, fact.document
        if "json" in document.media_type and document.size <= _READABLE:
            if document.sha256 not in bodies:
                bodies[document.sha256] = json.loads(
                    reading.document_bytes(connection, document.sha256)
                )
            tag = _tag_at(bodies[document.sha256], fact.place)
        try:
            written = float(fact.reported) if fact.reported else 0.0
        except ValueError:
            written = 0.0
        turned = fact.value is not None and written * fact.value < 0
        out[number] = Beside(tag, turned)
    return out


def _tag_at(body: Any, pointer: str) -> str | None:
    """The tag of the object that a JSON pointer (RFC 6901) leads to."""
    for part in pointer.split("/")[1:]:
        key = part.replace("~1", "/").replace("~0", "~")
        place = whole_number(key) if isinstance(body, list) else None
        body = body.get(key, {}) if place is None else body[place]
    if not isinstance(body, dict):
        return None
    dimensions = body.get("dimensions")
    return body.get("tag") or (dimensions.get("concept") if isinstance(dimensions, dict) else None)


def _inputs(
    snapshot: Snapshot, found: Explained, number: int, cutoff: int, facts: dict[int, Fact]
) -> tuple[FigureInput, ...]:
    out = []
    for figure in found.inputs:
        item, derivation = figure.item, figure.derivation
        if figure.end == NO_END:
            continue  # never observed
        seen = item.nature is Nature.OBSERVATION
        out.append(
            FigureInput(
                expression=figure.name,
                title=item.title,
                unit=item.unit,
                value=derivation.value if derivation else None,
                currency=currency_name(figure.currency),
                end=as_date(figure.end),
                period=f"seen {as_date(figure.end)}"
                if seen
                else snapshot.label(number, figure.end, cutoff),
                form=("observed" if seen else derivation.form) if derivation else "not known",
                facts=tuple((sign, facts[f]) for f, sign in facts_under(derivation))
                if derivation
                else (),
                derivation=derivation,
                of=facts,
            )
        )
    return tuple(out)


def _known(snapshot: Snapshot, number: int) -> dict[str, set[int]]:
    """What beside figures moves those of a company, and the instants at which it became known."""
    splits = [s for s in snapshot.view.splits if s.company == number]
    templates = [a for a in snapshot.attributes.versions("template") if a.company == number]
    return {
        "split": {instant for s in splits for instant in (s.counts_from, s.until)},
        "fiscal_year": snapshot.view.calendar.moved_at(number),
        "template": {a.at for a in templates},
    }


def _versions(
    found: Explained, cutoff: int, facts: dict[int, Fact], known: dict[str, set[int]]
) -> tuple[FigureVersion, ...]:
    """The versions; one that no document made is because of something that became `known` then."""
    standing = max((v.at for v in found.versions if v.at <= cutoff), default=None)
    out = []
    for n, version in enumerate(found.versions):
        published = as_instant(version.at)
        news = [facts[f].document for f in version.facts if facts[f].published_at == published]
        other = "rate" if n else None
        because = next((cause for cause, at in known.items() if version.at in at), other)
        out.append(
            FigureVersion(
                published,
                version.value,
                version.reason.code if version.reason else None,
                mark_names(version.marks),
                version.at == standing,
                version.at > cutoff,
                tuple({d.sha256: d for d in news}.values()),
                None if news else because,
            )
        )
    return tuple(out)
