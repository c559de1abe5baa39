"""Tidy rows laid out as a grid: one thing down, another across, a value in each cell."""

from typing import Literal

from wise_ledger.wire.rows import Rows

Layout = Literal["tidy", "wide", "turned"]


def laid(
    rows: Rows, layout: Layout, *, down: str | tuple[str, ...], across: str, value: str
) -> Rows:
    """`wide`: `down` stands down and `across` across; `turned` on its side.

    Empty where there is no value.

    Where several columns stand down, a head that they make is their words one after the other.
    """
    downs = (down,) if isinstance(down, str) else down
    names = (across,) if layout == "turned" else downs

    def head(row: dict[str, object]) -> str:
        return " ".join(str(row[d]) for d in downs) if layout == "turned" else str(row[across])

    heads = list(dict.fromkeys(head(row) for row in rows))
    if layout == "turned" and downs[0] in ("date", "period_end"):
        heads.sort()
    lines: dict[tuple[str, ...], dict[str, object]] = {}
    for row in rows:
        key = tuple(str(row[n]) for n in names)
        line = lines.setdefault(key, {**{n: row[n] for n in names}, **dict.fromkeys(heads)})
        line[head(row)] = row[value]
    return Rows((*names, *heads), lines.values(), {**rows.context, "value": value})
