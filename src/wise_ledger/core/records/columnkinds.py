"""The kinds of records kept as columns: prices of listings, levels of lists."""

from collections.abc import Mapping

import numpy as np

from wise_ledger.core.records import fields as types
from wise_ledger.core.records.columns import ColumnKind, Mask, RecordColumns, RowCheck, missing
from wise_ledger.core.records.kinds import Field, Reference

_PUBLISHED = Field("published_at", types.INSTANT, needed=False)


def _high_too_low(rows: RecordColumns) -> Mask:
    """Where the high is below any other price of the day; a missing price is below none."""
    with np.errstate(invalid="ignore"):
        return np.asarray((rows["high"] < rows["low"]) | (rows["high"] < rows["open"]) | (rows["high"] < rows["close"]))


def _low_too_high(rows: RecordColumns) -> Mask:
    with np.errstate(invalid="ignore"):
        return np.asarray((rows["low"] > rows["open"]) | (rows["low"] > rows["close"]))


def _without_any_price(rows: RecordColumns) -> Mask:
    return np.asarray(np.isnan(rows["open"]) & np.isnan(rows["high"]) & np.isnan(rows["low"]) & np.isnan(rows["close"]))


def _amount_without_currency(rows: RecordColumns) -> Mask:
    return np.asarray(~missing(rows["value"]) & missing(rows["currency"]))


_BETWEEN = "the high is the greatest price of a day, the low the least: mend the one that is wrong"

PRICES = ColumnKind(
    "prices",
    (Reference("listing", "listings", example="EXW@ZALD"),),
    (
        Field("date", types.PAST_DAY, example="2024-03-28"),
        Field("open", types.POSITIVE, needed=False, example="41.20"),
        Field("high", types.POSITIVE, needed=False, example="42.05"),
        Field("low", types.POSITIVE, needed=False, example="40.90"),
        Field("close", types.POSITIVE, needed=False, example="41.75"),
        Field("volume", types.NOT_NEGATIVE, needed=False, example="182000"),
        _PUBLISHED,
    ),
    same=("date",),
    day="date",
    checks=(
        RowCheck("high", "it is below another price of the day", _BETWEEN, _high_too_low),
        RowCheck("low", "it is above another price of the day", _BETWEEN, _low_too_high),
        RowCheck("close", "the row has no price at all", "give the close, or leave the row out", _without_any_price),
    ),
)
LEVELS = ColumnKind(
    "levels",
    (Reference("list", "lists", example="my-list"),),
    (
        Field("date", types.PAST_DAY, example="2024-03-28"),
        Field("level", types.POSITIVE, example="1042.5"),
        Field("total_return_level", types.POSITIVE, needed=False, example="1310.2"),
        _PUBLISHED,
    ),
    same=("date",),
    day="date",
)

_COMPANY = Reference("company", "companies", example="EXW@ZALD")
_MEASURE = Reference("measure", "items", example="eps")
_PERIOD = (
    Field("period_end", types.DAY, example="2024-12-31"),
    Field("period_kind", types.PERIOD_KIND, example="fy"),
)
_SAID = Field("published_at", types.INSTANT, example="2024-03-28T09:00:00Z")
ESTIMATES = ColumnKind(
    "estimates",
    (_COMPANY, _MEASURE, Reference("contributor", "contributors", example="Harbour Street Research")),
    (
        *_PERIOD,
        Field("value", types.NUMBER, needed=False, example="2.35"),  # without one it is withdrawn
        Field("currency", types.CURRENCY_CODE, needed=False, example="USD"),
        _SAID,
    ),
    same=("period_end", "period_kind"),
    day="period_end",
    by_publication=True,
    checks=(RowCheck("currency", "an amount needs its currency", "write it, such as EUR", _amount_without_currency),),
)
ACTUALS = ColumnKind(
    "actuals",
    (_COMPANY, _MEASURE),
    (
        *_PERIOD,
        Field("value", types.NUMBER, example="2.41"),
        Field("currency", types.CURRENCY_CODE, example="USD"),
        _SAID,
    ),
    same=("period_end", "period_kind"),
    day="period_end",
    by_publication=True,
)

COLUMN_KINDS: Mapping[str, ColumnKind] = {kind.name: kind for kind in (PRICES, LEVELS, ESTIMATES, ACTUALS)}
