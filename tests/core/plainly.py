"""What an expression is by the rules (F7 to F13, N, T5),
reckoned for one company and cut-off in plain Python.

No code of the engine is used: facts are filtered by what was known, then every figure is looked
for, or formed, from scratch. Periods end at month ends, which are numbered: 12 x year + month; a
state is `("v", value, start)`, `("w", nan, start)` where it was withdrawn, or None.
"""

import math
from calendar import monthrange
from collections.abc import Callable, Sequence
from datetime import date, timedelta
from functools import cache
from typing import Any

State = tuple[str, float, int] | None
Find = Callable[[int], State]
FLOWS = ("revenue", "operating_income", "net_income")
BALANCES = ("total_assets", "shareholders_equity", "inventory")
STATEMENTS = {**dict.fromkeys(FLOWS, "income"), **dict.fromkeys(BALANCES, "balance")}
STEPS = {"q": 3, "h": 6, "fy": 12, "balance.fy": 12}


@cache
def month_number(day: date) -> int:
    """The month whose end is nearest (F2)."""
    own = 12 * day.year + day.month
    return min((own - 1, own), key=lambda number: abs((month_end(number) - day).days))


@cache
def month_end(number: int) -> date:
    year, month = divmod(number - 1, 12)
    return date(year, month + 1, monthrange(year, month + 1)[1])


def saturday(day: date) -> date:
    """The one nearest to a day."""
    return day + timedelta((8 - day.weekday()) % 7 - 3)


def first(states: Sequence[State]) -> State:
    """The first with a value, else the first that is withdrawn."""
    return next((s for s in states if s and s[0] == "v"), None) or next(
        (s for s in states if s), None
    )


