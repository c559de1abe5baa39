"""A panel as the rows of a table, batch by batch:
the same columns in the same order through every door.

`wide` has a row a date and company, a column a measure; `tidy` a row a value; `turned` a row a
company and measure, a column a date. Beside each value stands what was asked for; beside an amount
always its currency, unless one was asked: in `turned` once for the row, `several` where its amounts
are in several.
"""

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.cells import mark_names
from wise_ledger.core.answers.reasons import CODES
from wise_ledger.core.errors import bad_input
from wise_ledger.core.language.plan import Leaf, Seen, parts
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.panels.panel import Block, Figures, PanelColumn
from wise_ledger.core.panels.summary import Summing
from wise_ledger.core.time.instants import iso_text
from wise_ledger.core.time.periods import NO_END
from wise_ledger.core.timelines.lineage import UNKNOWN
from wise_ledger.work.panels import Panel
from wise_ledger.work.whom import as_failed

if TYPE_CHECKING:
    import pyarrow as pa

LAYOUTS = ("wide", "tidy", "turned")
_MOST_TURNED = 5_000  # dates that can stand across
_NEVER = np.iinfo(np.int64).max
_SEVERAL = -2  # in the place of a currency's code
_TIDY = ("reason", "currency", "period_end", "known_at", "marks", "source")


@dataclass(frozen=True, eq=False)
class Rows:
    """The cells of a block that are rows, by date, then company:
    the company and date of each, and its place.
    """

    company: NDArray[np.int64]
    date: NDArray[np.int64]
    cell: NDArray[np.int64]

    @classmethod
    def of(cls, block: Block) -> "Rows":
        """The rows of a block."""
        date, company = np.nonzero(block.rows.T)
        return cls(company, date, company * block.rows.shape[1] + date)

    def __len__(self) -> int:
        return len(self.cell)

    def read(self, grid: NDArray[Any]) -> NDArray[Any]:
        """What stands in each row, of (companies, dates)."""
        return np.ravel(grid).take(self.cell, mode="clip")


def batches(
    panel: Panel, layout: str, summing: Summing | None = None
) -> "Iterator[pa.RecordBatch]":
    """The rows of the table, at least one batch; `summing` takes in each block on the way.

    Raises `BadInput`.
    """
    refuse_layout(panel, layout)
    return _batches(panel, layout, summing)


def refuse_layout(panel: Panel, layout: str) -> None:
    """Raises `BadInput` for a panel that cannot be laid out so."""
    if layout != "turned":
        return
    if (dates := len(panel.date_labels)) > _MOST_TURNED:
        mend = f"ask for at most {_MOST_TURNED:,}, or for another layout"
        raise bad_input("layout", layout, f"{dates:,} dates do not stand across", mend)
    if word := next((c.name for c in panel.columns if _is_text(c)), None):
        raise bad_input(
            "layout", layout, f"{word} is no number", "ask for the others alone, or another layout"
        )


def _batches(panel: Panel, layout: str, summing: Summing | None) -> "Iterator[pa.RecordBatch]":
    table = _Table(panel, layout)
    if layout == "turned":
        yield table.turned(summing)
        return
    made = table.wide if layout == "wide" else table.tidy
    for block in panel.blocks():
        if summing is not None:
            summing.add(block)
        yield from made(block)


def context_of(panel: Panel, layout: str) -> dict[str, Any]:
    """How the panel was asked, for a file's metadata."""
    asked, viewpoint = panel.asked, panel.viewpoint
    about = {
        "layout": layout, "list": asked.list, "title": panel.title, "known_on": iso_text(viewpoint.known_on),
        "recorded_by": viewpoint.recorded_by, "batch": panel.batch, "currency": viewpoint.currency,
        "leave_out": sorted(viewpoint.leave_out), "dates": list(asked.dates), "periods": asked.periods,
        "failed": as_failed(panel.failed),
        "where": asked.where, "lag": asked.lag, "at_close": asked.at_close, "first_reported": asked.first,
        "columns": [
            {"name": c.name, "expression": c.expression, "unit": c.unit, "looks_ahead": c.ahead is not None}
            for c in panel.columns
        ],
    }  # fmt: skip
    return {name: value for name, value in about.items() if value not in (None, [], False, 0)}


