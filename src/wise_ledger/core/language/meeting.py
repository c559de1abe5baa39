"""What may stand beside what: units that meet, numbers and truths in their places,
texts that are codes.
"""

from dataclasses import replace

from wise_ledger.core.language import tree
from wise_ledger.core.language.codes import code_of, near_codes
from wise_ledger.core.language.functions.function import Function, UnitRefused
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.language.plan import Apply, Constant, Field, Step, TextConstant
from wise_ledger.core.language.tree import Node
from wise_ledger.core.language.units import NAMED, Unit, meet
from wise_ledger.core.language.vocabulary import Vocabulary


class Meeting:
    """What may stand beside what in one expression;
    whatever may not is an `ExpressionError` with its place.
    """

    def __init__(self, text: str, vocabulary: Vocabulary) -> None:
        self._text = text
        self._vocabulary = vocabulary

    def number(self, node: Node, step: Step) -> Step:
        if step.unit.kind != "number":
            raise self._error(
                node, f"this is a {step.unit.name}, not a number", "use a number here"
            )
        return step

    def truth(self, node: Node, step: Step) -> Step:
        if step.unit.kind != "truth":
            raise self._error(
                node,
                f"this is {step.unit.name}, not yes or no",
                "compare it with something, such as > 0",
            )
        return step

    def meet(self, node: Node, *sides: tuple[Node, Step]) -> Unit:
        (first, a), *rest = sides
        unit = a.unit
        for part, step in rest:
            found = meet(unit, step.unit)
            if found is None:
                raise self._clash(node, first, unit, part, step.unit)
            unit = found
        return unit

    def coded(self, left: tuple[Node, Step], right: tuple[Node, Step]) -> tuple[Step, Step]:
        """Texts beside an attribute, as its codes; one that is none is refused with what exists."""
        (first, a), (second, b) = left, right
        if isinstance(a, Field) and isinstance(b, TextConstant):
            return a, self._code(a.name, second, b)
        if isinstance(b, Field) and isinstance(a, TextConstant):
            return self._code(b.name, first, a), b
        return a, b

    def within_bounds(self, *sides: tuple[Node, Step]) -> None:
        """A function that cannot give what is written beside it: 90 for 90 %."""
        for (_, of), (literal, number) in (sides, sides[::-1]):
            if not (
                isinstance(of, Apply)
                and isinstance(number, Constant)
                and of.function.highest is not None
            ):
                continue
            if abs(number.value) > of.function.highest:
                percent = f"{self._quote(literal)}%"
                problem = f"{of.function.name} is a fraction from 0 to 1, so this is never reached"
                raise self._error(
                    literal,
                    problem,
                    f"write {percent}" if abs(number.value) <= 100 else "write 90%",
                )

    def result(self, node: Node, function: Function, unit: Unit) -> Unit:
        try:
            return function.result(unit)
        except UnitRefused as refused:
            raise self._error(node, refused.problem, refused.mend) from None

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
        if "truth" in (a.kind, b.kind):
            test = self._quote(first if a.kind == "truth" else second)
            return self._error(node, problem, f"write {test}, or not {test}, without a comparison")
        if "text" in (a.kind, b.kind):
            other = first if b.kind == "text" else second
            quoted = f'write it in quotes: "{self._quote(other)}"'
            return self._error(
                other,
                problem,
                quoted if isinstance(other, tree.Number) else "compare texts with texts",
            )
        return self._error(node, problem, "bring both to one unit, by a quotient for example")

    def _code(self, attribute: str, node: Node, text: TextConstant) -> TextConstant:
        known = self._vocabulary.values(attribute)
        code = code_of(attribute, text.value, known)
        if code is None:
            raise self._error(
                node,
                f"there is no {attribute} {text.value}",
                near_codes(attribute, text.value, known),
            )
        return replace(text, value=code)

    def _quote(self, node: Node) -> str:
        return self._text[node.place.begin : node.place.end]

    def _error(self, node: Node, problem: str, mend: str) -> ExpressionError:
        return ExpressionError(self._text, node.place, problem, mend)