class Plain:
    """The figures of one company as known at the end of a day;
    its fiscal years end in `year_end`.
    """

    def __init__(
        self, facts: Sequence[dict[str, Any]], on: date, year_end: int, sources: Sequence[str]
    ) -> None:
        self.on, self.year_end, self.sources = on, year_end, sources
        known = [f for f in facts if f["published_at"] <= str(on)]
        self.versions: dict[tuple[str, str, int, int], float | None] = {}
        self.firsts: dict[tuple[str, str, int, int], float] = {}  # of one instant too (T5)
        for fact in sorted(known, key=lambda f: f["published_at"]):  # ties in the order given
            end = month_number(date.fromisoformat(fact["period_end"]))
            start = fact["period_start"]
            span = (
                0 if start is None else end - month_number(date.fromisoformat(start) - timedelta(1))
            )
            self.versions[fact["source"], fact["item"], span, end] = fact["value"]
            if fact["value"] is not None:
                self.firsts.setdefault((fact["source"], fact["item"], span, end), fact["value"])
        self.ends = sorted({end for *_, end in self.versions})
        self._earlier: dict[str, list[Plain]] = {}
        self._states: dict[tuple[str, str, int, str], tuple[State, State]] = {}
        self._found: dict[tuple[str, str, str, int], State] = {}
        self._facts = known

    # ---- figures of one source

    def into(self, end: int) -> int:
        """Months from the start of the fiscal year."""
        return (end - self.year_end - 1) % 12 + 1

    def of(self, source: str, item: str, span: int, *, first: bool = False) -> Find:
        versions = self.firsts if first else self.versions

        def find(end: int) -> State:
            key = source, item, span, end
            if key not in versions:
                return None
            value = versions[key]
            return ("w", math.nan, end - span) if value is None else ("v", value, end - span)

        return find

    def once(self, what: str, source: str, item: str, find: Find) -> Find:
        """The same, looked for once at each end: others are formed of it many times."""

        def found(end: int) -> State:
            key = what, source, item, end
            if key not in self._found:
                self._found[key] = find(end)
            return self._found[key]

        return found

    @staticmethod
    def sum(
        end: int,
        months: int,
        parts: Sequence[tuple[int, int, Find]],
        same: tuple[int, int] | None = None,
    ) -> State:
        """Parts added up: (sign, months before, figure);
        `same` are the places of two that must start together.
        """
        states = [find(end - before) for _, before, find in parts]
        for state, (_, before, _) in zip(states, parts, strict=True):
            if state is None or (before and state[0] == "w"):
                return None
        if same and states[same[0]][2] != states[same[1]][2]:  # type: ignore[index]
            return None
        if any(s[0] == "w" for s in states):  # type: ignore[index]
            return ("w", math.nan, end - months)
        return ("v", sum(p[0] * s[1] for p, s in zip(parts, states, strict=True)), end - months)  # type: ignore[index]

    def quarter(self, source: str, item: str, whole: bool = True) -> Find:
        of = lambda span: self.of(source, item, span)  # noqa: E731

        def find(end: int) -> State:
            less = [
                self.sum(end, 3, [(1, 0, of(n)), (-1, 3, of(n - 3))], (0, 1)) for n in (12, 9, 6)
            ]
            found = [of(3)(end), first(less)]
            if whole and self.into(end) == 12:
                own = self.quarter(source, item, whole=False)
                three = [(1, 0, of(12)), *((-1, n, own) for n in (3, 6, 9))]
                found.append(self.sum(end, 3, three, (0, 3)))
                found.append(
                    self.sum(end, 3, [(1, 0, of(12)), (-1, 6, of(6)), (-1, 3, own)], (0, 1))
                )
            return first(found)

        return self.once(f"quarter {whole}", source, item, find)

    def half(self, source: str, item: str) -> Find:
        of, quarter = (lambda span: self.of(source, item, span)), self.quarter(source, item)

        def find(end: int) -> State:
            if self.into(end) % 6:
                return None
            second = (
                self.sum(end, 6, [(1, 0, of(12)), (-1, 6, of(6))], (0, 1))
                if self.into(end) == 12
                else None
            )
            return first([of(6)(end), second, self.sum(end, 6, [(1, 0, quarter), (1, 3, quarter)])])

        return self.once("half", source, item, find)

    def year(self, source: str, item: str) -> Find:
        of, quarter, half = (
            (lambda s: self.of(source, item, s)),
            self.quarter(source, item),
            self.half(source, item),
        )

        def find(end: int) -> State:
            if self.into(end) != 12:
                return None
            return first([
                of(12)(end), self.sum(end, 12, [(1, 0, half), (1, 6, half)]),
                self.sum(end, 12, [(1, 0, quarter), (1, 3, of(9))]),
                self.sum(end, 12, [(1, n, quarter) for n in (0, 3, 6, 9)]),
            ])  # fmt: skip

        return find

    def so_far(self, source: str, item: str, span: int, reported: bool = True) -> Find:
        quarter = self.quarter(source, item)

        def find(end: int) -> State:
            if self.into(end) != span:
                return None
            total = self.sum(end, span, [(1, n, quarter) for n in range(0, span, 3)])
            return first([self.of(source, item, span)(end), total]) if reported else total

        return self.once(f"{span} months {reported}", source, item, find)

    def trailing(self, source: str, item: str) -> Find:
        year, quarter, half = (
            self.of(source, item, 12),
            self.quarter(source, item),
            self.half(source, item),
        )

        def find(end: int) -> State:
            rolled = [
                self.sum(end, 12, [(1, 0, own), (1, span, year), (-1, 12, own)], (1, 2))
                for span in (9, 6, 3)
                for own in [self.so_far(source, item, span)]
            ]
            return first([
                year(end), self.sum(end, 12, [(1, n, quarter) for n in (0, 3, 6, 9)]), *rolled,
                self.sum(end, 12, [(1, 0, half), (1, 6, half)]),
            ])  # fmt: skip

        return find

    # ---- figures of all sources (T5)

    def earlier(self, item: str) -> "list[Plain]":
        """What was known on each day on which a figure of the item was published."""
        if item not in self._earlier:
            own = [f for f in self._facts if f["item"] == item]
            days = sorted({date.fromisoformat(f["published_at"]) for f in own})
            self._earlier[item] = [Plain(own, day, self.year_end, self.sources) for day in days]
        return self._earlier[item]

    def figure(self, item: str, form: str, end: int) -> State:
        """The item's figure of one form at an end; with `first ` before it,
        as first reported or formed (F10).
        """
        if item in BALANCES:
            return self.balance(item, form, end)
        found = [self.states(item, form, end, source) for source in self.sources]
        reported, formed = [r for r, _ in found], [f for _, f in found]
        for n, state in enumerate([*reported, *formed]):
            if state is not None:
                own = formed[n] if n < len(reported) else None
                return own if state[0] == "w" and own and own[0] == "v" else state
        return None

    def balance(self, item: str, form: str, end: int) -> State:
        if form == "balance.fy" and self.into(end) != 12:
            return None
        first = form == "first balance"
        states = [self.of(source, item, 0, first=first)(end) for source in self.sources]
        found = next((s for s in states if s), None)
        if (
            found is None
            and item == "inventory"
            and any(
                all(
                    (x := self.of(s, t, 0)(end)) and x[0] == "v"
                    for t in ("total_assets", "shareholders_equity")
                )
                for s in self.sources
            )
        ):
            return ("v", 0.0, end)
        return found

    def states(self, item: str, form: str, end: int, source: str) -> tuple[State, State]:
        """The figure as a source reported it, and as it is formed of what it reported."""
        name = item, form, end, source
        if name not in self._states:
            plain = form.removeprefix("first ")
            if form != plain:
                worlds = self.earlier(item)
                formed = (world.states(item, plain, end, source)[1] for world in worlds)
                self._states[name] = (
                    self._reported(item, plain, end, source, first=True),
                    next((s for s in formed if s and s[0] == "v"), None),
                )
            else:
                self._states[name] = (
                    self._reported(item, form, end, source),
                    self._formed(item, form, end, source),
                )
        return self._states[name]

    def _reported(
        self, item: str, form: str, end: int, source: str, *, first: bool = False
    ) -> State:
        into = self.into(end)
        spans = {"q": 3, "h": 6 if into % 6 == 0 else 0, "fy": 12 if into == 12 else 0, "ttm": 12,
                 "ytd": into if into % 3 == 0 else 0}  # fmt: skip
        return self.of(source, item, spans[form], first=first)(end) if spans[form] else None

    def _formed(self, item: str, form: str, end: int, source: str) -> State:
        how = {"q": self.quarter, "h": self.half, "fy": self.year, "ttm": self.trailing}
        find = (
            how[form](source, item)
            if form in how
            else self.so_far(source, item, self.into(end), reported=False)
        )
        return find(end)

    def known(self, item: str | None, statement: str, end: int | None = None) -> bool:
        """Whether any figure of the item (of the statement without one) is
        known, at an end or at any.
        """
        return any(
            (i == item if item else STATEMENTS[i] == statement) and end in (None, e)
            for _, i, _, e in self.versions
        )

    def reason(self, item: str, state: State, end: int | None) -> str:
        """Why there is no figure at an end, or at any."""
        if state is not None:
            return "withdrawn"
        if self.known(item, "", end):
            return "incomplete"
        return "not_reported" if self.known(None, STATEMENTS[item], end) else "not_known"