class _Table:
    def __init__(self, panel: Panel, layout: str) -> None:
        self.panel = panel
        self.beside = tuple(b for b in _TIDY if b in panel.asked.beside)
        self._metadata = {b"context": json.dumps(context_of(panel, layout)).encode()}
        self._currency_named = panel.viewpoint.currency is None and "currency" not in self.beside
        self._sources: dict[str, list[NDArray[np.int64]]] = {}
        self._whose = {"company": panel.ids, "name": panel.names, "symbol": panel.symbols}

    # ---- layouts

    def wide(self, block: Block) -> "Iterator[pa.RecordBatch]":
        """A row a date and company, in that order."""
        rows = Rows.of(block)
        out = self._leading(block, rows)
        for column, figures in zip(self.panel.columns, block.columns, strict=True):
            about = {"expression": column.expression, "unit": column.unit}
            if column.ahead is not None:
                about["looks_ahead"] = column.ahead.words
            out.append((column.name, self._values(figures, rows), about))
            of_money = ("currency",) if column.is_money and self._currency_named else ()
            for name in (*of_money, *self.beside):
                if (array := self._beside(name, column, block, figures, rows)) is not None:
                    out.append((f"{column.name}.{name}", array, {}))
        yield self._batch(out)

    def tidy(self, block: Block) -> "Iterator[pa.RecordBatch]":
        """A row a value: measure by measure, each by date and company."""
        import pyarrow as pa

        rows = Rows.of(block)
        words = any(_is_text(c) for c in self.panel.columns)
        for column, figures in zip(self.panel.columns, block.columns, strict=True):
            values = self._values(figures, rows)
            text = _is_text(column)
            number = pa.nulls(len(rows), pa.float64()) if text else values.cast(pa.float64())
            out = [
                *self._leading(block, rows),
                ("measure", _same(column.name, len(rows)), {}),
                ("value", number, {}),
            ]
            if words:
                plain = values.cast(pa.string()) if text else pa.nulls(len(rows), pa.string())
                out.append(("text", plain, {}))
            out.append(("unit", _same(column.unit, len(rows)), {}))
            for name in dict.fromkeys(("currency", "reason", *self.beside)):
                if any(name == leading for leading, *_ in out):  # a period's end
                    continue
                array = self._beside(name, column, block, figures, rows)
                out.append(
                    (name, array if array is not None else pa.nulls(len(rows), _TYPES[name]()), {})
                )
            yield self._batch(out)

    def turned(self, summing: Summing | None) -> "pa.RecordBatch":
        """A row a company and measure, the dates across, each with what stands beside it."""
        import pyarrow as pa

        panel, labels = self.panel, self.panel.date_labels
        companies, wanted = len(panel.question.members), panel.columns
        grid = np.full((len(wanted), companies, len(labels)), np.nan)
        there = np.zeros(companies, np.bool_)
        # for each date an array a measure
        beside = {name: [[] for _ in labels] for name in self.beside}
        currencies = _Currencies(len(wanted), companies)
        for block in panel.blocks():
            if summing is not None:
                summing.add(block)
            span = slice(block.first, block.first + block.rows.shape[1])
            there |= block.rows.any(axis=1)
            for n, figures in enumerate(block.columns):
                values = figures.values
                grid[n, :, span] = np.where(
                    block.rows & values.there, values.value.astype(np.float64), np.nan
                )
                if wanted[n].is_money:
                    currencies.add(n, values.currency, block.rows & values.there)
                for name, found in beside.items():
                    for place, array in enumerate(
                        self._by_date(name, wanted[n], block, figures), block.first
                    ):
                        found[place].append(array)
        own = np.flatnonzero(there)
        company, measure = np.repeat(own, len(wanted)), np.tile(np.arange(len(wanted)), len(own))
        cell = pa.array(measure * companies + company)
        out: list[tuple[str, Any, Mapping[str, str]]] = [
            (name, _coded(company, words), {}) for name, words in self._whose.items()
        ]
        out.append(("measure", _coded(measure, [c.name for c in wanted]), {}))
        if self._currency_named and any(c.is_money for c in wanted):
            out.append(("currency", currencies.of(measure, company), {}))
        for n, label in enumerate(labels):
            out.append((label, pa.array(grid[measure, company, n], from_pandas=True), {}))
            for name, found in beside.items():
                kind = _TYPES[name]()
                # Of a panel whose reading was stopped the last dates were not read.
                array = (
                    pa.concat_arrays(found[n]).take(cell).cast(kind)
                    if found[n]
                    else pa.nulls(len(cell), kind)
                )
                out.append((f"{label}.{name}", array, {}))
        return self._batch(out)

    def _by_date(
        self, name: str, column: PanelColumn, block: Block, figures: Figures
    ) -> Iterator[Any]:
        """What stands beside the values of each date, for all companies;
        nothing for one that is no row then.
        """
        import pyarrow as pa

        companies, dates = block.rows.shape
        every = Rows.of(replace(block, rows=np.ones_like(block.rows)))
        if name == "period_end" and self.panel.periods is not None:
            assert self.panel.question.ends is not None
            array = _days(self.panel.question.ends[every.company, every.date + block.first])
        else:
            array = self._beside(name, column, block, figures, every)
        if array is None:
            array = pa.nulls(len(every), _TYPES[name]())
        if pa.types.is_dictionary(array.type):  # each has words of its own
            array = array.cast(pa.string())
        array = pa.compute.if_else(pa.array(every.read(block.rows)), array, None)
        return (array.slice(n * companies, companies) for n in range(dates))

    # ---- columns

    def _leading(self, block: Block, rows: Rows) -> list[tuple[str, Any, Mapping[str, str]]]:
        import pyarrow as pa

        panel, company = self.panel, rows.company
        places = rows.date + block.first
        out: list[tuple[str, Any, Mapping[str, str]]] = []
        if panel.periods is None:
            out.append(
                ("date", pa.array(panel.days[places].astype(np.int32)).cast(pa.date32()), {})
            )
        else:
            assert panel.question.ends is not None
            ends = panel.question.ends[company, places]
            out.append(("period", _coded(places, panel.date_labels), {}))
            out.append(("period_end", _days(ends), {}))
        return out + [(name, _coded(company, words), {}) for name, words in self._whose.items()]

    def _values(self, figures: Figures, rows: Rows) -> Any:
        import pyarrow as pa

        values = figures.values
        value, missing = rows.read(values.value), rows.read(values.reason) != 0
        if value.dtype == object:
            return pa.array(np.where(missing, None, value), pa.string()).dictionary_encode()
        return pa.array(value.astype(np.float64, copy=False), mask=missing)

    def _beside(
        self, name: str, column: PanelColumn, block: Block, figures: Figures, rows: Rows
    ) -> Any:
        """What stands beside the values; None where there is no such thing of this column."""
        import pyarrow as pa

        values, reason = figures.values, rows.read(figures.values.reason)
        there = reason == 0
        match name:
            case "reason":
                return _coded(reason, [None, *(str(c) for c in CODES[1:])])
            case "currency" if column.is_money:
                codes, which = np.unique(
                    np.where(there, rows.read(values.currency), -1), return_inverse=True
                )
                return _coded(which, [currency_name(int(c)) for c in codes])
            case "marks":
                codes, which = np.unique(
                    np.where(there, rows.read(values.marks), 0), return_inverse=True
                )
                return _coded(which, ["; ".join(mark_names(int(c))) or None for c in codes])
            case "period_end" if figures.ends is not None and self.panel.periods is None:
                return _days(rows.read(figures.ends))
            case "known_at" if figures.known_at is not None:
                at = rows.read(figures.known_at)
                return pa.array(at, pa.timestamp("us", "UTC"), mask=at == UNKNOWN)
            case "source":
                return self._source(column, block, there, rows)
        return None

    def _source(
        self, column: PanelColumn, block: Block, there: NDArray[np.bool_], rows: Rows
    ) -> Any:
        """The sources that had figures of its items by the cut-off."""
        panel, company, date = self.panel, rows.company, rows.date
        if column.step is None:
            return None
        if column.name not in self._sources:
            self._sources[column.name] = self._first_at(column)
        at = (
            panel.question.cutoffs[0 if panel.periods else date + block.first]
            if panel.question.counted.own is None
            else panel.question.cutoffs[panel.question.counted.own[company, date + block.first]]
        )
        had = np.zeros((len(company), len(self._sources[column.name])), np.bool_)
        for n, first in enumerate(self._sources[column.name]):
            had[:, n] = there & (first[company] <= at)
        # eight sources to a byte, so that alike rows are found as one value
        packed = np.packbits(had, axis=1)
        _, some, which = np.unique(
            packed.view(np.dtype((np.void, packed.shape[1]))).ravel(),
            return_index=True,
            return_inverse=True,
        )
        names = np.array(panel.snapshot.source_names, object)
        return _coded(which, ["; ".join(names[own]) or None for own in had[some]])

    def _first_at(self, column: PanelColumn) -> list[NDArray[np.int64]]:
        """For each source, when each member's first figure of the column's items was published."""
        panel, view = self.panel, self.panel.snapshot.view
        assert column.step is not None
        out = [np.full(view.companies, _NEVER) for _ in panel.snapshot.source_names]
        for item in dict.fromkeys(s.item for s in parts(column.step) if isinstance(s, Leaf | Seen)):
            facts = view.facts(item)
            for n, first in enumerate(out):
                own = facts.source == n
                np.minimum.at(first, facts.company[own], facts.at[own])
        return [first[panel.question.members] for first in out]

    def _batch(self, columns: Sequence[tuple[str, Any, Mapping[str, str]]]) -> "pa.RecordBatch":
        import pyarrow as pa

        fields = [
            pa.field(name, array.type, metadata=dict(about.items()) or None)
            for name, array, about in columns
        ]
        return pa.RecordBatch.from_arrays(
            [array for _, array, _ in columns], schema=pa.schema(fields, metadata=self._metadata)
        )


