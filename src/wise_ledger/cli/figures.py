"""Figures in words: numbers with thousands and scale, reasons, marks."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wise_ledger.wire.figures import Cell, Column

SEVERAL = "several"  # currencies in one row

# A missing cell says its reason in a word or two; the template a line is not part
# of is shown by the row itself.
REASONS = {
    "not_applicable": "n/a",
    "not_reported": "not reported",
    "not_known": "not known",
    "withdrawn": "withdrawn",
    "stale": "stale",
    "incomplete": "incomplete",
    "not_derivable": "not derivable",
    "not_meaningful": "not meaningful",
    "zero_denominator": "zero denominator",
    "no_rate": "no rate",
    "inactive": "inactive",
    "no_estimates": "no estimates",
}


def distinct_parts(titles: Sequence[str]) -> list[str]:
    """Of titles made of parts the parts that distinguish them;
    what all have in common is said once, elsewhere.

    >>> distinct_parts(["House prices, Isken, adjusted", "House prices, Lindle, adjusted"])
    ['Isken', 'Lindle']
    """
    parts = [[p.strip() for p in title.split(",")] for title in titles]
    shared = set.intersection(*map(set, parts)) if len(parts) > 1 else set()
    return [
        ", ".join(p for p in own if p not in shared) or title
        for own, title in zip(parts, titles, strict=True)
    ]


def in_common(titles: Sequence[str]) -> str:
    """The parts that all of several titles have, in the order of the first."""
    parts = [[p.strip() for p in title.split(",")] for title in titles]
    if len(parts) < 2:
        return ""
    shared = set.intersection(*map(set, parts))
    return ", ".join(p for p in parts[0] if p in shared)


_DECIMALS = {"pure": 3, "money_per_count": 0}  # of what is shown in no scale


def number(value: float, unit: str, *, percent: bool = False) -> str:
    """A value as people read it; money and shares in millions, negatives in parentheses."""
    if percent:
        text = f"{abs(value) * 100:,.1f}"
    elif unit in ("money", "shares"):
        text = f"{abs(value) / 1e6:,.1f}"
    elif unit == "count":  # a rank may stand between two
        text = f"{abs(value):,.1f}".removesuffix(".0")
    else:
        text = f"{abs(value):,.{_DECIMALS.get(unit, 2)}f}"
    return f"({text})" if value < 0 else text


def heading(expression: str, unit: str, percent: bool) -> str:
    """A column's title with its unit and scale."""
    scale = "%" if percent else {"money": "mn", "shares": "mn shares"}.get(unit, "")
    return f"{expression}, {scale}" if scale else expression


def row_currency(cells: Sequence["Cell"]) -> str:
    """What the amounts of a row are in; where that is more than one currency,
    each figure says its own.
    """
    met = {cell.currency for cell in cells if cell.currency}
    return SEVERAL if len(met) > 1 else "".join(met)


def row_texts(
    cells: Sequence["Cell"], columns: Sequence["Column"], template: str | None = None
) -> list[str]:
    """The cells of a row as `cell_text` has them,
    with their currencies where they are in several.
    """
    texts = [cell_text(x, c.unit, c.percent, template) for x, c in zip(cells, columns, strict=True)]
    if row_currency(cells) != SEVERAL:
        return texts
    return [
        f"{x.currency} {text}" if x.currency else text for x, text in zip(cells, texts, strict=True)
    ]


def cell_text(cell: "Cell", unit: str, percent: bool, template: str | None = None) -> str:
    """A cell: the figure, or its reason; of a line that the template does not
    have, which template that is.
    """
    if cell.reason == "not_applicable" and template:
        return f"n/a {template}"
    if cell.value is None:
        return REASONS[cell.reason or "not_known"]
    if isinstance(cell.value, str):
        return cell.value
    return number(cell.value, unit, percent=percent)


def notes(cell: "Cell") -> str:
    """What must be known of a cell: its marks, and that it was restated."""
    words = [m.replace("_", " ") for m in cell.marks]
    return ", ".join([*words, *(["restated"] if cell.restated else [])])


# The same in a sentence, where there is room for one; the console says it in the same words.
WHY = {
    "not_applicable": "The company's statements have no such line.",
    "not_reported": "Its statement, or its row of prices, was known, but without it.",
    "not_known": "Nothing of the kind was known by then.",
    "withdrawn": "It was reported and then taken back.",
    "stale": "The last one known is too old to say anything of that day.",
    "incomplete": "Not all that it is formed from was known.",
    "not_derivable": "It cannot be formed from other periods: it does not add up.",
    "not_meaningful": "The result would mean nothing, such as a growth from a loss.",
    "zero_denominator": "It would be divided by zero.",
    "no_rate": "There is no rate between the currencies for that time, or there are too few.",
    "inactive": "The company was no longer active, or its shares no longer traded.",
    "no_estimates": "No estimate stood then.",
}
