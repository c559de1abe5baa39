"""The fiscal axis read as of cut-offs: of each scope the period end E (F11), and its leaves at E.

Where companies are looked at is a matter of `Places`: on dates, or at the instants at which
something became known.
"""

from collections.abc import Sequence
from dataclasses import replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.catalogue.items import Item
from wise_ledger.core.fiscal.missing import reason_at_end, reason_at_no_end
from wise_ledger.core.language.plan import Leaf, Step
from wise_ledger.core.language.scope import Found, Scope, ScopeName, scope_name
from wise_ledger.core.money.currencies import NO_CURRENCY
from wise_ledger.core.records.limits import Limits
from wise_ledger.core.time.periods import NO_END, Days, shift_months
from wise_ledger.core.timelines.asof import Presence, standing
from wise_ledger.core.timelines.joint import FormName, Joint
from wise_ledger.core.timelines.keys import Keys, Rows, State, key_end, make_keys
from wise_ledger.core.timelines.merge import gather
from wise_ledger.core.timelines.moves import Moves
from wise_ledger.core.timelines.places import Places
from wise_ledger.core.timelines.timeline import Timeline


class FiscalGround(Protocol):
    """Figures of all companies, as the ledger knows them."""

    @property
    def limits(self) -> Limits:
        """What people said of how old a figure may be."""

    def timeline(self, item: Item, form: str, first: bool, currency: int | None = None) -> Timeline:
        """The item's figures of one form;
        those formed of parts in several currencies in the one given (M2).
        """

    def joint(self, leaves: tuple[FormName, ...], currency: int | None = None) -> Joint:
        """Several figures side by side, to find the period end they share."""

    def figures(self, item: Item) -> Presence:
        """Any figure of the item."""

    def statement(self, item: Item) -> Presence:
        """Any figure of the item's statement."""

    def applicable(self, item: Item, places: Places) -> NDArray[np.bool_]:
        """Whether each company's template has the item."""


