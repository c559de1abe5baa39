"""Fiscal expressions evaluated where they may move, and read off at dates.

What is reckoned of fiscal figures alone moves only when something becomes known: a figure of an
input, a first figure of its item or statement, a template; or when a period end becomes stale. At
these events the expression is evaluated, each company at its own, and what it came to stands until
the next. Many dates then cost a look, and the events can be kept between questions. Amounts in
different currencies move with every rate: what needs one is evaluated on the dates.
"""

from collections.abc import Callable, Hashable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from hashlib import sha256
from typing import Any, Protocol, Self, TypeVar

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.values import Values
from wise_ledger.core.dated.attributes import Attributes
from wise_ledger.core.language.cellwise import Cellwise, CurrenciesMeet, cellwise
from wise_ledger.core.language.fiscalaxis import FiscalAxis, FiscalGround
from wise_ledger.core.language.plan import Apply, Compare, Leaf, Member, Step, parts
from wise_ledger.core.language.scope import Scope, ScopeName, scope_name
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import Days
from wise_ledger.core.timelines.keys import Instants, Rows, group_ends, group_starts, key_company
from wise_ledger.core.timelines.merge import in_order
from wise_ledger.core.timelines.moves import slots
from wise_ledger.core.timelines.places import Points

_FEWEST = 12  # dates for which events may be worth it
_NEVER = 1 << 62  # an instant
T = TypeVar("T")
Run = tuple[Rows, Instants]  # companies and instants beside them


@dataclass(frozen=True, eq=False)
class Events:
    """What an expression came to from each of some points on, in order of company and instant.

    Each company begins with what it came to before anything was known. `points` are shared by
    expressions that may move at the same instants.
    """

    points: Points
    value: NDArray[np.float64]
    reason: NDArray[np.uint8]
    marks: NDArray[np.uint8]
    currency: NDArray[np.int16]
    ends: Days

    @classmethod
    def none(cls) -> Self:
        """Of an expression that cannot be evaluated so."""
        whole, small = np.empty(0, np.int64), np.empty(0, np.uint8)
        return cls(
            Points(whole, whole),
            np.empty(0),
            small,
            small,
            np.empty(0, np.int16),
            np.empty(0, np.int32),
        )

    def read(self, standing: Rows) -> tuple[Values, Days]:
        """The values and period ends in cells of which it is said which event stands there."""

        def spread(column: NDArray[Any]) -> NDArray[Any]:
            same = self._same.get(id(column))
            if same is not None:
                return np.full(standing.shape, same, column.dtype)
            return column.take(standing, mode="clip")

        values = Values(
            spread(self.value), spread(self.reason), spread(self.marks), spread(self.currency)
        )
        return values, spread(self.ends)

    @cached_property
    def _same(self) -> dict[int, Any]:
        """The columns that say the same of every event, by identity, and what they say."""
        columns = (self.reason, self.marks, self.currency)
        return {id(c): c[0] for c in columns if len(c) and bool((c == c[0]).all())}

    def __len__(self) -> int:
        return len(self.value)


