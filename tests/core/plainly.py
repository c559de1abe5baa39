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
from random import Random
from typing import Any

State = tuple[str, float, int] | None
Find = Callable[[int], State]
FLOWS = ("revenue", "operating_income", "net_income")
BALANCES = ("total_assets", "shareholders_equity", "inventory")
STATEMENTS = {**dict.fromkeys(FLOWS, "income"), **dict.fromkeys(BALANCES, "balance")}
STEPS = {"q": 3, "h": 6, "fy": 12, "balance.fy": 12}


def month_number(day: date) -> int:
    """The month whose end is nearest (F2)."""
    own = 12 * day.year + day.month
    return min((own - 1, own), key=lambda number: abs((month_end(number) - day).days))


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
        for fact in sorted(known, key=lambda f: f["published_at"]):  # ties in the order given
            end = month_number(date.fromisoformat(fact["period_end"]))
            start = fact["period_start"]
            span = (
                0 if start is None else end - month_number(date.fromisoformat(start) - timedelta(1))
            )
            self.versions[fact["source"], fact["item"], span, end] = fact["value"]
        self.ends = sorted({end for *_, end in self.versions})
        self._earlier: dict[str, list[Plain]] = {}
        self._states: dict[tuple[str, str, int, str], tuple[State, State]] = {}
        self._facts = known

    # ---- figures of one source

    def into(self, end: int) -> int:
        """Months from the start of the fiscal year."""
        return (end - self.year_end - 1) % 12 + 1

    def of(self, source: str, item: str, span: int) -> Find:
        def find(end: int) -> State:
            key = source, item, span, end
            if key not in self.versions:
                return None
            value = self.versions[key]
            return ("w", math.nan, end - span) if value is None else ("v", value, end - span)

        return find

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

        return find

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

        return find

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

        return find

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
        worlds = self.earlier(item) if form == "first balance" else [self]
        states = [
            next(
                (
                    s
                    for w in worlds
                    if (s := w.of(source, item, 0)(end)) and (w is self or s[0] == "v")
                ),
                None,
            )
            for source in self.sources
        ]
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
                reported = [world.states(item, plain, end, source) for world in self.earlier(item)]
                firsts = (
                    next((s[n] for s in reported if s[n] and s[n][0] == "v"), None) for n in (0, 1)
                )  # type: ignore[index]
                self._states[name] = next(firsts), next(firsts)
            else:
                self._states[name] = (
                    self._reported(item, form, end, source),
                    self._formed(item, form, end, source),
                )
        return self._states[name]

    def _reported(self, item: str, form: str, end: int, source: str) -> State:
        into = self.into(end)
        spans = {"q": 3, "h": 6 if into % 6 == 0 else 0, "fy": 12 if into == 12 else 0, "ttm": 12,
                 "ytd": into if into % 3 == 0 else 0}  # fmt: skip
        return self.of(source, item, spans[form])(end) if spans[form] else None

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


# ---- expressions, as nested tuples: a leaf is ("leaf", item, form), anything else (name, operands …)


def leaves(node: Any, months: int = 0, moves: bool = True) -> list[tuple[str, str, int, bool]]:
    """The leaves that share one period end, in the order written: item, form,
    months before it, whether it sets it.
    """
    kind = node[0]
    if kind == "leaf":
        return [(node[1], node[2], months, moves and not months)]
    if kind == "number" or kind == "compare":
        return []
    if kind == "ago":
        return leaves(node[1], months + node[2], moves)
    if kind in ("growth", "change"):
        return leaves(node[1], months, moves) + leaves(node[1], months + node[2], moves)
    if kind == "average_balance":
        return leaves(node[1], months, moves) + leaves(node[1], months + 12, moves)
    if kind in ("mean", "stdev"):
        return [
            x for n in range(0, node[2], step_of(node)) for x in leaves(node[1], months + n, moves)
        ]
    moves = moves and kind not in ("coalesce", "missing")
    return [x for part in node[1:] for x in leaves(part, months, moves)]


def step_of(node: Any) -> int:
    steps = [
        STEPS[f]
        for _, found, _, _ in leaves(node[1])
        if (f := found.removeprefix("first ")) in STEPS
    ]
    return min(steps) if steps else 12 if node[3] == "y" else 3


Scope = tuple[int | None, str]


