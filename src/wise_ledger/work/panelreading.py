"""What is read of a panel at once: its size, its first rows, how its columns lie."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from wise_ledger.core.answers.reasons import CODES
from wise_ledger.core.errors import bad_input
from wise_ledger.core.panels.summary import ColumnSummary, Extreme, Summing
from wise_ledger.work.panels import Panel
from wise_ledger.work.paneltable import batches

AT_ONCE = 20_000_000  # cells that are answered without an extract
_CELLS_A_SECOND = 4_000_000

__all__ = [
    "AT_ONCE",
    "Extreme",
    "FirstRows",
    "Size",
    "Summarised",
    "first_rows",
    "refuse_large",
    "size_of",
]


@dataclass(frozen=True)
class Size:
    """How large a panel is before its condition, and how long it takes, about."""

    companies: int
    dates: int
    rows: int
    cells: int
    seconds: float


def size_of(panel: Panel) -> Size:
    """The size of a panel, none of it evaluated."""
    companies, dates = panel.question.counted.members.shape
    cells = panel.most_rows * len(panel.columns)
    grid = companies * dates * len(panel.columns)
    return Size(companies, dates, panel.most_rows, cells, round(0.05 + grid / _CELLS_A_SECOND, 2))


def refuse_large(panel: Panel) -> None:
    """Raises `BadInput` where a panel is too large to be answered at once."""
    size = size_of(panel)
    if size.cells > AT_ONCE:
        problem = (
            f"this panel has {size.cells:,} cells: more than {AT_ONCE:,} are not answered at once"
        )
        raise bad_input(
            "expressions",
            f"{size.rows:,} rows",
            problem,
            "ask for it as an extract: POST /extracts",
        )


def refuse_more_rows(panel: Panel, most: int, form: str) -> None:
    """Raises `BadInput` where a kind of file cannot hold so many rows."""
    if panel.most_rows > most:
        problem = f"{form} holds {most:,} rows at the most"
        raise bad_input(
            "format", f"{panel.most_rows:,} rows", problem, "ask for parquet, arrow or csv"
        )


@dataclass(frozen=True)
class Summarised:
    """How the columns of a panel lie; `unknown` are rows whose condition is
    neither true nor false, by reason.
    """

    columns: tuple[ColumnSummary, ...]
    rows: int
    unknown: Mapping[str, int]


@dataclass(frozen=True)
class FirstRows(Summarised):
    """The first rows of its table; `total` is None where not all of it was evaluated."""

    heads: tuple[str, ...]
    records: list[dict[str, Any]]
    total: int | None


def summarise(panel: Panel) -> Summarised:
    """How the columns lie; the whole panel is evaluated, none of it kept."""
    summing = Summing(panel.columns)
    for block in panel.blocks():
        summing.add(block)
    return Summarised(summing.columns(), summing.rows, _unknown(summing))


def first_rows(panel: Panel, layout: str, limit: int, *, with_summary: bool) -> FirstRows:
    """The first rows; with a summary all of the panel is evaluated."""
    summing = Summing(panel.columns)
    heads: tuple[str, ...] = ()
    records: list[dict[str, Any]] = []
    count, whole = 0, True
    for batch in batches(panel, layout, summing):
        heads = heads or tuple(batch.schema.names)
        count += batch.num_rows
        records += batch.slice(0, max(0, limit - len(records))).to_pylist()
        if len(records) >= limit and not with_summary and count > limit:
            whole = False
            break
    summary = Summarised(summing.columns(), summing.rows, _unknown(summing))
    return FirstRows(
        summary.columns, summary.rows, summary.unknown, heads, records, count if whole else None
    )


def _unknown(summing: Summing) -> dict[str, int]:
    return {str(CODES[n]): count for n, count in summing.unknown.items()}