class FiscalAxis:
    """Scopes and leaves at some places.

    With `ends` given, of the shape of the places, the period is asked for by name: E is that, and
    nothing is stale (F11). Without `stale_after` the limit of the ground counts (F12). `currency`
    is the one in which figures formed of parts in several stand (M2).
    """

    def __init__(
        self,
        ground: FiscalGround,
        places: Places,
        *,
        ends: Days | None = None,
        stale_after: int | None = None,
        currency: int | None = None,
    ) -> None:
        self.places = places
        self.stale_after = ground.limits.stale_after if stale_after is None else stale_after
        self.currency = currency
        self.shared = False  # whether scopes are asked for more than once, and kept
        self._ground = ground
        self._given_ends = ends
        self._scopes: dict[ScopeName, Scope] = {}
        self._newest: dict[tuple[int, bytes], tuple[Moves, Rows]] = {}
        self._templates: dict[frozenset[str], NDArray[np.bool_]] = {}

    @property
    def named(self) -> bool:
        """Whether the period is asked for by name."""
        return self._given_ends is not None

    def timeline(self, leaf: Leaf) -> Timeline:
        """The figures of a leaf."""
        return self._ground.timeline(leaf.item, leaf.form, leaf.first, self.currency)

    def scope(self, step: Step) -> Scope:
        """The scope that a step opens, or stands in."""
        return self.scope_of(scope_name(step))

    def scope_of(self, name: ScopeName) -> Scope:
        """The scope of this name; its period ends are found when they are asked for."""
        if name not in self._scopes:
            found, per_share = name
            scope = Scope(found, per_share, lambda: self._found(found))
            if not self.shared:
                return scope
            self._scopes[name] = scope
        return self._scopes[name]

    def leaf(self, leaf: Leaf, scope: Scope) -> Values:
        """The figures of a leaf at E, or so many months before."""
        timeline = self.timeline(leaf)
        rows = (
            scope.found.rows.get((leaf.item.code, leaf.form, leaf.first))
            if leaf.moves_period
            else None
        )
        if rows is None:
            return self._at_end(leaf, timeline, scope)
        return self._read(timeline, rows, scope.reason)

    def observation(self, item: Item) -> Values:
        """F14: the last observation known at each date; missing, `stale`,
        after the item's limit.
        """
        timeline = self._ground.timeline(item, "", False)
        rows = self.places.newest(timeline.moves, timeline.key)
        state = gather(timeline.state, rows.ravel(), State.ABSENT).reshape(rows.shape)
        seen = key_end(gather(timeline.key, rows.ravel(), 0)).reshape(rows.shape).astype(np.int64)
        old = np.zeros(rows.shape, np.bool_)
        if item.stale_after is not None:
            old = self.places.days - seen > item.stale_after
        reason = np.select(
            [state == State.ABSENT, state == State.WITHDRAWN, old],
            [Reason.NOT_KNOWN, Reason.WITHDRAWN, Reason.STALE],
            Reason.NONE,
        ).astype(np.uint8)
        return self._read(timeline, rows, reason)

    def end(self, leaf: Leaf, scope: Scope) -> Days:
        """The nominal end of a leaf: E, or so many months before; day 0 where there is no E."""
        ends = np.where(scope.ends != NO_END, scope.ends, 0).astype(np.int32)
        return shift_months(ends.ravel(), -leaf.months).reshape(self.places.shape)

    def start(self, leaf: Leaf, scope: Scope) -> Days:
        """The nominal start of a flow that ends then; day 0 where there is no figure of it."""
        timeline, end = self.timeline(leaf), self.end(leaf, scope)
        keys = make_keys(self.places.company, end.ravel())
        rows = standing(timeline, keys, self.places.at)
        return gather(timeline.start, rows, 0).reshape(end.shape)

    # ---- the period end

    def _found(self, found: Sequence[Leaf]) -> Found:
        shape = self.places.shape
        if self._given_ends is not None or not found:
            ends = (
                np.full(shape, NO_END, np.int32) if self._given_ends is None else self._given_ends
            )
            return Found(ends, np.zeros(shape, np.uint8), {})
        movers = {(f.item.code, f.form, f.first): f for f in found if f.moves_period}
        if not movers:
            ends = self._statement_end(found)
            reason = np.zeros(shape, np.uint8)
            if (none := ends == NO_END).any():
                reason = np.where(none, self._no_end(found, none), reason)
            return self._stale(Found(ends, reason, {}))
        joint = self._ground.joint(tuple(movers), self.currency)
        at_rows = self.places.newest(joint.moves, joint.key)
        state = gather(joint.state, at_rows.ravel(), State.ABSENT).reshape(shape)
        has_end = state == State.VALUE
        key = gather(joint.key, at_rows.ravel(), 0).reshape(shape)
        # A withdrawn end is kept too: it is where the figure stood, and where
        # its versions are to be found.
        ends = np.where(state != State.ABSENT, key_end(key), NO_END).astype(np.int32)
        reason = np.where(
            state == State.WITHDRAWN, np.uint8(Reason.WITHDRAWN), np.uint8(Reason.NONE)
        )
        if (absent := state == State.ABSENT).any():
            reason = np.where(absent, self._no_end(list(movers.values()), absent), reason)
        rows = {}
        for (name, leaf), own in zip(movers.items(), joint.rows, strict=True):
            row = gather(own, at_rows.ravel(), -1).reshape(shape)
            rows[name] = np.where(
                has_end & (row >= 0), row + self.places.starts(self.timeline(leaf).key), -1
            )
        return self._stale(Found(ends, reason, rows))

    def _stale(self, found: Found) -> Found:
        old = (found.ends != NO_END) & (
            self.places.days - found.ends.astype(np.int64) > self.stale_after
        )
        reason = np.where(old & (found.reason == 0), np.uint8(Reason.STALE), found.reason)
        return replace(found, reason=reason)

    def _statement_end(self, found: Sequence[Leaf]) -> Days:
        both = self._statements(found)
        return both.ends(self.places.newest(both.moves, both.key))

    def _statements(self, found: Sequence[Leaf]) -> Presence:
        return Presence.union([self._ground.statement(leaf.item) for leaf in found])

    def ends_by_moves(self, found: Sequence[Leaf]) -> tuple[Moves, Days]:
        """When the period end of a scope became another one, and which; of all companies."""
        movers = tuple(
            dict.fromkeys((f.item.code, f.form, f.first) for f in found if f.moves_period)
        )
        source: Joint | Presence = (
            self._ground.joint(movers, self.currency) if movers else self._statements(found)
        )
        rows = source.moves.absolute(source.key)
        return source.moves, gather(key_end(source.key), rows, NO_END)

    # ---- why there is none

    def _no_end(self, found: Sequence[Leaf], absent: NDArray[np.bool_]) -> NDArray[np.uint8]:
        """N: without any E, the first input with no value at any end gives
        the reason, else `incomplete`.

        Only where there is none: mostly at the first cut-offs.
        """
        places, index = self.places.those(absent)
        out = np.full(self.places.shape, Reason.INCOMPLETE, np.uint8)
        reason = out[index]
        for leaf in reversed(found):
            timeline = self.timeline(leaf)
            has = self._newest_at(places, timeline.ever, timeline.key) >= 0
            figures, statement = (
                self._newest_at(places, p.moves, p.key) >= 0
                for p in (self._ground.figures(leaf.item), self._ground.statement(leaf.item))
            )
            why = reason_at_no_end(
                self._applicable(leaf)[index], leaf.item.additive, figures, statement
            )
            reason = np.where(has, reason, why).astype(np.uint8)
        out[index] = reason
        return out

    def _newest_at(self, places: Places, moves: Moves, key: Keys) -> Rows:
        """The newest rows at some of the places; the same once asked for is the same again."""
        name = id(moves), places.name
        if name not in self._newest:
            self._newest[name] = moves, places.newest(moves, key)
        return self._newest[name][1]

    def _applicable(self, leaf: Leaf) -> NDArray[np.bool_]:
        templates = leaf.item.templates
        if templates not in self._templates:
            self._templates[templates] = self._ground.applicable(leaf.item, self.places)
        return self._templates[templates]

    # ---- values

    def _read(self, timeline: Timeline, rows: Rows, reason: NDArray[np.uint8]) -> Values:
        flat = rows.ravel()
        nothing = flat < 0
        columns = []
        for column, fill, plain in (
            (timeline.value, np.nan, None),
            (timeline.marks, 0, timeline.only_mark),
            (timeline.currency, NO_CURRENCY, timeline.only_currency),
        ):
            if plain is None:
                out = gather(column, flat, fill)
            else:  # the same in every row
                out = np.full(len(flat), plain, column.dtype)
                out[nothing] = fill
            columns.append(out.reshape(rows.shape))
        return Values(columns[0], reason, columns[1], columns[2])

    def _at_end(self, leaf: Leaf, timeline: Timeline, scope: Scope) -> Values:
        """A leaf read at a given end: shifted ones, and those that do not set E."""
        known = (scope.ends != NO_END).ravel()
        ends = np.where(known, scope.ends.ravel(), 0).astype(np.int32)
        at = self.places.at
        keys = make_keys(self.places.company, shift_months(ends, -leaf.months))
        rows = np.where(known, standing(timeline, keys, at), -1)
        state = gather(timeline.state, rows, State.ABSENT)
        why = np.zeros(len(keys), np.uint8)
        if len(lacks := np.flatnonzero(state != State.VALUE)):
            why[lacks] = reason_at_end(
                state[lacks],
                self._applicable(leaf).ravel()[lacks],
                np.full(len(lacks), leaf.item.additive),
                self._ground.figures(leaf.item).at_end(keys[lacks], at[lacks]),
                self._ground.statement(leaf.item).at_end(keys[lacks], at[lacks]),
            )
        shape = self.places.shape
        reason = np.where(scope.reason == 0, why.reshape(shape), scope.reason)
        return self._read(timeline, np.where(state == State.VALUE, rows, -1).reshape(shape), reason)
