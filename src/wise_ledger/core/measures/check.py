"""Type an expression before any number is touched: tree in, plan out, or an error with its place."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from wise_ledger.core.facts.items import Nature
from wise_ledger.core.measures import tree
from wise_ledger.core.measures.mistakes import ExpressionError
from wise_ledger.core.measures.parse import parse
from wise_ledger.core.measures.plan import Apply, Compare, Constant, Field, Leaf, Member, Seen, Step, TextConstant
from wise_ledger.core.measures.tree import Node
from wise_ledger.core.measures.units import BARE, NAMED, PURE, TEXT, TRUTH, Axis, Unit, meet
from wise_ledger.core.measures.vocabulary import CROSS_SECTION, FUNCTIONS, STANDARD, Vocabulary
from wise_ledger.core.nearest import mend_for

MOST_NODES = 200
_MONTHS = {"mo": 1, "q": 3, "y": 12}


def plan(text: str, vocabulary: Vocabulary = STANDARD) -> Step:
    """The typed plan of an expression; raises `ExpressionError`."""
    return _Checker(text, vocabulary).check(parse(text))


def plan_rule(text: str, vocabulary: Vocabulary = STANDARD) -> Step:
    """The plan of a screen's rule, which must say yes or no."""
    step = plan(text, vocabulary)
    if step.unit.kind != "truth":
        raise ExpressionError(
            text, step.place, f"a rule says yes or no, but this is {step.unit.name}", f"compare it: {text.strip()} > 0"
        )
    return step


