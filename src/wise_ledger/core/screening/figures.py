"""Figures of companies as known at a cut-off: columns beside a screen or a list, each cell a value or a reason."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.cells import Cell, Column, Table, mark_names
from wise_ledger.core.answers.reasons import CODES, Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import bad_input
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import STALE_AFTER, Evaluation, Ground
from wise_ledger.core.language.parse import parse
from wise_ledger.core.language.plan import Quote, Step, leaves, on_dates
from wise_ledger.core.language.tree import Name, nodes
from wise_ledger.core.language.units import TEXT, TRUTH
from wise_ledger.core.language.vocabulary import Vocabulary
from wise_ledger.core.market.market import PRICE_FIELDS
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import NO_END, Days, as_date, shift_months
from wise_ledger.core.timelines.asof import standing
from wise_ledger.core.timelines.keys import make_keys
from wise_ledger.core.timelines.lineage import restated
from wise_ledger.core.timelines.merge import gather


def named(columns: Sequence[str]) -> list[tuple[str, str]]:
    """Name and expression of columns asked for: `margin: operating_income / revenue`, or the expression alone.

    >>> named(["margin: net_income / revenue", "revenue"])
    [('margin', 'net_income / revenue'), ('revenue', 'revenue')]
    """
    out: dict[str, str] = {}
    for text in columns:
        found = _NAMED.fullmatch(text)
        name, expression = (found[1], found[2]) if found else (text.strip(), text.strip())
        if out.get(name, expression) != expression:
            raise bad_input("show", text, f"there is a column {name} already", "give it another name")
        out[name] = expression
    return list(out.items())


def over_others(columns: Sequence[tuple[str, str]], vocabulary: Vocabulary) -> list[tuple[str, str]]:
    """The same columns, each name of an earlier one replaced by what it stands for; raises `ExpressionError`.

    A name that means something of its own means that: a column called `revenue` hides no item.

    >>> from wise_ledger.core.language.vocabulary import STANDARD
    >>> over_others([("margin", "net_income / revenue"), ("twice", "2 * margin")], STANDARD)
    [('margin', 'net_income / revenue'), ('twice', '2 * (net_income / revenue)')]
    """
    known, out = set(vocabulary.names), list[tuple[str, str]]()
    for name, expression in columns:
        before = {n: e for n, e in out if n not in known and n != e}
        if any(n in expression for n in before):
            uses = [p for p in nodes(parse(expression)) if isinstance(p, Name) and not p.selector and p.name in before]
            for use in sorted(uses, key=lambda u: -u.place.begin):
                meant = before[use.name] + ("\n" if "#" in before[use.name] else "")
                expression = f"{expression[: use.place.begin]}({meant}){expression[use.place.end :]}"
        out.append((name, expression))
    return out


def figures(
    ground: Ground,
    expressions: Sequence[str],
    members: Sequence[int],
    viewpoint: Viewpoint,
    *,
    stale_after: int = STALE_AFTER,
) -> Table:
    """Each expression for each of `members` (company numbers), as seen from a viewpoint; raises `ExpressionError`."""
    companies, cutoffs = np.asarray(members, np.int64), np.array([viewpoint.cutoff], np.int64)
    evaluation = Evaluation(ground, companies, cutoffs, stale_after=stale_after, currency=viewpoint.currency)
    columns, cells = [], []
    for name, expression in over_others(named(expressions), ground.vocabulary):
        step = plan(expression, ground.vocabulary)
        values, ends = evaluation.run(step)
        columns.append(Column(expression, step.unit.plain().name, False, name))
        cells.append(cells_of(ground, step, values, ends, companies, viewpoint))
    return Table(tuple(columns), tuple(tuple(of[i] for of in cells) for i in range(len(companies))))


def cells_of(
    ground: Ground,
    step: Step,
    values: Values,
    ends: Days,
    companies: NDArray[np.int64],
    viewpoint: Viewpoint,
) -> list[Cell]:
    """The cells of one column, one a company, at one cut-off."""
    behind = _behind(ground, step, companies, ends, viewpoint.cutoff)
    missing = values.reason[:, 0] != Reason.NONE
    has_end = ends[:, 0] != NO_END if leaves(step) else np.zeros(len(companies), np.bool_)
    known_at = np.where(missing | (behind.known_at == UNKNOWN), UNKNOWN, behind.known_at)
    columns = (
        _shown(values.value[:, 0], missing, step),
        [CODES[n] for n in values.reason[:, 0].tolist()],
        [currency_name(n) for n in values.currency[:, 0].tolist()],
        [_day(n) if there else None for n, there in zip(ends[:, 0].tolist(), has_end.tolist(), strict=True)],
        [None if n == UNKNOWN else n for n in known_at.tolist()],
        [mark_names(n) for n in np.where(missing, 0, values.marks[:, 0]).tolist()],
        (behind.restated & ~missing).tolist(),
        behind.restated_later.tolist() if viewpoint.hindsight else [None] * len(companies),
    )
    return list(map(Cell, *columns))


@dataclass(frozen=True, eq=False)
class _Behind:
    """Of the figures behind a column, company by company."""

    restated: NDArray[np.bool_]  # by the cut-off
    restated_later: NDArray[np.bool_]
    known_at: NDArray[np.int64]  # since when they all stand as they do


def _behind(ground: Ground, side: Step, companies: NDArray[np.int64], ends: Days, cutoff: int) -> _Behind:
    by_then = np.zeros(len(companies), np.bool_)
    later = by_then.copy()
    known_at = np.full(len(companies), UNKNOWN, np.int64)
    end = ends[:, 0]
    known = end != NO_END
    for leaf in leaves(side):
        timeline = ground.timeline(leaf.item, leaf.form, leaf.first)
        keys = make_keys(companies, shift_months(np.where(known, end, 0).astype(np.int32), -leaf.months))
        rows = np.where(known, standing(timeline, keys, np.full(len(keys), cutoff)), -1)
        changed, changes = restated(timeline, rows)
        by_then |= changed
        later |= changes
        known_at = np.maximum(known_at, gather(timeline.at, rows, UNKNOWN))
    for quote in on_dates(side):
        if isinstance(quote, Quote) and quote.name in PRICE_FIELDS:
            known_at = np.maximum(known_at, _price_known_at(ground, companies, cutoff))
    return _Behind(by_then, later, known_at)


def _price_known_at(ground: Ground, companies: NDArray[np.int64], cutoff: int) -> NDArray[np.int64]:
    """Since when the last price of each company stands."""
    market, at = ground.market, np.array([cutoff])
    listing = market.listed.of_companies.read(companies, at)
    row = market.quoted(listing, np.full(listing.shape, cutoff // DAY), np.full(listing.shape, cutoff)).row[:, 0]
    return gather(market.prices.rows["known_at"], row, UNKNOWN)


UNKNOWN = np.iinfo(np.int64).min


def _shown(raw: NDArray[Any], missing: NDArray[np.bool_], side: Step) -> list[float | str | None]:
    if side.unit == TRUTH:
        found: list[Any] = ["yes" if value else "no" for value in raw.tolist()]
    else:
        found = [str(v) for v in raw.tolist()] if side.unit == TEXT else raw.astype(np.float64).tolist()
    return [None if gone else value for value, gone in zip(found, missing.tolist(), strict=True)]


_NAMED = re.compile(r"\s*([a-z][a-z0-9_]*)\s*:\s*(\S.*?)\s*", re.DOTALL)
_day = lru_cache(4096)(as_date)