def standing(points: Points, members: Rows, cutoffs: Instants) -> Rows:
    """Which point stands, (members, cut-offs):
    the last one of the company that is not after the cut-off.

    Each of the ascending members has points, the first of which stands wherever no other does.
    """
    place = (
        points.company
        if len(members) > points.company[-1]
        else np.searchsorted(members, points.company)
    )
    slot = slots(points.at, points.at // DAY, cutoffs)
    slot[group_starts(points.company)] = 0
    # Each company's first point is in its first cell, where it overwrites what of the company
    # before it comes after all cut-offs.
    begins = np.zeros(len(members) * len(cutoffs) + 1, np.int64)
    begins[place * len(cutoffs) + slot] = np.arange(len(slot))
    return np.asarray(np.maximum.accumulate(begins)[:-1].reshape(len(members), len(cutoffs)))


class Ground(FiscalGround, Protocol):
    """What is asked here of what an evaluation stands on."""

    companies: int

    @property
    def attributes(self) -> Attributes:
        """What was stated about companies."""

    def kept(self, name: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """What was made under this name, as kept; else as made now."""


class OnEvents:
    """Evaluates the fiscal parts of plans for companies x ascending cut-offs,
    where that is the lesser work.
    """

    def __init__(self, ground: Ground, axis: FiscalAxis, members: Rows, cutoffs: Instants) -> None:
        self._ground = ground
        self._axis = axis
        self._members = members
        self._cutoffs = cutoffs
        self._ends: dict[ScopeName, Days] = {}
        self._standing: dict[int, tuple[Points, Rows]] = {}

    def value(self, step: Step, scope: Scope) -> Values | None:
        """The values of a step that stands in a scope;
        None where it is to be evaluated on the dates.
        """
        if len(self._cutoffs) < _FEWEST or self._axis.named or not _worth(step) or not self._ascend:
            return None
        inputs = [*scope.leaves, *(part for part in parts(step) if isinstance(part, Leaf))]
        most = max(len(self._axis.timeline(leaf)) for leaf in dict.fromkeys(inputs))
        if most > 2 * len(self._cutoffs) * self._ground.companies:
            return None
        who = b"" if self._everybody else self._members.tobytes()
        name = ("events", step, scope.name, self._axis.currency, self._axis.stale_after, who)
        events = self._ground.kept(name, lambda: self._made(step, scope.name, inputs))
        if not len(events):
            return None
        points = events.points
        # kept with the points, so that no others come by their number
        if id(points) not in self._standing:
            self._standing[id(points)] = points, standing(points, self._members, self._cutoffs)
        values, self._ends[scope.name] = events.read(self._standing[id(points)][1])
        return values

    def ends(self, scope: Scope) -> Days | None:
        """The period ends of a scope of which anything was read here."""
        return self._ends.get(scope.name)

    @cached_property
    def _ascend(self) -> bool:
        return len(self._members) > 0 and bool((np.diff(self._members) > 0).all())

    @cached_property
    def _everybody(self) -> bool:
        return len(self._members) == self._ground.companies

    def _made(self, step: Step, name: ScopeName, inputs: Sequence[Leaf]) -> Events:
        points = self._points([name, *_scopes(step)], inputs)
        axis = FiscalAxis(
            self._ground, points, stale_after=self._axis.stale_after, currency=self._axis.currency
        )
        axis.shared = True
        scope = axis.scope_of(name)
        try:
            values = Cellwise(axis).value(step, scope)
        except CurrenciesMeet:
            return Events.none()
        count = len(points.at)
        columns = (values.value, values.reason, values.marks, values.currency, scope.ends)
        value, reason, marks, currency, ends = (
            np.ascontiguousarray(c.reshape(count)) for c in columns
        )
        return Events(points, value, reason, marks, currency, ends)

    def _points(self, scopes: Sequence[ScopeName], inputs: Sequence[Leaf]) -> Points:
        """Each company at every instant at which anything that is looked at may be another."""
        runs = [self._own(*run) for run in self._runs(scopes, inputs)]
        before = min((int(at.min()) for _, at in runs if len(at)), default=0) - 1
        runs.append((self._members, np.full(len(self._members), before)))
        company, at = (np.concatenate([run[n] for run in runs]) for n in (0, 1))
        order = in_order(company, at)
        company, at = company[order], at[order]
        last = group_ends(company, at)
        points = Points(company[last], at[last])
        return self._ground.kept(("points", sha256(points.name).digest()), lambda: points)

    def _runs(self, scopes: Sequence[ScopeName], inputs: Sequence[Leaf]) -> Iterator[Run]:
        for timeline in {id(t): t for t in map(self._axis.timeline, inputs)}.values():
            yield key_company(timeline.key), timeline.at
        items = {leaf.item.code: leaf.item for leaf in inputs}.values()
        known = [*map(self._ground.figures, items), *map(self._ground.statement, items)]
        for presence in {id(p): p for p in known}.values():
            yield key_company(presence.key), presence.at
        templates = self._ground.attributes.steps("template")
        yield templates.entity, templates.at
        for found, _ in dict.fromkeys(scopes):
            yield self._stale_from(found)

    def _stale_from(self, found: Sequence[Leaf]) -> Run:
        """When the period end of a scope becomes stale,
        where no newer one was known by then (F12).
        """
        moves, end = self._axis.ends_by_moves(found)
        stale = (end.astype(np.int64) + self._axis.stale_after + 1) * DAY
        until = np.append(moves.at[1:], _NEVER)
        until[:-1][moves.company[1:] != moves.company[:-1]] = _NEVER
        falls = (moves.row >= 0) & (stale > moves.at) & (stale < until)
        return moves.company[falls], stale[falls]

    def _own(self, company: Rows, at: Instants) -> Run:
        if self._everybody or not len(company):
            return company, at
        wanted = np.zeros(self._ground.companies, np.bool_)
        wanted[self._members] = True
        own = wanted[company]
        return company[own], at[own]


def _worth(step: Step) -> bool:
    """Whether a step is more than a look at a timeline, and of fiscal figures alone."""
    if isinstance(step, Leaf):
        return step.months != 0 or not step.moves_period
    return (
        isinstance(step, Apply)
        and step.unit.kind == "number"
        and cellwise(step)
        and any(isinstance(part, Leaf) for part in parts(step))
    )


def _scopes(step: Step) -> list[ScopeName]:
    """The scopes that comparisons in a step open."""
    return [scope_name(part) for part in parts(step) if isinstance(part, Compare | Member)]
