"""The types of the columns of records: how a value is checked, kept in the ledger,
and read from the cell of a file.
"""

import math
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any, Literal
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.money.currencies import currency_code, currency_name, is_currency
from wise_ledger.core.series.periods import code_of, decoded, period_words, read_period
from wise_ledger.core.time.instants import as_instant, micros, read_cutoff, read_date
from wise_ledger.core.time.periods import as_date, day
from wise_ledger.words import decimal_number

FIRST_YEAR, LAST_YEAR = 1900, 2200
LARGEST = 1e20  # of any figure in units, weight or ratio
LONGEST = 4_000  # characters of a text
SKEW = timedelta(days=1)  # that clocks and time zones may differ by
UNREADABLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff]")
_MIC = re.compile(r"[A-Z0-9]{4}")
_COUNTRY = re.compile(r"[A-Z]{2}")
_TIME = re.compile(r"([01][0-9]|2[0-3]):[0-5][0-9]")
_PERIOD_KINDS = {"fy": 12, "q": 3}
_WORDS = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}

Found = Iterator[Problem]


def of_text(at: str, value: Any, *, empty: bool = False) -> Found:
    """Problems of a text: none at all, unreadable, too long, or empty where it may not be."""
    if not isinstance(value, str):
        yield Problem(at, repr(value)[:80], "this is no text", "write a text")
    elif UNREADABLE.search(value):
        shown = value.encode("ascii", "backslashreplace").decode()[:80]
        yield Problem(at, shown, "it holds characters that cannot be read", "take them out")
    elif not value.strip() and not empty:
        yield Problem(at, value, "the text is empty", "write one")
    elif len(value) > LONGEST:
        yield Problem(
            at, value[:40], f"the text has {len(value)} characters", f"keep it to {LONGEST}"
        )


def of_truth(at: str, value: Any) -> Found:
    """Problems of a yes or no: neither."""
    if not isinstance(value, bool):
        yield Problem(at, repr(value)[:80], "this is neither yes nor no", "write yes or no")


def of_day(at: str, value: date | None) -> Found:
    """Problems of a day: out of all proportion."""
    if value is not None and not FIRST_YEAR <= value.year <= LAST_YEAR:
        yield Problem(
            at, str(value), f"the year is not between {FIRST_YEAR} and {LAST_YEAR}", "mend the date"
        )


def of_instant(at: str, value: datetime | None, now: datetime | None) -> Found:
    """Problems of an instant: without a zone, out of all proportion,
    in the future where `now` is given.
    """
    if value is None:
        return
    if value.tzinfo is None:
        yield Problem(
            at, str(value), "an instant needs its time zone", "write it, such as Z for UTC"
        )
        return
    yield from of_day(at, value.date())
    if now is not None and value > now + SKEW:
        yield Problem(
            at, value.isoformat(), "it is in the future", "mend the instant, or the clock"
        )


def of_number(
    at: str, value: float | None, *, above: float | None = None, least: float | None = None
) -> Found:
    """Problems of a number: none that can be, not above or below what it has to be."""
    if value is None:
        return
    if not math.isfinite(value) or abs(value) > LARGEST:
        yield Problem(
            at,
            str(value),
            "no figure can be so large, or it is no number",
            "mend the number or its scale",
        )
    elif above is not None and value <= above:
        yield Problem(at, str(value), f"it is not above {above:g}", "mend the number")
    elif least is not None and value < least:
        yield Problem(at, str(value), f"it is below {least:g}", "mend the number")


def _code(
    fits: Callable[[str], Any], problem: str, mend: str
) -> Callable[[str, Any, datetime], Found]:
    def problems(at: str, value: Any, _now: datetime) -> Found:
        if not (isinstance(value, str) and fits(value)):
            yield Problem(at, str(value)[:80], problem, mend)

    return problems