class _Currencies:
    """In which currency the amounts of a measure and company are, over all dates."""

    def __init__(self, measures: int, companies: int) -> None:
        self._least = np.full((measures, companies), _NEVER)
        self._greatest = np.full((measures, companies), -1)

    def add(self, measure: int, codes: NDArray[np.int64], there: NDArray[np.bool_]) -> None:
        """The codes of (companies, dates), where there is a value."""
        least, greatest, known = self._least[measure], self._greatest[measure], there & (codes >= 0)
        np.minimum(
            least,
            np.where(known, codes.astype(np.int64), _NEVER).min(axis=1, initial=_NEVER),
            out=least,
        )
        np.maximum(greatest, np.where(known, codes, -1).max(axis=1, initial=-1), out=greatest)

    def of(self, measure: NDArray[np.int64], company: NDArray[np.int64]) -> Any:
        """The word of each row; none where it has no amount."""
        least, greatest = self._least[measure, company], self._greatest[measure, company]
        codes, which = np.unique(
            np.where(least < greatest, _SEVERAL, greatest), return_inverse=True
        )
        return _coded(
            which,
            [
                "several" if c == _SEVERAL else currency_name(int(c)) if c >= 0 else None
                for c in codes
            ],
        )


def _is_text(column: PanelColumn) -> bool:
    return column.step is not None and column.step.unit.kind == "text"


