"""The columns of what goes over a range of days, in their order: for answers,
files and the command line alike.
"""

PRICES = (
    "date",
    "open",
    "high",
    "low",
    "close",
    "volume",
    "factor",
    "change",
    "total_return",
    "complete",
    "reason",
    "currency",
)
ANNOUNCED = (
    "company", "name", "symbol", "period", "period_kind", "period_end", "announced_at", "actual", "mean", "median",
    "high", "low", "stdev", "count", "surprise", "surprise_relative", "surprise_deviations",
    "reason", "currency",
)  # fmt: skip
CALENDAR = (
    "company", "name", "symbol", "period", "period_kind", "period_end", "at", "state", "mean", "count", "actual",
    "surprise_relative", "reason", "currency",
)  # fmt: skip
EXPECTED = (
    "date", "company", "name", "symbol", "period", "period_end", "mean", "median", "high", "low", "stdev", "count",
    "raised", "cut", "reason", "currency",
)  # fmt: skip
STATEMENT_LEADING = ("company", "name", "frequency", "known_on", "batch")
FIGURES = (
    "item", "title", "period", "calendar", "period_end", "known_at", "value", "reason", "unit", "currency", "marks",
    "flags", "formed", "restated", "sign", "of_which", "first_public_at",
)  # fmt: skip
STATEMENT = (*STATEMENT_LEADING, *FIGURES)
OBSERVED = (
    "series",
    "title",
    "transform",
    "period",
    "date",
    "value",
    "reason",
    "unit",
    "base",
    "known_at",
    "assumed",
)
