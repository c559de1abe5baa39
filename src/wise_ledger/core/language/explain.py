"""One figure looked into: its inputs down to the facts,
and its versions as knowledge arrived (F10).
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.items import Item
from wise_ledger.core.estimates.contributions import QUARTER, YEAR
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.conversion import Conversion, used
from wise_ledger.core.language.evaluate import Evaluation, Ground
from wise_ledger.core.language.plan import (
    Estimate,
    Leaf,
    Quote,
    Seen,
    Step,
    leaves,
    observations,
    on_dates,
)
from wise_ledger.core.language.tree import Place
from wise_ledger.core.market.market import PRICE_FIELDS
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.money.rates import RateTable
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import NO_END, shift_months
from wise_ledger.core.timelines.asof import newest, standing
from wise_ledger.core.timelines.keys import Instants, Rows, State, key_end, make_keys
from wise_ledger.core.timelines.lineage import Derivation, facts_under, trace
from wise_ledger.core.timelines.timeline import Timeline


@dataclass(frozen=True)
class Version:
    """From `at` (microseconds) on the figure read like this;
    `facts` became public at that instant.
    """

    at: int
    value: float | None
    reason: Reason
    marks: int
    facts: tuple[int, ...]


@dataclass(frozen=True)
class InputFigure:
    """An input of the expression as it stood at the cut-off."""

    item: Item
    form: str  # as of a leaf; empty for an observation
    end: int
    derivation: Derivation | None  # None: nothing was known
    currency: int


@dataclass(frozen=True)
class DatedInput:
    """An input that lives on dates as it stood at the cut-off: a price, a return, an estimate.

    Of a price `quoted` says where it stands; of an estimate `period_end` is the target period's,
    `count` of how many.
    """

    step: Step
    values: Values  # one cell
    quoted: "Quoted | None" = None
    period_end: int | None = None
    count: float | None = None


@dataclass(frozen=True)
class Quoted:
    """The price behind a figure: of which listing and day, since when known,
    from which source, as traded.
    """

    listing: int
    day: int
    known_at: int
    source: int
    as_traded: float


@dataclass(frozen=True)
class Explained:
    """A figure at one period end; `versions` in order,
    those after the cut-off only with hindsight.
    """

    step: Step
    values: Values  # one cell
    end: int  # NO_END where there is none
    inputs: tuple[InputFigure, ...]
    versions: tuple[Version, ...]
    conversions: tuple[Conversion, ...]  # in the order they were made (M2)
    dated: tuple[DatedInput, ...] = ()


def explain(
    ground: Ground, text: str, company: int, viewpoint: Viewpoint, *, end: int | None = None
) -> Explained:
    """Look into `text` for one company, as seen from a viewpoint,
    at the period end given or that it would have.
    """
    cutoff, currency, hindsight = viewpoint.cutoff, viewpoint.currency, viewpoint.hindsight
    step = plan(text, ground.vocabulary)
    one = np.array([company], np.int64)
    cutoffs = np.array([cutoff], np.int64)
    given = None if end is None else _same_end(end, 1)
    evaluation = Evaluation(ground, one, cutoffs, ends=given, currency=currency)
    values, ends = evaluation.run(step)
    end = int(ends[0, 0]) if end is None else end
    met_in = None if currency is None else currency_code(currency)
    met = tuple(dict.fromkeys(evaluation.conversions))
    seen = tuple(_seen(ground, s.item, company, cutoff) for s in dict.fromkeys(observations(step)))
    if end == NO_END:
        versions = (
            _seen_versions(ground, step, company, cutoff, hindsight)
            if isinstance(step, Seen)
            else ()
        )
        return Explained(
            step, values, end, seen, versions, met, _dated(ground, step, company, cutoff, end)
        )
    found = list(dict.fromkeys(leaves(step)))
    figures = [_input(ground, leaf, company, end, cutoff, met_in) for leaf in found]
    inside = [
        c
        for f, i in zip(found, figures, strict=True)
        for c in _inside(ground.rates, f.place, i.derivation)
    ]
    met, inputs = tuple(dict.fromkeys([*met, *inside])), (*figures, *seen)
    versions = _versions(ground, step, found, company, end, cutoff, hindsight, currency)
    return Explained(
        step, values, end, inputs, versions, met, _dated(ground, step, company, cutoff, end)
    )


def _same_end(end: int, dates: int) -> np.ndarray[tuple[int, int], np.dtype[np.int32]]:
    return np.full((1, dates), end, np.int32)


def _dated(
    ground: Ground, step: Step, company: int, cutoff: int, end: int
) -> tuple[DatedInput, ...]:
    """The inputs that live on dates, in the order written."""
    one, at = np.array([company], np.int64), np.array([cutoff], np.int64)
    found = {}
    for part in on_dates(step):
        ends = None if end == NO_END else _same_end(end, 1)
        values, _ = Evaluation(ground, one, at, ends=ends).run(part)
        quoted = period_end = count = None
        if isinstance(part, Quote) and part.name in PRICE_FIELDS and not values.reason[0, 0]:
            quoted = _quoted(ground, part.name, one, at)
        if isinstance(part, Estimate) and not values.reason[0, 0]:
            estimates, asked = ground.estimates, (one, at, np.full((1, 1), NO_CURRENCY, np.int64))
            if part.horizon != "ntm":
                count = float(
                    estimates.estimate(part.measure, part.horizon, "count", *asked).value[0, 0]
                )
                kind = QUARTER if part.horizon[0] == "q" else YEAR
                period_end = int(estimates.period(kind, int(part.horizon[-1]), one, at)[0, 0])
        found[part] = DatedInput(part, values, quoted, period_end, count)
    return tuple(found.values())


def _quoted(ground: Ground, name: str, one: Rows, at: Instants) -> Quoted:
    market = ground.market
    listing = market.listed.of_companies.read(one, at)
    last = market.quoted(listing, at[None, :] // DAY, at[None, :])
    row = int(last.row[0, 0])
    rows = market.prices.rows
    return Quoted(
        int(listing[0, 0]),
        int(market.day_of(last)[0, 0]),
        int(rows["known_at"][row]),
        int(rows["source"][row]),
        float(rows[name][row]),
    )


def _key(
    leaf: Leaf, company: int, end: int
) -> tuple[int, np.ndarray[tuple[int], np.dtype[np.int64]]]:
    own = shift_months(np.array([end], np.int32), -leaf.months)
    return int(own[0]), make_keys(np.array([company]), own)


def _standing(
    timeline: Timeline, key: np.ndarray[tuple[int], np.dtype[np.int64]], cutoff: int
) -> int:
    return int(standing(timeline, key, np.array([cutoff], np.int64))[0])


def _inside(rates: RateTable, place: Place, figure: Derivation | None) -> Iterator[Conversion]:
    """The conversions of the parts that a figure was formed of,
    where these stand in several currencies (M2).
    """
    if figure is None:
        return
    for part in figure.parts:
        if part.currency != figure.currency and NO_CURRENCY not in (part.currency, figure.currency):
            yield used(
                rates, place, part.currency, figure.currency, part.start, part.end, figure.at
            )
        yield from _inside(rates, place, part)


def _input(
    ground: Ground, leaf: Leaf, company: int, end: int, cutoff: int, currency: int | None
) -> InputFigure:
    timeline = ground.timeline(leaf.item, leaf.form, leaf.first, currency)
    own, key = _key(leaf, company, end)
    row = _standing(timeline, key, cutoff)
    if row < 0 or timeline.state[row] == State.ABSENT:
        return InputFigure(leaf.item, leaf.form, own, None, -1)
    return InputFigure(leaf.item, leaf.form, own, trace(timeline, row), int(timeline.currency[row]))


def _seen(ground: Ground, item: Item, company: int, cutoff: int) -> InputFigure:
    """The last observation known (F14)."""
    timeline = ground.timeline(item, "", False)
    row = int(newest(timeline, ground.companies, np.array([cutoff], np.int64))[company, 0])
    if row < 0:
        return InputFigure(item, "", NO_END, None, -1)
    end = int(key_end(timeline.key[row : row + 1])[0])
    return InputFigure(item, "", end, trace(timeline, row), int(timeline.currency[row]))


def _seen_versions(
    ground: Ground, step: Seen, company: int, cutoff: int, hindsight: bool
) -> tuple[Version, ...]:
    """How the observation of the day seen last was reported, and restated."""
    timeline = ground.timeline(step.item, "", False)
    row = int(newest(timeline, ground.companies, np.array([cutoff], np.int64))[company, 0])
    if row < 0:
        return ()
    rows = np.flatnonzero(timeline.key == timeline.key[row])
    out = []
    for n in rows[(timeline.at[rows] <= cutoff) | hindsight].tolist():
        there = timeline.state[n] == State.VALUE
        facts = tuple(f for f, _ in facts_under(trace(timeline, n)))
        value, reason = (
            (float(timeline.value[n]), Reason.NONE) if there else (None, Reason.WITHDRAWN)
        )
        out.append(Version(int(timeline.at[n]), value, reason, int(timeline.marks[n]), facts))
    return tuple(out)


def _versions(
    ground: Ground,
    step: Step,
    found: list[Leaf],
    company: int,
    end: int,
    cutoff: int,
    hindsight: bool,
    currency: str | None,
) -> tuple[Version, ...]:
    """Every instant at which the figure of this end read differently from before."""
    instants: set[int] = set()
    met_in = None if currency is None else currency_code(currency)
    rows_of: list[tuple[Timeline, np.ndarray[tuple[int], np.dtype[np.int64]]]] = []
    for leaf in found:
        timeline = ground.timeline(leaf.item, leaf.form, leaf.first, met_in)
        _, key = _key(leaf, company, end)
        low, high = np.searchsorted(timeline.key, [key[0], key[0] + 1])
        instants.update(timeline.at[low:high].tolist())
        rows_of.append((timeline, key))
    at = np.array(sorted(i for i in instants if hindsight or i <= cutoff), np.int64)
    if not len(at):
        return ()
    evaluation = Evaluation(
        ground, np.array([company]), at, ends=_same_end(end, len(at)), currency=currency
    )
    values, _ = evaluation.run(step)
    out: list[Version] = []
    for i, instant in enumerate(at.tolist()):
        reason = Reason(values.reason[0, i])
        value = None if reason else float(values.value[0, i])
        if (out and (out[-1].value, out[-1].reason) == (value, reason)) or (not out and reason):
            continue
        out.append(
            Version(instant, value, reason, int(values.marks[0, i]), _news(rows_of, instant))
        )
    return tuple(out)


def _news(
    rows_of: list[tuple[Timeline, np.ndarray[tuple[int], np.dtype[np.int64]]]], instant: int
) -> tuple[int, ...]:
    """The facts behind the figure at an instant;
    the caller keeps those that were published then.
    """
    found: dict[int, None] = {}
    for timeline, key in rows_of:
        row = _standing(timeline, key, instant)
        if row >= 0 and timeline.state[row] != State.ABSENT:
            found.update(dict.fromkeys(fact for fact, _ in facts_under(trace(timeline, row))))
    return tuple(found)
