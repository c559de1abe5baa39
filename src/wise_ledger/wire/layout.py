"""Tidy rows laid out as a grid: one thing down, another across, a value in each cell."""

from typing import Literal

from wise_ledger.wire.rows import Rows

Layout = Literal["tidy", "wide", "turned"]


def laid(rows: Rows, layout: Layout, *, down: str, across: str, value: str) -> Rows:
    """`wide`: `down` stands down and `across` across; `turned` on its side. Empty where there is no value."""
    if layout == "turned":
        down, across = across, down
    heads = list(dict.fromkeys(str(row[across]) for row in rows))
    if layout == "turned":
        heads.sort()
    lines: dict[str, dict[str, object]] = {}
    for row in rows:
        line = lines.setdefault(str(row[down]), {down: row[down], **dict.fromkeys(heads)})
        line[str(row[across])] = row[value]
    return Rows((down, *heads), lines.values(), {**rows.context, "value": value})
