"""What people write out of habit, from other languages, from sheets and from text editors, and what to write here."""

import re
from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Habit:
    """Something written out of habit: the characters it takes from `begin` on, what is wrong, what to write."""

    begin: int
    length: int
    problem: str
    mend: str


# At the place where the text cannot be read on: what stands there, what is wrong, what to write.
_THERE: tuple[tuple[re.Pattern[str], str, str], ...] = tuple(
    (re.compile(pattern, re.IGNORECASE), problem, mend)
    for pattern, problem, mend in (
        (r"&&?", "{0} is no word of this language", "write and"),
        (r"\|\|?", "{0} is no word of this language", "write or"),
        (r"<>", "{0} compares nothing", "write !="),
        (r"=<", "{0} compares nothing", "write <="),
        (r"=>", "{0} compares nothing", "write >="),
        (r"!(?!=)", "{0} is no word of this language", "write not"),
        (r"\*\*", "{0} is no power here", "write ^"),
        (r"[−–—]", "this minus sign is another character", "write the plain -"),
        (r"≥", "{0} is another character", "write >="),
        (r"≤", "{0} is another character", "write <="),
        (r"≠", "{0} is another character", "write !="),
        (r"[×·]", "{0} is another character", "write *"),
        (r"÷", "{0} is another character", "write /"),
        (r"'[^'\n]*'?|[‘’‚][^‘’\n]*[‘’]?|[“”„«][^“”»\n]*[“”»]?", "{0} is in other quotes", 'write "…" around texts'),
        (r"and\b", "{0} is in capitals", "write and"),
        (r"or\b", "{0} is in capitals", "write or"),
        (r"not\b", "{0} is in capitals", "write not"),
        (r"in\b", "{0} is in capitals", "write in"),
        (r"between\b", "{0} is no word of this language", "write x >= low and x <= high"),
        (r"is\s+not\s+null\b", "{0} is no word of this language", "write not missing(x)"),
        (r"is\s+null\b|isnull\b", "{0} is no word of this language", "write missing(x)"),
        (r"is\s+not\b", "{0} is no word of this language", "write !="),
        (r"is\b", "{0} is no word of this language", "write =="),
        (r"(?:i?like|contains|matches)\b", "texts are compared whole", 'write == "…" or in ("…", "…")'),
        (r"then\b|else\b|when\b|case\b", "{0} is no word of this language", "write where(test, a, b)"),
        (r"percent\b|pct\b", "{0} is no unit here", "write it as in 5%"),
        (r"[$€£¥]", "an amount ends with its currency", "write it as in 500mn EUR"),
        (r"\[[^\]\n]*\]?", "{0} selects nothing", "write .q, .h, .fy, .ttm or .ytd behind the item, or ago(x, 1y)"),
        (r"\?", "{0} is no word of this language", "write where(test, a, b)"),
        (r";", "one expression stands alone", "take it out"),
        (r"%", "a percent stands right behind its number", "write it as in 5%"),
        (r"\.(?:Q|H|FY|TTM|YTD)\b", "{0} is in capitals", "write it small, as in revenue.ttm"),
    )
)
# Behind a number or an amount.
_BEHIND_A_NUMBER: tuple[tuple[re.Pattern[str], str, str], ...] = (
    (re.compile(r"(?:k|mn|bn|tn)\b", re.IGNORECASE), "the scale stands right behind the number", "write {1}{0}"),
    (re.compile(r"(?:m|mio|million|millions)\b", re.IGNORECASE), "{0} is no scale here", "write {1}mn"),
    (re.compile(r"(?:b|bil|billion|billions)\b", re.IGNORECASE), "{0} is no scale here", "write {1}bn"),
    (re.compile(r"[a-z]{3}\b"), "a currency is three capitals", "write {1} {2}"),
    (re.compile(r",\s?[0-9]{3}\b"), "thousands are not parted", "write {1}000 without the comma, or 1k, 1mn"),
    (re.compile(r"%"), "a percent stands right behind its number", "write {1}%"),
)
# Functions by the names they have elsewhere.
ELSEWHERE: Mapping[str, str] = {
    "avg": "mean", "average": "mean", "std": "stdev", "stddev": "stdev", "sd": "stdev", "ln": "log", "if": "where",
    "iif": "where", "iff": "where", "case": "where", "ifnull": "coalesce", "nvl": "coalesce", "isnull": "missing",
    "isna": "missing", "is_null": "missing", "lag": "ago", "shift": "ago", "delay": "ago", "pct_change": "growth",
    "diff": "change", "delta": "change", "ntile": "bucket", "quantile": "percentile", "zscores": "zscore",
    "maximum": "max", "minimum": "min", "trend": "slope", "pow": "the operator ^", "power": "the operator ^",
}  # fmt: skip
_PAIRS = ("<>", "**")  # read as far as their second character
_NUMBER_BEFORE = re.compile(r"([0-9][0-9.]*(?:k|mn|bn|tn)?)[ \t]*$")
_MINUS_BEFORE = re.compile(r"-[ \t]*$")


def habit_at(text: str, at: int) -> Habit | None:
    """The habit that stops the reading of `text` at a place; None where it is none that is known.

    >>> habit_at("revenue > 5 and net_income && active", 27).mend
    'write and'
    """
    if number := _NUMBER_BEFORE.search(text, 0, at):
        for pattern, problem, mend in _BEHIND_A_NUMBER:
            if found := pattern.match(text, at):
                words = (found[0], number[1], found[0].upper())
                begin = number.start()
                return Habit(begin, found.end() - begin, problem.format(*words), mend.format(*words))
    if re.match(r"[0-9]+(?:d|mo|q|y)\b", text[at:]) and (minus := _MINUS_BEFORE.search(text, 0, at)):
        return Habit(minus.start(), 1, "a span has no sign", "write it without, as in ago(x, 1y)")
    if text[at : at + 1] == '"' and re.search(r"\bin\s*$", text[:at]):
        end = text.find('"', at + 1) + 1 or len(text)
        return Habit(at, end - at, "in takes a list", f"write in ({text[at:end]})")
    begin = at - 1 if text[max(0, at - 1) : at + 1] in _PAIRS else at
    for pattern, problem, mend in _THERE:
        if found := pattern.match(text, begin):
            return Habit(begin, found.end() - begin, problem.format(found[0]), mend)
    return None