def _coded(which: NDArray[Any], words: Sequence[str | None]) -> Any:
    """Words by number; -1, and a word that is None, is nothing.

    Each word stands once in the dictionary.
    """
    import pyarrow as pa

    number = {word: n for n, word in enumerate(dict.fromkeys(w for w in words if w is not None))}
    code = np.array([*(-1 if w is None else number[w] for w in words), -1], np.int32)[which]
    codes = pa.array(code, mask=code < 0)
    return pa.DictionaryArray.from_arrays(codes, pa.array([*number], pa.string()))


def _same(word: str, count: int) -> Any:
    return _coded(np.zeros(count, np.int64), [word])


def _days(ends: NDArray[np.int32]) -> Any:
    import pyarrow as pa

    return pa.array(np.where(ends == NO_END, 0, ends).astype(np.int32), mask=ends == NO_END).cast(
        pa.date32()
    )


def _text_type() -> Any:
    import pyarrow as pa

    return pa.dictionary(pa.int32(), pa.string())


def _day_type() -> Any:
    import pyarrow as pa

    return pa.date32()


def _instant_type() -> Any:
    import pyarrow as pa

    return pa.timestamp("us", "UTC")


_TYPES = {
    "currency": _text_type, "reason": _text_type, "marks": _text_type, "source": _text_type,
    "period_end": _day_type, "known_at": _instant_type,
}  # fmt: skip
