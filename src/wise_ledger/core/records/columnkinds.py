"""The kinds of records kept as columns: prices of listings, levels of lists,
what analysts expect of companies.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records import fields as types
from wise_ledger.core.records.columns import ColumnKind, Mask, RecordColumns, RowCheck, missing
from wise_ledger.core.records.recordkind import Field, Reference
from wise_ledger.core.series.periods import assumed_release, decoded
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import nominal_end

_AHEAD, _BEHIND = 12 * 366, 3 * 366  # days, of a period that is estimated from the day it is
_PUBLISHED = Field("published_at", types.INSTANT, needed=False)


def _high_too_low(rows: RecordColumns) -> Mask:
    """Where the high is below any other price of the day; a missing price is below none."""
    with np.errstate(invalid="ignore"):
        return np.asarray(
            (rows["high"] < rows["low"])
            | (rows["high"] < rows["open"])
            | (rows["high"] < rows["close"])
        )


def _low_too_high(rows: RecordColumns) -> Mask:
    with np.errstate(invalid="ignore"):
        return np.asarray((rows["low"] > rows["open"]) | (rows["low"] > rows["close"]))


def _without_any_price(rows: RecordColumns) -> Mask:
    return np.asarray(
        np.isnan(rows["open"])
        & np.isnan(rows["high"])
        & np.isnan(rows["low"])
        & np.isnan(rows["close"])
    )


def _ends_no_month(rows: RecordColumns) -> Mask:
    """Where the end of a period is near no month end: no fiscal period ends there (F2)."""
    following = nominal_end(rows["period_end"]) + 1
    begins = following.astype("M8[D]").astype("M8[M]").astype("M8[D]").astype(np.int64)
    return np.asarray(~missing(rows["period_end"]) & (begins != following))


def _far_away(rows: RecordColumns) -> Mask:
    """Where a period is published of that nobody can say anything of yet, or any longer."""
    published = rows["published_at"]
    away = rows["period_end"].astype(np.int64) - published // DAY
    return np.asarray(
        ~missing(published) & ~missing(rows["period_end"]) & ((away > _AHEAD) | (away < -_BEHIND))
    )


def _low_above_high(rows: RecordColumns) -> Mask:
    with np.errstate(invalid="ignore"):
        low, high = rows["low"], rows["high"]
        return np.asarray((low > high) | (rows["mean"] > high) | (rows["mean"] < low))


def _statistics_without_currency(rows: RecordColumns) -> Mask:
    return np.asarray(~missing(rows["mean"]) & missing(rows["currency"]))


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
        RowCheck(
            "close",
            "the row has no price at all",
            "give the close, or leave the row out",
            _without_any_price,
        ),
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
_POSSIBLE = (
    RowCheck(
        "period_end",
        "no fiscal period ends there",
        "write the end of a month, or one near it",
        _ends_no_month,
    ),
    RowCheck(
        "period_end",
        "it is too far from the day it is published on",
        "mend the period or the instant",
        _far_away,
    ),
)
ESTIMATES = ColumnKind(
    "estimates",
    (
        _COMPANY,
        _MEASURE,
        Reference("contributor", "contributors", example="Harbour Street Research"),
    ),
    (
        *_PERIOD,
        Field("value", types.NUMBER, needed=False, example="2.35"),  # without one it is withdrawn
        Field("currency", types.CURRENCY_CODE, needed=False, example="USD"),
        _SAID,
    ),
    same=("period_end", "period_kind"),
    day="period_end",
    by_publication=True,
    checks=(
        *_POSSIBLE,
        RowCheck(
            "currency",
            "an amount needs its currency",
            "write it, such as EUR",
            _amount_without_currency,
        ),
    ),
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
    checks=_POSSIBLE,
)
# A consensus as a source supplies it (E5); a row without a mean takes it back.
CONSENSUS = ColumnKind(
    "consensus",
    (_COMPANY, _MEASURE),
    (
        *_PERIOD,
        Field("mean", types.NUMBER, needed=False, example="2.35"),
        Field("median", types.NUMBER, needed=False, example="2.34"),
        Field("high", types.NUMBER, needed=False, example="2.51"),
        Field("low", types.NUMBER, needed=False, example="2.20"),
        Field("stdev", types.NOT_NEGATIVE, needed=False, example="0.11"),
        Field("count", types.NOT_NEGATIVE, needed=False, example="7"),
        Field("currency", types.CURRENCY_CODE, needed=False, example="USD"),
        _SAID,
    ),
    same=("period_end", "period_kind"),
    day="period_end",
    by_publication=True,
    checks=(
        *_POSSIBLE,
        RowCheck(
            "low",
            "low, mean and high are not in this order",
            "mend the one that is wrong",
            _low_above_high,
        ),
        RowCheck(
            "currency",
            "an amount needs its currency",
            "write it, such as EUR",
            _statistics_without_currency,
        ),
    ),
    sourced=True,
)
# When a company is expected to announce a period; a later row replaces, one
# without an instant takes it back.
ANNOUNCEMENTS = ColumnKind(
    "announcements",
    (_COMPANY,),
    (
        *_PERIOD,
        Field("expected_at", types.MOMENT, needed=False, example="2025-02-13T07:00:00Z"),
        _SAID,
    ),
    same=("period_end", "period_kind"),
    day="period_end",
    by_publication=True,
    checks=_POSSIBLE,
)


def _released_when_assumed(rows: RecordColumns) -> NDArray[np.int64]:
    return assumed_release(*decoded(rows["period"]))


def _released_before_it_began(rows: RecordColumns) -> Mask:
    instants, (kinds, ends) = rows["released_at"], decoded(rows["period"])
    longest = np.array([0, 366, 92, 31, 7, 1, 1, 1])[kinds]
    return np.asarray(
        ~missing(instants) & ~missing(rows["period"]) & (instants // DAY <= ends - longest)
    )


# Observations of economic series (S1); a row without a value takes one
# back, each release is a version.
SERIES = ColumnKind(
    "series",
    (Reference("series", "series", example="OUTPUT/Q.XA.TOTAL.SA"),),
    (
        Field("period", types.PERIOD, example="2024Q1"),
        Field("value", types.NUMBER, needed=False, example="104.2"),
        Field("released_at", types.INSTANT, needed=False, example="2024-05-15T08:00:00Z"),
    ),
    same=("period",),
    day="period",
    by_publication=True,
    checks=(
        RowCheck(
            "released_at",
            "it was released before its period began",
            "mend the period or the instant",
            _released_before_it_began,
        ),
    ),
    sourced=True,
    labels=(Reference("base", "series_bases", needed=False, example="2015=100"),),
    instant="released_at",
    unsaid=_released_when_assumed,
)

COLUMN_KINDS: Mapping[str, ColumnKind] = {
    kind.name: kind
    for kind in (PRICES, LEVELS, ESTIMATES, ACTUALS, CONSENSUS, ANNOUNCEMENTS, SERIES)
}
