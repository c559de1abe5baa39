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
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.conversion import Conversion, used
from wise_ledger.core.language.evaluate import Evaluation, Ground
from wise_ledger.core.language.explaindates import DatedInput, DatedInputs
from wise_ledger.core.language.plan import Leaf, Seen, Step, leaves, observations
from wise_ledger.core.language.tree import Place
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.money.rates import RateTable
from wise_ledger.core.time.periods import ABSENT, NO_END, shift_months
from wise_ledger.core.timelines.asof import newest, standing
from wise_ledger.core.timelines.keys import State, key_end, make_keys
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
    known_at: int | None = None

    @property
    def name(self) -> str:
        """As it is written in an expression."""
        form = "" if self.form.startswith("balance") else self.form
        return f"{self.item.code}.{form}" if form else self.item.code


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
    dated: tuple[DatedInput, ...]


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
    inputs, dated, met = _inputs(ground, evaluation, step, company, end, cutoff, currency)
    if end != NO_END:
        found = list(dict.fromkeys(leaves(step)))
        versions = _versions(ground, step, found, company, end, cutoff, hindsight, currency)
    elif isinstance(step, Seen):
        versions = _seen_versions(ground, step, company, cutoff, hindsight)
    else:
        versions = ()
    return Explained(step, values, end, inputs, versions, met, dated)


def _inputs(
    ground: Ground,
    evaluation: Evaluation,
    step: Step,
    company: int,
    end: int,
    cutoff: int,
    currency: str | None = None,
    targets: int | None = None,
) -> tuple[tuple[InputFigure, ...], tuple[DatedInput, ...], tuple[Conversion, ...]]:
    """What an expression that was evaluated was reckoned of at a period end: figures, what lives on
    dates, and the rates that were taken.
    """
    met_in = None if currency is None else currency_code(currency)
    found = [] if end == NO_END else list(dict.fromkeys(leaves(step)))
    figures = [_input(ground, leaf, company, end, cutoff, met_in) for leaf in found]
    inside = [
        c
        for f, i in zip(found, figures, strict=True)
        for c in _inside(ground.rates, f.place, i.derivation)
    ]
    seen = [_seen(ground, s.item, company, cutoff) for s in dict.fromkeys(observations(step))]

    def elsewhere(
        step: Step, cutoff: int, targets: int | None
    ) -> tuple[Values, tuple[DatedInput, ...], tuple[Conversion, ...]]:
        then = Evaluation(
            ground,
            np.array([company], np.int64),
            np.array([cutoff], np.int64),
            targets=None if targets is None else np.array([targets], np.int64),
        )
        values, ends = then.run(step)
        end = int(ends[0, 0])
        figures, dated, met = _inputs(ground, then, step, company, end, cutoff, targets=targets)
        return values, (*(_dated_figure(f) for f in figures), *dated), met

    look = DatedInputs(ground, evaluation, company, cutoff, elsewhere, targets)
    dated = look.of(step)
    met = dict.fromkeys([*evaluation.conversions, *inside, *look.conversions])
    return (*figures, *seen), dated, tuple(met)


def _dated_figure(figure: InputFigure) -> DatedInput:
    """A figure, among what was read at another instant."""
    value = figure.derivation.value if figure.derivation else None
    missing = Reason.WITHDRAWN if figure.derivation else Reason.NOT_KNOWN
    return DatedInput(
        value,
        figure.item.unit,
        name=figure.name,
        reason=missing if value is None else Reason.NONE,
        currency=figure.currency,
        known_at=figure.known_at,
        period_end=None if figure.end == NO_END else figure.end,
    )


def _same_end(end: int, dates: int) -> np.ndarray[tuple[int, int], np.dtype[np.int32]]:
    return np.full((1, dates), end, np.int32)


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
    """The conversions of the parts that a flow was formed of, where these stand in several
    currencies (M2); of balances none is converted, they are added in one, or imply a zero.
    """
    if figure is None:
        return
    for part in figure.parts:
        currencies = {part.currency, figure.currency}
        if len(currencies) == 2 and NO_CURRENCY not in currencies and part.start != ABSENT:
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
    known = int(timeline.currency[row]), int(timeline.at[row])
    return InputFigure(leaf.item, leaf.form, own, trace(timeline, row), *known)


def _seen(ground: Ground, item: Item, company: int, cutoff: int) -> InputFigure:
    """The last observation known (F14)."""
    timeline = ground.timeline(item, "", False)
    row = int(newest(timeline, ground.companies, np.array([cutoff], np.int64))[company, 0])
    if row < 0:
        return InputFigure(item, "", NO_END, None, -1)
    end = int(key_end(timeline.key[row : row + 1])[0])
    known = int(timeline.currency[row]), int(timeline.at[row])
    return InputFigure(item, "", end, trace(timeline, row), *known)


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
