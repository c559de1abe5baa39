"""/prices and /market: prices over a range of days, and how companies stand on the market."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Annotated, Any

import numpy as np
from fastapi import Query, Response

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.representations import FormOf, represent_batches, represented
from wise_ledger.service.routes import calls
from wise_ledger.wire.model import iso_text
from wise_ledger.wire.prices import OWNER, LevelsAnswer, MarketAnswer, PricesAnswer, PricesRequest
from wise_ledger.wire.tables import with_context
from wise_ledger.work.dates import as_date, read_date
from wise_ledger.work.prices import (
    CHANGES,
    CODES,
    Bars,
    Prices,
    Range,
    read_levels,
    read_market,
    read_prices,
)
from wise_ledger.work.viewpoint import Viewpoint

if TYPE_CHECKING:
    import pyarrow as pa

router = calls("market")
_SMALL = 1 << 15  # different names, which two bytes number
_AT_ONCE = 1 << 16  # days of listings in one batch of a file, about
_NUMBERS = ("open", "high", "low", "close", "volume", "factor", "change", "total_return")


@router.post("/prices", response_model=PricesAnswer)
def prices(
    asked: PricesRequest,
    desk: OpenDesk,
    form: FormOf,
) -> PricesAnswer | Response:
    """Prices of listings, of companies' primary listings, or of a list's,
    from a day to a day, both included.
    """
    viewpoint = asof.read(desk, asked)
    span = Range(
        None if asked.start is None else read_date(asked.start, "start"),
        None if asked.end is None else read_date(asked.end, "end"),
        asked.frequency,
        asked.adjusted,
        bool({"change", "total_return"} & set(asked.columns)),
    )
    found = read_prices(desk, viewpoint, span, asked.list, asked.companies)
    context = {
        **asof.seen(viewpoint, found.batch),
        "known_on": iso_text(viewpoint.known_on),
        "start": str(found.first),
        "end": str(found.last),
        "both_ends_included": True,
        "frequency": asked.frequency,
        "adjusted": asked.adjusted,
        "failed": asof.unanswered(found.failed),
        "since": {p.symbol: None if p.since is None else str(p.since) for p in found.listings},
    }
    if form.name in ("arrow", "parquet") and not form.schema and asked.layout == "tidy":
        batches = _batches(found, asked.columns, newest_first=asked.sort == "newest")
        return represent_batches(form, with_context(batches, context), "prices")
    answer = _answer(found, viewpoint, asked)
    return represented(form, answer, lambda: answer.rows(asked.columns, asked.layout), "prices")


@router.get("/market", response_model=MarketAnswer)
def market(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.Asked,
    list: Annotated[
        str | None, Query(description="without a list and companies: everybody active then")
    ] = None,
    company: Annotated[
        list[str] | None, Query(description="any identifier; may be given several times")
    ] = None,
) -> MarketAnswer | Response:
    """The last close of companies, its changes, their market value."""
    found = read_market(desk, viewpoint, list, company or ())
    rows = [
        {
            **{k: v for k, v in vars(t).items() if k != "changes"},
            **{c: t.changes[c] for c in CHANGES},
        }
        for t in found.companies
    ]
    answer = MarketAnswer.model_validate(
        {
            "list": list,
            "list_title": found.title,
            "companies": rows,
            "failed": asof.unanswered(found.failed),
            **asof.seen(viewpoint, found.batch),
        }
    )
    return represented(form, answer, answer.rows, "market")


@router.get("/levels", response_model=LevelsAnswer)
def levels(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.AskedPlain,
    list: Annotated[str, Query(description="a list with levels of its own")],
    start: Annotated[
        str | None, Query(description="YYYY-MM-DD, included; a year before the end without it")
    ] = None,
    end: Annotated[str | None, Query(description="YYYY-MM-DD, included")] = None,
) -> LevelsAnswer | Response:
    """The levels of a list, such as a market index, from a day to a day, both included."""
    span = Range(
        None if start is None else read_date(start, "start"),
        None if end is None else read_date(end, "end"),
    )
    found = read_levels(desk, viewpoint, span, list)
    columns = zip(
        found.day.tolist(), _plain(found.level), _plain(found.total_return_level), strict=True
    )
    rows = [{"date": as_date(d), "level": a, "total_return_level": b} for d, a, b in columns]
    answer = LevelsAnswer.model_validate(
        {
            "list": list,
            "list_title": found.title,
            "start": found.first,
            "end": found.last,
            "levels": rows,
            **asof.seen(viewpoint, found.batch),
        }
    )
    return represented(form, answer, answer.rows, f"{list} levels")


def _answer(found: Prices, viewpoint: Viewpoint, asked: PricesRequest) -> PricesAnswer:
    bars = found.bars
    columns = {name: _plain(getattr(bars, name)) for name in _NUMBERS}
    days, complete = [as_date(d) for d in bars.day.tolist()], bars.complete.tolist()
    reasons = [CODES[r] for r in bars.reason.tolist()]
    begin = np.searchsorted(bars.place, np.arange(len(found.listings) + 1)).tolist()
    step = -1 if asked.sort == "newest" else 1
    histories = []
    for n, listing in enumerate(found.listings):
        rows = range(begin[n], begin[n + 1])[::step]
        made = [
            {
                "date": days[r],
                "complete": complete[r],
                "reason": reasons[r],
                **{name: columns[name][r] for name in _NUMBERS},
            }
            for r in rows
        ]
        histories.append({**vars(listing), "bars": made})
    seen = asof.seen(viewpoint, found.batch)
    return PricesAnswer.model_validate(
        {
            "start": found.first,
            "end": found.last,
            "frequency": asked.frequency,
            "adjusted": asked.adjusted,
            "histories": histories,
            "failed": asof.unanswered(found.failed),
            **seen,
        }
    )


def _plain(column: Any) -> list[float | None]:
    return [None if v != v else v for v in column.tolist()]  # a NaN is not itself


def _batches(
    found: Prices, names: Sequence[str], *, newest_first: bool
) -> "Iterator[pa.RecordBatch]":
    """The rows of a file, whose and what is asked for, some listings at a
    time; at least one batch.
    """
    import pyarrow as pa

    listings, days = len(found.listings), (found.last - found.first).days + 1

    def coded(words: list[str]) -> tuple[Any, Any]:
        # a company may have several listings
        once = {word: n for n, word in enumerate(dict.fromkeys(words))}
        which = np.array(
            [once[word] for word in words], np.int16 if len(once) < _SMALL else np.int32
        )
        return which, pa.array([*once], pa.string())

    about = {
        name: coded([getattr(x, name) for x in found.listings]) for name in (*OWNER, "currency")
    }

    def column(name: str, own: slice, bars: Bars, rows: Any) -> Any:
        if name in about:
            which, words = about[name]
            count = np.bincount(bars.place, minlength=len(which[own]))
            return pa.DictionaryArray.from_arrays(pa.array(np.repeat(which[own], count)), words)
        values = getattr(bars, "day" if name == "date" else name)[rows]
        if name == "reason":
            codes = pa.array(values, pa.int8(), mask=values == 0)
            return pa.DictionaryArray.from_arrays(codes, pa.array(["", *CODES[1:]], pa.string()))
        if name == "date":
            return pa.array(values.astype(np.int32)).cast(pa.date32())
        return pa.array(
            values, from_pandas=values.dtype.kind == "f" and bool(np.isnan(values).any())
        )

    step = max(1, _AT_ONCE // days)
    wanted = dict.fromkeys((*OWNER, *names))
    for begin in range(0, max(1, listings), step):
        own = slice(begin, begin + step)
        bars = found.bars_of(own)
        rows = np.lexsort((-bars.day, bars.place)) if newest_first else slice(None)
        yield pa.RecordBatch.from_arrays(
            [column(name, own, bars, rows) for name in wanted], names=[*wanted]
        )