def scope_of(plain: Plain, found: list[tuple[str, str, int, bool]]) -> Scope:
    """The period end of a scope (F11, F12), and what makes all of it missing."""
    if not found:
        return None, ""
    movers = [x for x in found if x[3]]
    last = max(plain.ends, default=0)
    every = range(min(plain.ends, default=1), last + 1)
    end, reason = None, ""
    if movers:
        for at in reversed(every):
            states = [plain.figure(i, f, at) for i, f, _, _ in movers]
            if all(s and s[0] == "v" for s in states):
                end = at
                break
            if any(s and s[0] == "w" for s in states):
                end, reason = at, "withdrawn"
                break
    else:
        same = [
            e for _, i, _, e in plain.versions if STATEMENTS[i] in {STATEMENTS[x[0]] for x in found}
        ]
        end = max(same, default=None)
    if end is None:
        for item, form, _, _ in movers or found:
            if not any((s := plain.figure(item, form, at)) and s[0] == "v" for at in every):
                return None, plain.reason(item, None, None)
        return None, "incomplete"
    if not reason and (plain.on - month_end(end)).days > 550:
        reason = "stale"
    return end, reason


def evaluate(plain: Plain, node: Any) -> float | str:
    """A value, or the reason why there is none."""
    return _value(plain, node, scope_of(plain, leaves(node)), 0)


def _value(plain: Plain, node: Any, scope: Scope, months: int, moves: bool = True) -> float | str:
    moves = moves and node[0] not in ("coalesce", "missing")

    def of(part: Any, more: int = 0) -> float | str:
        return _value(plain, part, scope, months + more, moves)

    match node:
        case ("leaf", item, form):
            end, reason = scope
            if reason:
                return reason
            if end is None:
                return plain.reason(item, None, None)
            state = plain.figure(item, form, end - months)
            return (
                state[1] if state and state[0] == "v" else plain.reason(item, state, end - months)
            )
        case ("number", value):
            return float(value)
        case ("ago", x, n):
            return of(x, n)
        case ("growth" | "change" | "average_balance" as kind, x, *rest):
            now, then = of(x), of(x, rest[0] if rest else 12)
            if isinstance(now, str) or isinstance(then, str):
                return now if isinstance(now, str) else then
            if kind == "growth":
                return "not_meaningful" if then <= 0 else now / then - 1
            return now - then if kind == "change" else (now + then) / 2
        case ("mean" | "stdev" as kind, x, span, _):
            values = [of(x, n) for n in range(0, span, step_of(node))]
            there = [v for v in values if not isinstance(v, str)]
            if not there:
                return values[0]
            if 2 * len(there) < len(values) or len(there) < (2 if kind == "stdev" else 1):
                return "incomplete"
            mean = sum(there) / len(there)
            if kind == "mean":
                return mean
            return math.sqrt(sum((v - mean) ** 2 for v in there) / (len(there) - 1))
        case ("coalesce", *parts):
            values = [of(p) for p in parts]
            return next((v for v in values if not isinstance(v, str)), values[0])
        case ("missing", x):
            return float(isinstance(of(x), str))
        case ("where", test, a, b):
            words = of(test)
            return words if isinstance(words, str) else of(a) if words else of(b)
        case ("positive", x):
            value = of(x)
            return "not_meaningful" if not isinstance(value, str) and value <= 0 else value
        case ("compare", operator, a, b):
            own = scope_of(plain, leaves(a, months, moves) + leaves(b, months, moves))
            left, right = (_value(plain, p, own, months, moves) for p in (a, b))
            if isinstance(left, str) or isinstance(right, str):
                return left if isinstance(left, str) else right
            return float({"<": left < right, ">": left > right, ">=": left >= right}[operator])
        case ("and" | "or" as kind, a, b):
            words = [of(a), of(b)]
            decides = 0.0 if kind == "and" else 1.0
            if decides in words:
                return decides
            return next((s for s in words if isinstance(s, str)), 1.0 - decides)
        case ("not", a):
            value = of(a)
            return value if isinstance(value, str) else 1.0 - value
    values = [of(part) for part in node[1:]]
    for value in values:
        if isinstance(value, str):
            return value
    return _reckon(node[0], *values)  # type: ignore[arg-type]


def _reckon(kind: str, a: float, b: float = 0.0) -> float | str:
    if kind == "/":
        return "zero_denominator" if b == 0 else a / b
    return {"+": a + b, "-": a - b, "*": a * b, "max": max(a, b), "min": min(a, b), "abs": abs(a)}[
        kind
    ]


# ---- random ones, as text and as tuples


