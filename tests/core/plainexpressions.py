"""Expressions as nested tuples, reckoned without the engine; random ones as text and tuples."""

import math
from datetime import date, timedelta
from random import Random
from typing import Any

from tests.core.plainly import BALANCES, FLOWS, STATEMENTS, STEPS, Plain, month_end, saturday

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
