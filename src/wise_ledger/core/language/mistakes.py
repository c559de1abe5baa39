"""Errors in an expression: position, quote and mend."""

from wise_ledger.core.errors import BadInput, Problem
from wise_ledger.core.language.tree import Place


class ExpressionError(BadInput):
    """An expression that cannot be used; the problem quotes the place with line and column."""

    title = "The expression cannot be used"

    def __init__(self, text: str, place: Place, problem: str, mend: str) -> None:
        self.place = place
        quote = text[place.begin : place.end] or "the end of the expression"
        at = f"line {place.line}, column {place.column}"
        lines = text.split("\n")
        line = lines[place.line - 1] if place.line <= len(lines) else ""
        super().__init__(Problem(at, quote, problem, mend, line))


def place_at(text: str, begin: int, end: int) -> Place:
    """The place of text[begin:end], with its line and column."""
    begin = min(begin, len(text))
    line = text.count("\n", 0, begin) + 1
    return Place(begin, max(begin, end), line, begin - (text.rfind("\n", 0, begin) + 1) + 1)
