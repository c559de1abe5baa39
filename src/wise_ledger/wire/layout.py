"""Tidy rows laid out as a grid: one thing down, another across, a value in each cell."""

from collections import Counter
from typing import Literal

from wise_ledger.wire.rows import Rows

Layout = Literal["tidy", "wide", "turned"]


def laid(
    rows: Rows, layout: Layout, *, down: str | tuple[str, ...], across: str, value: str
) -> Rows:
    """`wide`: `down` stands down and `across` across; `turned` on its side.

    Empty where there is no value. Where several columns stand down, a head that they make is their
    words one after the other. Of two values for one cell the second begins another line.
    """
    downs = (down,) if isinstance(down, str) else down
    names = (across,) if layout == "turned" else downs

    def head(row: dict[str, object]) -> str:
        return " ".join(str(row[d]) for d in downs) if layout == "turned" else str(row[across])

    heads = list(dict.fromkeys(head(row) for row in rows))
    if layout == "turned" and downs[0] in ("date", "period_end"):
        heads.sort()
    lines: dict[tuple[str, ...], list[dict[str, object]]] = {}
    filled: Counter[tuple[tuple[str, ...], str]] = Counter()
    for row in rows:
        key, own = tuple(str(row[n]) for n in names), head(row)
        of_key, place = lines.setdefault(key, []), filled[key, own]
        if place == len(of_key):
            of_key.append({n: row[n] for n in names} | dict.fromkeys(heads))
        of_key[place][own] = row[value]
        filled[key, own] += 1
    every = (line for of_key in lines.values() for line in of_key)
    return Rows((*names, *heads), every, {**rows.context, "value": value})
