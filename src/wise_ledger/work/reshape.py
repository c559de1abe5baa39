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
from dataclasses import dataclass, field, replace
from decimal import Decimal, InvalidOperation
from typing import Any

import yaml

from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.work.tablefile import Line, read_grid

_SCALES = {"thousand": 3, "'000": 3, "000s": 3, "million": 6, "mn": 6, "billion": 9, "bn": 9}
_KEYS = ("company", "unit", "head", "scale", "labels", "items", "periods", "skip", "basis", "source")
_PERIOD = ("start", "end", "published_at", "fiscal_period")


@dataclass(frozen=True)
class Shape:
    """What a mapping file says; lines and columns count from 1."""

    company: str | int  # or the column that names it
    unit: str
    head: int
    items: dict[str, dict[str, Any]]
    periods: dict[str, dict[str, str]]
    known: Mapping[str, Item]
    scale: int | str = 0
    labels: int = 1
    skip: tuple[str, ...] = ()
    beside: dict[str, str] = field(default_factory=dict)


def read_shape(text: str, known: Mapping[str, Item]) -> Shape:
    """A mapping file; `known` are the items there are. Raises `BadInput` with what is wrong in it."""
    try:
        said = yaml.safe_load(text)
    except yaml.YAMLError as error:
        raise bad_input("mapping", text[:60], f"this is no YAML: {' '.join(str(error).split())}", "mend it") from None
    if not isinstance(said, dict):
        raise bad_input("mapping", text[:60], "this is no mapping", f"give {', '.join(_KEYS)}")
    for key in said:
        if key not in _KEYS:
            raise bad_input("mapping", key, "nothing is called like this", mend_for(str(key), _KEYS))
    for key in ("company", "unit", "head", "items", "periods"):
        if not said.get(key):
            raise bad_input("mapping", key, "it is missing", f"say {key}:, as docs/loading.md does")
    items = {str(label): to if isinstance(to, dict) else {"item": to} for label, to in said["items"].items()}
    for label, to in items.items():
        if to.get("item") not in known:
            mend = mend_for(str(to.get("item")), known)
            raise bad_input(f"items, {label}", to.get("item"), "there is no such item", mend)
    periods = {}
    for name, period in said["periods"].items():
        if not isinstance(period, dict) or "end" not in period or set(period) - set(_PERIOD):
            raise bad_input(f"periods, {name}", period, "this says no period", "give start, end and published_at")
        periods[str(name)] = {k: str(v) for k, v in period.items()}
    beside = {k: str(said[k]) for k in ("basis", "source") if k in said}
    skip = tuple(str(s) for s in said.get("skip", ()))
    company = said["company"]
    if isinstance(company, dict):
        if set(company) != {"column"} or not isinstance(company["column"], int) or company["column"] < 1:
            raise bad_input("company", company, "this names no company", "write its id, or {column: 2}")
        company = company["column"]
    head, labels, scale = said["head"], said.get("labels", 1), said.get("scale", 0)
    if not isinstance(head, int) or not isinstance(labels, int) or not (isinstance(scale, int) or scale == "head"):
        raise bad_input("mapping", said, "head, labels and scale are numbers", "scale may also be: head")
    return Shape(
        company if isinstance(company, int) else str(company),
        str(said["unit"]),
        head,
        items,
        periods,
        known,
        scale,
        labels,
        skip,
        beside,
    )


def reshape(content: bytes, shape: Shape) -> tuple[list[Line], list[tuple[int, Problem]]]:
    """A wide table as rows of facts, and the rows of it that cannot be read, each with its line."""
    grid = read_grid(content)
    if len(grid) < shape.head:
        raise bad_input("head", shape.head, f"the file has {len(grid)} lines", "name the line with the periods")
    columns = {
        n: str(cell).strip() for n, cell in enumerate(grid[shape.head - 1]) if str(cell).strip() in shape.periods
    }
    if not columns:
        heads = ", ".join(str(c) for c in grid[shape.head - 1])
        raise bad_input("head", heads, "none of these is one of the periods", f"name {', '.join(shape.periods)}")
    power = _scale_of(grid[: shape.head]) if shape.scale == "head" else int(shape.scale)
    rows: list[Line] = []
    bad: list[tuple[int, Problem]] = []
    for number, cells in enumerate(grid[shape.head :], start=shape.head + 1):
        label = str(cells[shape.labels - 1]).strip() if len(cells) >= shape.labels else ""
        told = [(n, str(cells[n]).strip()) for n in columns if n < len(cells) and str(cells[n]).strip()]
        if not told or not label or label.startswith(shape.skip or ("\0",)):
            continue  # a note, a heading, or an empty line
        try:
            company = shape.company
            if isinstance(company, int):
                company = str(cells[company - 1]).strip() if len(cells) >= company else ""
            rows += _row(number, label, told, columns, replace(shape, company=company), power)
        except BadInput as error:
            bad.append((number, error.problems[0]))
    return rows, bad


def _row(
    number: int, label: str, told: list[tuple[int, str]], columns: dict[int, str], shape: Shape, power: int
) -> Iterator[Line]:
    to = shape.items.get(label)
    if to is None:
        raise bad_input(
            "label", label, "no item is known for this label", mend_for(label, shape.items) or "map or skip it"
        )
    item = shape.known[to["item"]]
    unit = to.get("unit") or {"money": shape.unit, "money_per_share": f"{shape.unit}/shares"}.get(item.unit, item.unit)
    own = int(to.get("scale", power if item.unit == "money" else 0))
    for n, text in told:
        period = shape.periods[columns[n]]
        cells = {
            "company": str(shape.company),
            "item": item.code,
            "period_end": period["end"],
            "unit": unit,
            **shape.beside,
        }
        if item.nature is Nature.FLOW and "start" in period:
            cells["period_start"] = period["start"]
        cells |= {k: period[k] for k in ("published_at", "fiscal_period") if k in period}
        cells["value"] = str(_number(text) * int(to.get("sign", 1)))
        yield Line(number, {**cells, "scale": str(own)})


def _number(text: str) -> Decimal:
    """A figure as people write it: thousands set apart, negatives in parentheses or with a dash."""
    plain = re.sub(r"[\s,'\u00a0\u202f]", "", text).replace("\u2212", "-").replace("\u2013", "-")
    if plain.startswith("(") and plain.endswith(")"):
        plain = f"-{plain[1:-1]}"
    try:
        return Decimal(plain)
    except InvalidOperation:
        raise bad_input("value", text, "this is no number", "write it with digits, or skip the row") from None


def _scale_of(lines: list[list[Any]]) -> int:
    said = " ".join(str(cell) for line in lines for cell in line).lower()
    found = {power for word, power in _SCALES.items() if re.search(rf"(?<![a-z]){re.escape(word)}", said)}
    if len(found) != 1:
        problem = "the head says no scale" if not found else "the head says more than one scale"
        raise bad_input("scale", said[:80], problem, "write scale: 3 for thousands, 6 for millions, 0 for units")
    return found.pop()