class _Checker:
    def __init__(self, text: str, vocabulary: Vocabulary) -> None:
        self._text = text
        self._vocabulary = vocabulary
        self._nodes = 0

    def check(self, node: Node) -> Step:
        step = self._step(node, 0, False, True)
        if not step.unit.listed:
            raise self._error(node, f"the result is {step.unit.name}, which is no unit of a column", "divide it out")
        return step

    def _error(self, node: Node, problem: str, mend: str) -> ExpressionError:
        return ExpressionError(self._text, node.place, problem, mend)

    def _step(self, node: Node, months: int, first: bool, moves: bool) -> Step:
        """`months` and `first` hold for every leaf below; `moves` says whether leaves below can set E (F11)."""
        self._nodes += 1
        if self._nodes > MOST_NODES:
            raise self._error(node, f"the expression has more than {MOST_NODES} parts", "split it into measures")

        def below(part: Node) -> Step:
            return self._step(part, months, first, moves)

        match node:
            case tree.Number(place, value):
                return Constant(replace(BARE, zero=value == 0), Axis.CONSTANT, place, value)
            case tree.Money(place, value, currency):
                return Constant(NAMED["money"], Axis.CONSTANT, place, value, currency)
            case tree.Text(place, text):
                return TextConstant(TEXT, Axis.CONSTANT, place, text)
            case tree.Name():
                return self._name(node, months, first, moves)
            case tree.Minus(place, operand):
                inner = self._number(operand, below(operand))
                if isinstance(inner, Constant):
                    return replace(inner, value=-inner.value, place=place)
                return Apply(inner.unit, inner.axis, place, "minus", (inner,))
            case tree.Arithmetic():
                return self._arithmetic(node, below)
            case tree.Comparison(place, operator, left, right):
                a, b = below(left), below(right)
                if "text" in (a.unit.kind, b.unit.kind) and operator not in ("==", "!="):
                    raise self._error(node, "texts have no order", "compare them with == or !=")
                self._meet(node, (left, a), (right, b))
                return Compare(TRUTH, max(a.axis, b.axis), place, operator, left=a, right=b)
            case tree.Membership(place, operand, negated, members):
                inner = below(operand)
                list_ = tuple(below(m) for m in members)
                for part, step in zip(members, list_, strict=True):
                    self._meet(part, (operand, inner), (part, step))
                found = Member(TRUTH, inner.axis, place, operand=inner, members=list_)
                return Apply(TRUTH, inner.axis, place, "not", (found,)) if negated else found
            case tree.Logic(place, operator, parts):
                steps = tuple(self._truth(p, below(p)) for p in parts)
                return Apply(TRUTH, max(s.axis for s in steps), place, operator, steps)
            case tree.Not(place, operand):
                inner = self._truth(operand, below(operand))
                return Apply(TRUTH, inner.axis, place, "not", (inner,))
            case tree.Call():
                return self._call(node, months, first, moves)
            case tree.Span():
                raise self._error(node, "a span stands only inside a function", "write it as in ago(x, 1y)")
            case tree.Keyword():
                raise self._error(node, f"{node.name}= has no meaning here", "take it out")
        raise AssertionError(node)

    def _name(self, node: tree.Name, months: int, first: bool, moves: bool) -> Step:
        if item := self._vocabulary.items.get(node.name):
            if item.nature is Nature.OBSERVATION:
                if node.selector:
                    problem = f"{node.name} is dated by when it was seen: it has no .{node.selector}"
                    raise self._error(node, problem, f"write {node.name}")
                if months:
                    raise self._error(node, f"{node.name} cannot be shifted in time", "shift items only")
                return Seen(NAMED[item.unit], Axis.DATE, node.place, item=item)
            if item.nature is Nature.FLOW:
                form = node.selector or "ttm"
            elif node.selector in ("", "fy"):
                form = "balance_fy" if node.selector else "balance"
            else:
                mend = f"write {node.name}, or {node.name}.fy for fiscal year ends"
                raise self._error(node, f"{node.name} is a balance: it has no .{node.selector}", mend)
            unit = NAMED[item.unit]
            return Leaf(
                unit, Axis.FISCAL, node.place,
                item=item, form=form, months=months, first=first, moves_period=moves and not months,
            )  # fmt: skip
        if (unit_ := self._vocabulary.fields.get(node.name)) is not None:
            if node.selector:
                raise self._error(node, f"{node.name} is no item: it has no .{node.selector}", f"write {node.name}")
            if months:
                raise self._error(node, f"{node.name} cannot be shifted in time", "shift items only")
            return Field(unit_, Axis.DATE, node.place, node.name)
        if node.name in FUNCTIONS:
            raise self._error(node, f"{node.name} is a function", f"write {FUNCTIONS[node.name].call}")
        raise self._error(
            node, f"there is no item or attribute {node.name}", mend_for(node.name, self._vocabulary.names)
        )

    def _number(self, node: Node, step: Step) -> Step:
        if step.unit.kind != "number":
            raise self._error(node, f"this is a {step.unit.name}, not a number", "use a number here")
        return step

    def _truth(self, node: Node, step: Step) -> Step:
        if step.unit.kind != "truth":
            raise self._error(
                node, f"this is {step.unit.name}, not yes or no", "compare it with something, such as > 0"
            )
        return step

    def _meet(self, node: Node, *sides: tuple[Node, Step]) -> Unit:
        (first, a), *rest = sides
        unit = a.unit
        for part, step in rest:
            found = meet(unit, step.unit)
            if found is None:
                raise self._clash(node, first, unit, part, step.unit)
            unit = found
        return unit

    def _clash(self, node: Node, first: Node, a: Unit, second: Node, b: Unit) -> ExpressionError:
        if a.bare or b.bare:
            amount, (name, unit) = (first, (second, b)) if a.bare else (second, (first, a))
            if unit.money:
                written = self._quote(amount)
                if unit.plain() == NAMED["money"] and written[-1].isdigit():
                    written += "mn"
                mend = f"write an amount with its currency: {written.rstrip('%')} EUR"
                return self._error(amount, f"{self._quote(name)} is {unit.name}", mend)
        problem = f"{self._quote(first)} is {a.name}, {self._quote(second)} is {b.name}"
        return self._error(node, problem, "bring both to one unit, by a quotient for example")

    def _quote(self, node: Node) -> str:
        return self._text[node.place.begin : node.place.end]

    def _arithmetic(self, node: tree.Arithmetic, below: Callable[[Node], Step]) -> Step:
        a, b = self._number(node.left, below(node.left)), self._number(node.right, below(node.right))
        axis = max(a.axis, b.axis)
        if node.operator in "+-":
            unit = self._meet(node, (node.left, a), (node.right, b))
        elif node.operator in "*/":
            unit = a.unit.times(b.unit, 1 if node.operator == "*" else -1)
        elif a.unit.plain() == PURE:
            if b.unit.plain() != PURE:
                raise self._error(node.right, f"the exponent is {b.unit.name}", "use a plain number")
            unit = a.unit if b.axis is Axis.CONSTANT else PURE
        elif isinstance(b, Constant) and b.value == int(b.value):
            unit = a.unit.to_power(int(b.value))
        else:
            raise self._error(node.right, f"a power of {a.unit.name} needs a whole number", "write one, such as 2")
        return Apply(replace(unit, zero=False), axis, node.place, node.operator, (a, b))

    def _call(self, node: tree.Call, months: int, first: bool, moves: bool) -> Step:
        name, function = node.name, FUNCTIONS.get(node.name)
        if function is None:
            raise self._error(node, f"there is no function {name}", mend_for(name, FUNCTIONS))
        keywords = {k.name: k for k in node.arguments if isinstance(k, tree.Keyword)}
        given = [a for a in node.arguments if not isinstance(a, tree.Keyword)]
        for key in keywords.values():
            if not (key.name == "within" and name in CROSS_SECTION):
                raise self._error(key, f"{name} takes no {key.name}=", f"write {function.call}")

        def below(part: Node, shift: int = 0, only_first: bool = first, moving: bool = moves) -> Step:
            return self._step(part, months + shift, only_first, moving)

        if name in ("ago", "change", "growth"):
            return self._shifted(node, given, below)
        if name in CROSS_SECTION:
            if months:
                raise self._error(node, "a cross-section cannot be shifted in time", "shift what is inside it")
            return self._cross_section(node, given, keywords.get("within"), below)
        self._count(node, given, name)
        if name == "first_reported":
            return below(given[0], only_first=True)
        if name == "missing":
            inner = below(given[0], moving=False)
            return Apply(TRUTH, inner.axis, node.place, name, (inner,))
        if name == "where":
            test = self._truth(given[0], below(given[0]))
            a, b = below(given[1]), below(given[2])
            unit = self._meet(node, (given[1], a), (given[2], b))
            return Apply(unit, max(test.axis, a.axis, b.axis), node.place, name, (test, a, b))
        steps = [self._number(part, below(part, moving=moves and name != "coalesce")) for part in given]
        unit = self._meet(node, *zip(given, steps, strict=True))
        if name == "log" or (name == "sqrt" and unit.plain() == PURE):
            unit = PURE
        elif name == "sqrt":
            raise self._error(node, f"a root of {unit.name} has no unit", "divide first, to get a plain number")
        return Apply(unit, max(s.axis for s in steps), node.place, name, tuple(steps))

    def _count(self, node: tree.Call, given: Sequence[Node], name: str) -> None:
        wanted = {"where": (3, 3), "clip": (3, 3), "coalesce": (2, 99), "min": (2, 99), "max": (2, 99)}
        least, most = wanted.get(name, (1, 1))
        if not least <= len(given) <= most:
            number = str(least) if least == most else f"{least} or more"
            mend = f"write {FUNCTIONS[name].call}"
            raise self._error(node, f"{name} takes {number} arguments, not {len(given)}", mend)

    def _shifted(self, node: tree.Call, given: Sequence[Node], below: Callable[..., Step]) -> Step:
        span = given[1] if len(given) > 1 else None
        if not isinstance(span, tree.Span) or len(given) != 2:
            raise self._error(node, "a span is needed", f"write {FUNCTIONS[node.name].call} with a span such as 1y")
        if span.unit == "d":
            raise self._error(
                span, "fiscal figures are not shifted by days", "use months, quarters or years: 3mo, 1q, 1y"
            )
        before = self._number(given[0], below(given[0], span.count * _MONTHS[span.unit]))
        if before.axis is not Axis.FISCAL:
            raise self._error(given[0], "only items, and what is computed from them, can be shifted", "name an item")
        if node.name == "ago":
            return before
        now = below(given[0])
        operator = "-" if node.name == "change" else "growth"
        unit = now.unit if operator == "-" else PURE
        return Apply(unit, now.axis, node.place, operator, (now, before))

    def _cross_section(
        self, node: tree.Call, given: Sequence[Node], within: tree.Keyword | None, below: Callable[..., Step]
    ) -> Step:
        name = node.name
        takes_option = name in ("bucket", "winsor")
        if len(given) != 1 + takes_option:
            call = FUNCTIONS[name].call
            raise self._error(node, f"{name} takes {1 + takes_option} arguments, not {len(given)}", f"write {call}")
        group = None
        if within is not None:
            by = below(within.value)
            if not isinstance(by, Field):
                raise self._error(within.value, "companies are grouped by an attribute", "write within=industry")
            group = by.name
        option = 0.0
        if takes_option:
            value = below(given[1])
            whole = name == "bucket"
            if not isinstance(value, Constant) or not (value.value >= 1 if whole else 0 < value.value < 0.5):
                mend = "write a whole number such as 5" if whole else "write a share below half, such as 1%"
                raise self._error(given[1], f"{name} needs a plain number here", mend)
            option = value.value
        inner = self._number(given[0], below(given[0]))
        unit = inner.unit.plain() if name == "winsor" else NAMED["count"] if name in ("rank", "bucket") else PURE
        return Apply(unit, Axis.CROSS, node.place, name, (inner,), option, group)
