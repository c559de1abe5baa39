"""A panel: columns of expressions over companies and dates, or over fiscal periods,
in blocks of dates.

Block after block is evaluated, so that what is in memory is bounded by a block however long the
panel is; whatever occurs in several columns is evaluated once a block. A column at one date is what
a screen of that date shows.
"""

from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.errors import bad_input
from wise_ledger.core.language.behind import behind
from wise_ledger.core.language.check import plan, plan_rule
from wise_ledger.core.language.columnnames import named, over_others
from wise_ledger.core.language.counted import Counted
from wise_ledger.core.language.evaluate import Evaluation, Ground
from wise_ledger.core.language.plan import Step, leaves
from wise_ledger.core.language.vocabulary import Vocabulary
from wise_ledger.core.panels.ahead import Ahead
from wise_ledger.core.time.periods import Days
from wise_ledger.core.timelines.keys import Instants, Rows
from wise_ledger.core.timelines.lineage import UNKNOWN

MOST_COLUMNS = 500
_BLOCK = 192_000_000  # bytes of one block, about
_CELL = 16  # bytes of a value with its reason, marks, currency and period end
_WORKING = 12  # columns' worth of what comes and goes while a block is made
_THREADS = 2

Truths = NDArray[np.bool_]


@dataclass(frozen=True)
class PanelColumn:
    """A column: its name, expression and plan; or a return over the time after each date."""

    name: str
    expression: str
    step: Step | None
    ahead: Ahead | None = None

    @property
    def unit(self) -> str:
        """The name of its unit."""
        return "pure" if self.step is None else self.step.unit.plain().name

    @property
    def is_money(self) -> bool:
        """Whether its values are amounts, each in some currency."""
        return (
            self.step is not None and self.step.unit.kind == "number" and self.step.unit.money != 0
        )


@dataclass(frozen=True, eq=False)
class Question:
    """What a panel asks of whom and when.

    `cutoffs` ascend; `counted` says who is on the list on each date. With `ends` the columns are
    read at these period ends, (companies, dates), and the cut-offs are all the same. `condition`
    keeps rows of which it is true.
    """

    columns: tuple[PanelColumn, ...]
    members: Rows
    cutoffs: Instants
    counted: Counted
    ends: Days | None = None
    condition: Step | None = None
    currency: str | None = None
    known_at: bool = False  # whether to say since when values stand
    upto: int = UNKNOWN  # the last instant of which returns ahead know

    @property
    def dates(self) -> int:
        """How many dates, or periods, there are."""
        return int(self.counted.members.shape[1])


@dataclass(frozen=True, eq=False)
class Figures:
    """A column of a block: values and their period ends, (companies, dates),
    and since when they stand if asked.
    """

    values: Values
    ends: Days | None
    known_at: NDArray[np.int64] | None


@dataclass(frozen=True, eq=False)
class Block:
    """Some dates of a panel: `first` is the place of the first;
    `rows` says which cells are rows of the panel.

    `unknown` are the reasons for which the condition is neither true nor false, NONE elsewhere.
    """

    first: int
    rows: Truths
    unknown: NDArray[np.uint8]
    columns: tuple[Figures, ...]


def plan_columns(
    expressions: Sequence[str], vocabulary: Vocabulary, *, selector: str = "", first: bool = False
) -> tuple[PanelColumn, ...]:
    """The columns asked for, `name: expression` or an expression alone;
    raises `BadInput` and `ExpressionError`.
    """
    if not expressions:
        raise bad_input(
            "expressions", "", "no column is asked for", "name a measure, such as operating_margin"
        )
    if len(expressions) > MOST_COLUMNS:
        raise bad_input(
            "expressions",
            len(expressions),
            f"a panel has at most {MOST_COLUMNS} columns",
            "ask twice",
        )
    found = over_others(named(expressions), vocabulary)
    return tuple(
        PanelColumn(name, written, plan(expression, vocabulary, selector=selector, first=first))
        for (name, expression), (_, written) in zip(found, named(expressions), strict=True)
    )


def plan_condition(rule: str | None, vocabulary: Vocabulary) -> Step | None:
    """The condition of the rows, which must say yes or no; raises `ExpressionError`."""
    return None if rule is None else plan_rule(rule, vocabulary)


def blocks(ground: Ground, question: Question) -> Iterator[Block]:
    """The panel, some dates at a time, in their order;
    columns of a block are evaluated side by side.
    """
    size = max(1, len(question.members) * _CELL * (len(question.columns) + _WORKING))
    step = max(1, _BLOCK // size)
    with ThreadPoolExecutor(_THREADS, "panel") as pool:
        for start in range(0, max(1, question.dates), step):
            yield block(ground, question, start, min(start + step, question.dates), pool)


def block(
    ground: Ground,
    question: Question,
    first: int,
    last: int,
    pool: ThreadPoolExecutor | None = None,
) -> Block:
    """The dates from one place up to another; columns side by side where there is a pool."""
    cutoffs, counted = _part(question, first, last)
    ends = None if question.ends is None else question.ends[:, first:last]
    evaluation = Evaluation(
        ground, question.members, cutoffs, ends=ends, currency=question.currency, counted=counted
    )  # fmt: skip
    steps = [c.step for c in question.columns if c.step is not None]
    steps += [] if question.condition is None else [question.condition]
    evaluation.share(steps)
    rows = counted.members
    unknown = np.zeros(rows.shape, np.uint8)
    if question.condition is not None:
        verdict = counted.seen(evaluation.run(question.condition)[0])
        unknown = np.where(rows, verdict.reason, np.uint8(Reason.NONE))
        rows = rows & verdict.there & (verdict.value != 0)

    def read(column: PanelColumn) -> Figures:
        return _figures(ground, question, column, evaluation, cutoffs, counted)

    found = map(read, question.columns) if pool is None else pool.map(read, question.columns)
    return Block(first, rows, unknown, tuple(found))


def _part(question: Question, first: int, last: int) -> tuple[Instants, Counted]:
    """The cut-offs of some dates, and who counts on them."""
    counted = question.counted
    members = counted.members[:, first:last]
    if counted.own is None or counted.date is None:
        return question.cutoffs[first:last], Counted(members)
    places = np.flatnonzero((counted.date >= first) & (counted.date < last))
    own = np.searchsorted(places, counted.own[:, first:last])
    return question.cutoffs[places], Counted(members, own, counted.date[places] - first)


def _figures(
    ground: Ground,
    question: Question,
    column: PanelColumn,
    evaluation: Evaluation,
    cutoffs: Instants,
    counted: Counted,
) -> Figures:
    if column.step is None:
        assert column.ahead is not None
        found = column.ahead.values(ground.market, question.members, cutoffs, question.upto)
        return Figures(counted.seen(found), None, None)
    values, ends = evaluation.run(column.step)
    known_at = None
    if question.known_at:
        known_at = behind(ground, column.step, question.members, ends, cutoffs).known_at
        known_at = counted.on_dates(np.where(values.there, known_at, UNKNOWN))
    own_ends = counted.on_dates(ends) if leaves(column.step) else None
    return Figures(counted.seen(values), own_ends, known_at)