def money(random: Random, deep: int = 3) -> tuple[str, Any]:
    if deep == 0 or random.random() < 0.35:
        item = random.choice((*FLOWS, *BALANCES))
        if random.random() < 0.12 and item != "inventory":  # whose zeros come with other items
            form = random.choice(("q", "h", "fy", "ttm", "ytd")) if item in FLOWS else "balance"
            written = item if form == "balance" else f"{item}.{form}"
            return f"first_reported({written})", ("leaf", item, f"first {form}")
        if item in FLOWS:
            form = random.choice(("q", "h", "fy", "ttm", "ttm", "ytd"))
            return (item if form == "ttm" and random.random() < 0.5 else f"{item}.{form}"), (
                "leaf",
                item,
                form,
            )
        form = random.choice(("balance", "balance", "balance.fy"))
        return item + form.removeprefix("balance"), ("leaf", item, form)
    a, x = money(random, deep - 1)
    b, y = money(random, deep - 1)
    kind = random.choice(
        (
            "+",
            "-",
            "ago",
            "change",
            "average_balance",
            "mean",
            "coalesce",
            "max",
            "min",
            "abs",
            "where",
        )
    )
    if kind in "+-":
        return f"({a} {kind} {b})", (kind, x, y)
    if kind in ("ago", "change"):
        span = random.choice((3, 6, 12, 24))
        return f"{kind}({a}, {span}mo)", (kind, x, span)
    if kind == "average_balance":
        return f"average_balance({a})", (kind, x)
    if kind == "mean":
        step = step_of((kind, x, 12, "mo"))
        count = random.choice((1, 2, 4))
        return f"mean({a}, {step * count}mo)", (kind, x, step * count, "mo")
    if kind == "abs":
        return f"abs({a})", (kind, x)
    if kind == "where":
        t, z = truth(random, 1)
        return f"where({t}, {a}, {b})", (kind, z, x, y)
    return f"{kind}({a}, {b})", (kind, x, y)


def pure(random: Random, deep: int = 2) -> tuple[str, Any]:
    a, x = money(random, deep)
    b, y = money(random, deep)
    if random.random() < 0.25:
        return f"growth({a}, 1y)", ("growth", x, 12)
    if random.random() < 0.2:
        return f"({a}) / positive({b})", ("/", x, ("positive", y))
    return f"({a}) / ({b})", ("/", x, y)


def truth(random: Random, deep: int = 2) -> tuple[str, Any]:
    if deep == 0 or random.random() < 0.5:
        if random.random() < 0.2:
            a, x = money(random, 1)
            return f"missing({a})", ("missing", x)
        operator = random.choice(("<", ">", ">="))
        if random.random() < 0.5:
            a, x = pure(random, 1)
            return f"{a} {operator} 50%", ("compare", operator, x, ("number", 0.5))
        (a, x), (b, y) = money(random, 1), money(random, 1)
        return f"{a} {operator} {b}", ("compare", operator, x, y)
    (a, x), (b, y) = truth(random, deep - 1), truth(random, deep - 1)
    kind = random.choice(("and", "or", "not"))
    return (f"not ({a})", ("not", x)) if kind == "not" else (f"({a}) {kind} ({b})", (kind, x, y))


def facts_of(random: Random) -> list[dict[str, Any]]:
    """Figures of one company: quarters, cumulative ones, years; restated, withdrawn,
    with gaps, by two sources.
    """
    out = []
    ends = [12 * 2020 + 3 * n for n in range(1, 17)]
    year_end = random.choice((12, 12, 6, 3))
    likely = random.choice((0.3, 0.8, 1.0))
    weeks = random.random() < 0.3  # years of 52 or 53 weeks, which end on a Saturday
    closing = lambda number: saturday(month_end(number)) if weeks else month_end(number)  # noqa: E731
    for item in (*FLOWS, *BALANCES):
        spans = (
            (0,)
            if item in BALANCES
            else random.choice(((3,), (3, 6, 9, 12), (6, 12), (12,), (3, 12), (3, 6, 12)))
        )
        for source in random.choice((("one",), ("one",), ("one", "two"), ("two",))):
            for end in ends:
                into = (end - year_end - 1) % 12 + 1
                for span in spans:
                    cumulative = span in (0, 3, into) or (
                        span == 6 and into == 12 and random.random() < 0.3
                    )
                    if not cumulative or random.random() > likely:
                        continue
                    for again in range(random.choice((1, 1, 1, 2, 3))):
                        late = random.randint(10, 90) + again * random.randint(20, 300)
                        gone = random.random() < (0.25 if again else 0.03)
                        out.append(
                            {
                                "item": item,
                                "source": source,
                                "unit": "USD",
                                "value": None if gone else random.randint(-20, 200),
                                "period_end": str(closing(end)),
                                "period_start": None
                                if span == 0
                                else str(closing(end - span) + timedelta(1)),
                                "published_at": str(
                                    date.fromordinal(month_end(end).toordinal() + late)
                                ),
                            }
                        )
    return [{**f, "year_end": year_end} for f in out]