def _is_zone(name: str) -> bool:
    try:
        ZoneInfo(name)
    # not found is an OSError too; a name that is no path a ValueError
    except (ValueError, OSError):
        return False
    except ZoneInfoNotFoundError:
        return False
    return True


def _read_number(text: str, at: str) -> float:
    plain = decimal_number(text)
    if plain is None:
        raise bad_input(at, text, "this is no number", "write a number such as 0.05")
    return float(plain)


def _read_currency_code(text: str, at: str) -> int:
    if not is_currency(text):
        raise bad_input(
            at, text, "this is no currency", "write the three capitals of ISO 4217, such as EUR"
        )
    return currency_code(text)


def _read_period_kind(text: str, at: str) -> int:
    if text.lower() not in _PERIOD_KINDS:
        raise bad_input(
            at, text, "this is no kind of period", "write fy for a fiscal year, q for a quarter"
        )
    return _PERIOD_KINDS[text.lower()]


def _read_flag(text: str, at: str) -> bool:
    if text.lower() not in _WORDS:
        raise bad_input(at, text, f"this is no {at.replace('_', ' ')}", "write yes or no")
    return _WORDS[text.lower()]


def _plain(value: Any) -> Any:
    return value


@dataclass(frozen=True)
class FieldType:
    """`problems(at, value, now)` of a value, how it is `kept`, and `read(text,
    at)` from a cell (raises `BadInput`).

    `shown` undoes `kept`. `all_fit` looks at many values as they are kept: where it says no,
    `problems` says why.
    """

    sql: Literal["text", "real", "whole", "truth", "instant"]
    problems: Callable[[str, Any, datetime], Found]
    read: Callable[[str, str], Any]
    kept: Callable[[Any], Any] = _plain
    shown: Callable[[Any], Any] = _plain
    all_fit: Callable[[NDArray[Any], datetime], NDArray[np.bool_]] | None = None


_EPOCH = date(1970, 1, 1)
_FIRST_DAY, _LAST_DAY = (
    (date(year, *rest) - _EPOCH).days for year, *rest in ((FIRST_YEAR, 1, 1), (LAST_YEAR, 12, 31))
)
_DAY = 86_400_000_000


def _numbers_fit(
    above: float | None, least: float | None
) -> Callable[[NDArray[Any], datetime], NDArray[np.bool_]]:
    def fit(values: NDArray[Any], _now: datetime) -> NDArray[np.bool_]:
        out = np.abs(values) <= LARGEST  # a NaN is not
        if above is not None:
            out &= values > above
        if least is not None:
            out &= values >= least
        return np.asarray(out)

    return fit


def _days_fit(values: NDArray[Any], _now: datetime) -> NDArray[np.bool_]:
    return (values >= _FIRST_DAY) & (values <= _LAST_DAY)


def _past_days_fit(values: NDArray[Any], now: datetime) -> NDArray[np.bool_]:
    return _days_fit(values, now) & (values <= day((now + SKEW).date()))


