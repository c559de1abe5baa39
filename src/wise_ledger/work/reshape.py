"""Tables of other shapes, turned into rows of facts: a mapping file in YAML says what is where.

A wide table has items down and periods across, the scale in its head, notes between its rows:

    company: AGK@ZALD            # or {column: 2}: each row names its own in that column
    unit: USD
    head: 4                      # the line with the periods; lines are counted from 1
    scale: head                  # "in thousands" above the head; or a power of ten; 0 if left out
    labels: 1                    # the column with the labels; columns are counted from 1
    items:
      Turnover: revenue
      Profit for the year: net_income
      Cost of turnover: {item: cost_of_revenue, sign: -1}
      Shares in issue: {item: shares_outstanding, unit: shares, scale: 0}
    periods:
      "2022": {start: 2022-01-01, end: 2022-12-31, published_at: 2023-03-01}
      "2023": {start: 2023-01-01, end: 2023-12-31, published_at: 2024-03-01}
    skip: [Note, Continuing operations]   # beginnings of labels that are no figures
"""

import re
from collections.abc import Iterator, Mapping
from decimal import Decimal, InvalidOperation
from typing import Annotated, Any, Literal

from pydantic import Field

from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.words import counted
from wise_ledger.work.mappingfile import MappingPart, Text, read_mapping, short_for
from wise_ledger.work.tablefile import Line, read_grid

_SCALES = {"thousand": 3, "'000": 3, "000s": 3, "million": 6, "mn": 6, "billion": 9, "bn": 9}


class _Column(MappingPart):
    column: int = Field(ge=1)


class _To(MappingPart):
    """What a label means: an item, and how its figures are turned and scaled."""

    item: Text
    sign: Literal[1, -1] = 1
    unit: Text | None = None
    scale: int | None = Field(None, ge=-12, le=12)


class _Span(MappingPart):
    start: Text | None = None
    end: Text
    published_at: Text | None = None
    fiscal_period: Text | None = None


class Shape(MappingPart):
    """What a mapping file says; lines and columns count from 1."""

    company: _Column | Text  # or the column that names it
    unit: Text
    head: int = Field(ge=1)
    items: dict[Text, Annotated[_To, short_for("item")]] = Field(min_length=1)
    periods: dict[Text, _Span] = Field(min_length=1)
    scale: Annotated[int, Field(ge=-12, le=12)] | Literal["head"] = 0
    labels: int = Field(1, ge=1)
    skip: tuple[Text, ...] = ()
    basis: Text | None = None
    source: Text | None = None


def read_shape(text: str, known: Mapping[str, Item]) -> Shape:
    """A mapping file; `known` are the items there are.

    Raises `BadInput` with what is wrong in it.
    """
    shape = read_mapping(text, Shape, "docs/collecting.md")
    for label, to in shape.items.items():
        if to.item not in known:
            raise bad_input(
                f"items, {label}", to.item, "there is no such item", mend_for(to.item, known)
            )
    return shape


def reshape(
    content: bytes, shape: Shape, known: Mapping[str, Item]
) -> tuple[list[Line], list[tuple[int, Problem]]]:
    """A wide table as rows of facts, and the rows of it that cannot be read, each with its line."""
    grid = read_grid(content)
    if len(grid) < shape.head:
        raise bad_input(
            "head",
            shape.head,
            f"the file has {counted(len(grid), 'line')}",
            "name the line with the periods",
        )
    columns = {
        n: str(cell).strip()
        for n, cell in enumerate(grid[shape.head - 1])
        if str(cell).strip() in shape.periods
    }
    if not columns:
        heads = ", ".join(str(c) for c in grid[shape.head - 1])
        raise bad_input(
            "head", heads, "none of these is one of the periods", f"name {', '.join(shape.periods)}"
        )
    power = _scale_of(grid[: shape.head]) if shape.scale == "head" else int(shape.scale)
    rows: list[Line] = []
    bad: list[tuple[int, Problem]] = []
    for number, cells in enumerate(grid[shape.head :], start=shape.head + 1):
        label = str(cells[shape.labels - 1]).strip() if len(cells) >= shape.labels else ""
        cells_of = [
            (n, str(cells[n]).strip()) for n in columns if n < len(cells) and str(cells[n]).strip()
        ]
        if not cells_of or not label or label.startswith(shape.skip or ("\0",)):
            continue  # a note, a heading, or an empty line
        try:
            company = shape.company
            if isinstance(company, _Column):
                company = (
                    str(cells[company.column - 1]).strip() if len(cells) >= company.column else ""
                )
            rows += _row(number, label, cells_of, columns, shape, known, company, power)
        except BadInput as error:
            bad.append((number, error.problems[0]))
    return rows, bad


def _row(
    number: int,
    label: str,
    cells_of: list[tuple[int, str]],
    columns: dict[int, str],
    shape: Shape,
    known: Mapping[str, Item],
    company: str,
    power: int,
) -> Iterator[Line]:
    to = shape.items.get(label)
    if to is None:
        raise bad_input(
            "label",
            label,
            "no item is known for this label",
            mend_for(label, shape.items),
        )
    item = known[to.item]
    unit = to.unit or {"money": shape.unit, "money_per_share": f"{shape.unit}/shares"}.get(
        item.unit, item.unit
    )
    own = to.scale if to.scale is not None else power if item.unit == "money" else 0
    for n, text in cells_of:
        period = shape.periods[columns[n]]
        cells = {"company": company, "item": item.code, "period_end": period.end, "unit": unit}
        if item.nature is Nature.FLOW and period.start is not None:
            cells["period_start"] = period.start
        beside = {"published_at": period.published_at, "fiscal_period": period.fiscal_period,
                  "basis": shape.basis, "source": shape.source}  # fmt: skip
        cells |= {name: value for name, value in beside.items() if value is not None}
        cells["value"] = str(_number(text) * to.sign)
        yield Line(number, {**cells, "scale": str(own)})


def _number(text: str) -> Decimal:
    """A figure as people write it: thousands set apart, negatives in parentheses or with a dash."""
    plain = re.sub(r"[\s,'\u00a0\u202f]", "", text).replace("\u2212", "-").replace("\u2013", "-")
    if plain.startswith("(") and plain.endswith(")"):
        plain = f"-{plain[1:-1]}"
    try:
        return Decimal(plain)
    except InvalidOperation:
        raise bad_input(
            "value", text, "this is no number", "write it with digits, or skip the row"
        ) from None


def _scale_of(lines: list[list[Any]]) -> int:
    text = " ".join(str(cell) for line in lines for cell in line).lower()
    found = {
        power for word, power in _SCALES.items() if re.search(rf"(?<![a-z]){re.escape(word)}", text)
    }
    if len(found) != 1:
        problem = "the head says no scale" if not found else "the head says more than one scale"
        raise bad_input(
            "scale", text[:80], problem, "write scale: 3 for thousands, 6 for millions, 0 for units"
        )
    return found.pop()