def _instants_fit(values: NDArray[Any], now: datetime) -> NDArray[np.bool_]:
    return _days_fit(values // _DAY, now) & (values <= micros(now + SKEW))


def _no_period(at: str, value: Any) -> Found:
    """What is said of a period that does not fit."""
    yield Problem(
        at, str(value), f"the year is not between {FIRST_YEAR} and {LAST_YEAR}", "mend the period"
    )


def _as_it_is(text: str, _at: str) -> str:
    return text


TEXT = FieldType("text", lambda at, v, _: of_text(at, v), _as_it_is)
LONG_TEXT = FieldType("text", lambda at, v, _: _of_long_text(at, v), _as_it_is)
DAY = FieldType("whole", lambda at, v, _: of_day(at, v), read_date, day, as_date, _days_fit)
PAST_DAY = FieldType(
    "whole", lambda at, v, now: _of_past_day(at, v, now), read_date, day, as_date, _past_days_fit
)
MOMENT = FieldType(  # an instant that may still come
    "instant", lambda at, v, _: of_instant(at, v, None), read_cutoff, micros, as_instant,
    lambda values, now: _days_fit(values // _DAY, now),
)  # fmt: skip
INSTANT = FieldType("instant", of_instant, read_cutoff, micros, as_instant, _instants_fit)
NUMBER = FieldType(
    "real", lambda at, v, _: of_number(at, v), _read_number, all_fit=_numbers_fit(None, None)
)
POSITIVE = FieldType(
    "real",
    lambda at, v, _: of_number(at, v, above=0.0),
    _read_number,
    all_fit=_numbers_fit(0.0, None),
)
NOT_NEGATIVE = FieldType(
    "real",
    lambda at, v, _: of_number(at, v, least=0.0),
    _read_number,
    all_fit=_numbers_fit(None, 0.0),
)
FLAG = FieldType("truth", lambda at, v, _: of_truth(at, v), _read_flag)
CURRENCY = FieldType(
    "text",
    _code(is_currency, "this is no currency", "write the three capitals of ISO 4217, such as EUR"),
    _as_it_is,
)
MIC = FieldType(
    "text",
    _code(_MIC.fullmatch, "this is no code of a venue", "write four capitals (ISO 10383)"),
    _as_it_is,
)


DIVIDEND_KIND = FieldType(
    "text",
    _code(
        ("ordinary", "special").__contains__,
        "this is no kind of dividend",
        "write ordinary or special",
    ),
    lambda text, _: text.lower(),
)
CURRENCY_CODE = FieldType(  # a currency as the number it is kept as
    "whole",
    _code(is_currency, "this is no currency", "write the three capitals of ISO 4217, such as EUR"),
    lambda text, at: _read_currency_code(text, at),
    shown=lambda code: currency_name(code) or "",
)
PERIOD_KIND = FieldType(  # a fiscal year or quarter as its months
    "whole", lambda at, v, _: iter(()), lambda text, at: _read_period_kind(text, at)
)
PERIOD = FieldType(  # of a series, as the number it is kept as: its last day and its frequency
    "whole",
    lambda at, v, _: _no_period(at, v),
    lambda text, at: code_of(*read_period(text, at)),
    shown=period_words,
    all_fit=lambda values, now: _days_fit(decoded(values)[1], now),
)
LOSS_AT_WORST = FieldType("real", lambda at, v, _: of_number(at, v, least=-1.0), _read_number)
COUNTRY = FieldType(
    "text",
    _code(_COUNTRY.fullmatch, "this is no code of a country", "write two capitals (ISO 3166)"),
    _as_it_is,
)
ZONE = FieldType(
    "text",
    _code(_is_zone, "there is no such time zone", "write one such as Europe/Paris"),
    _as_it_is,
)
TIME = FieldType(
    "text",
    _code(_TIME.fullmatch, "this is no time of day", "write HH:MM, such as 17:30"),
    _as_it_is,
)


SERIES_WORDS = (
    "title", "unit", "area", "subject", "adjustment", "family", "dimensions", "notes", "status", "successor",
    "source_note",
)  # fmt: skip
SERIES_WORD = FieldType(
    "text",
    _code(
        SERIES_WORDS.__contains__,
        "nothing of this name is said of a series",
        f"write {', '.join(SERIES_WORDS)}",
    ),
    _as_it_is,
)
_LONGEST_CONTENT = 400_000


def _of_long_text(at: str, value: Any) -> Found:
    """Problems of a text that may be long."""
    if not isinstance(value, str) or len(value) > _LONGEST_CONTENT:
        yield Problem(
            at,
            str(value)[:40],
            "this is no text, or too long a one",
            f"keep it to {_LONGEST_CONTENT:,}",
        )


def _of_past_day(at: str, value: date, now: datetime) -> Found:
    yield from of_day(at, value)
    if value > (now + SKEW).date():
        yield Problem(at, str(value), "this day has not come yet", "check the date")
