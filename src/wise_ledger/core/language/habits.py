"""What people write out of habit, from other languages, from sheets and from text editors,
and what to write here.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.money.currencies import is_currency


@dataclass(frozen=True)
class Habit:
    """Something written out of habit: the characters it takes from `begin` on,
    what is wrong, what to write.
    """

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
        (r"===?|=!", "{0} compares nothing", "write == or !="),
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
        (
            r"'[^'\n]*'?|[‘’‚][^‘’\n]*[‘’]?|[“”„«][^“”»\n]*[“”»]?",
            "{0} is in other quotes",
            'write "…" around texts',
        ),
        (r"and\b", "{0} is in capitals", "write and"),
        (r"or\b", "{0} is in capitals", "write or"),
        (r"not\b", "{0} is in capitals", "write not"),
        (r"in\b", "{0} is in capitals", "write in"),
        (r"between\b", "{0} is no word of this language", "write x >= low and x <= high"),
        (r"is\s+not\s+null\b", "{0} is no word of this language", "write not missing(x)"),
        (r"is\s+null\b|isnull\b", "{0} is no word of this language", "write missing(x)"),
        (r"is\s+not\b", "{0} is no word of this language", "write !="),
        (r"is\b", "{0} is no word of this language", "write =="),
        (
            r"(?:i?like|contains|matches)\b",
            "texts are compared whole",
            'write == "…" or in ("…", "…")',
        ),
        (
            r"then\b|else\b|when\b|case\b",
            "{0} is no word of this language",
            "write where(test, a, b)",
        ),
        (r"percent\b|pct\b", "{0} is no unit here", "write it as in 5%"),
        (r"[$€£¥]", "an amount ends with its currency", "write it as in 500mn EUR"),
        (
            r"\[[^\]\n]*\]?",
            "{0} selects nothing",
            "write .q, .h, .fy, .ttm or .ytd behind the item, or ago(x, 1y)",
        ),
        (r"\?", "{0} is no word of this language", "write where(test, a, b)"),
        (r";", "one expression stands alone", "take it out"),
        (r"%", "a percent stands right behind its number", "write it as in 5%"),
        (r"\.(?-i:Q|H|FY|TTM|YTD)\b", "{0} is in capitals", "write it small, as in revenue.ttm"),
        (r"\.(?:q|h|fy|ttm|ytd)\b", "an item has one selector", "take one of them out"),
    )
)
# Behind a number or an amount.
_BEHIND_A_NUMBER: tuple[tuple[re.Pattern[str], str, str], ...] = (
    (
        re.compile(r"(?:k|mn|bn|tn)\b", re.IGNORECASE),
        "the scale stands right behind the number",
        "write {1}{0}",
    ),
    (
        re.compile(r"(?:m|mio|million|millions)\b", re.IGNORECASE),
        "{0} is no scale here",
        "write {1}mn",
    ),
    (
        re.compile(r"(?:b|bil|billion|billions)\b", re.IGNORECASE),
        "{0} is no scale here",
        "write {1}bn",
    ),
    (re.compile(r"[a-z]{3}\b"), "a currency is three capitals", "write {1} {2}"),
    (
        re.compile(r",\s?[0-9]{3}\b"),
        "thousands are not parted",
        "write {1}000 without the comma, or 1k, 1mn",
    ),
    (re.compile(r"%"), "a percent stands right behind its number", "write {1}%"),
)
# Spans as they are written elsewhere: what stands there, and the unit that is meant.
_SPANS: tuple[tuple[re.Pattern[str], str], ...] = tuple(
    (re.compile(rf"([0-9]+)\s?(?:{words})\b", re.IGNORECASE), unit)
    for words, unit in (
        ("y|yrs?|years?", "y"),
        ("mo|mths?|months?", "mo"),
        ("q|qtrs?|quarters?", "q"),
        ("d|days?", "d"),
    )
)
# Functions by the names they have elsewhere.
ELSEWHERE: Mapping[str, str] = {
    "avg": "mean", "average": "mean", "std": "stdev", "stddev": "stdev", "sd": "stdev", "ln": "log", "if": "where",
    "iif": "where", "iff": "where", "case": "where", "ifnull": "coalesce", "nvl": "coalesce", "isnull": "missing",
    "isna": "missing", "is_null": "missing", "lag": "ago", "shift": "ago", "delay": "ago", "pct_change": "growth",
    "diff": "change", "delta": "change", "ntile": "bucket", "quantile": "percentile", "zscores": "zscore",
    "sum": "x.ttm for twelve months, or mean(x, span)", "top": "rank(x) <= 10", "exp": "the operator ^",
    "maximum": "max", "minimum": "min", "trend": "slope", "pow": "the operator ^", "power": "the operator ^",
}  # fmt: skip
_PAIRS = ("<>", "**", "==", "=!")  # read as far as their second character
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
                return Habit(
                    begin, found.end() - begin, problem.format(*words), mend.format(*words)
                )
    if (
        found_ := _number_at(text, at)
        or _list_at(text, at)
        or _span_at(text, at)
        or _empty_at(text, at)
        or _currency_at(text, at)
    ) is not None:
        return found_
    if (first := re.fullmatch(r"\s*(and|or)\s+", text[:at])) is not None:
        return Habit(
            first.start(1), len(first[1]), f"{first[1]} stands between two tests", "take it out"
        )
    if (before := re.search(r"\bif\s+$", text[:at])) is not None:
        return Habit(before.start(), 2, "if is no word of this language", "write where(test, a, b)")
    if closed := re.match(r'"(?:[^"\\\n]|\\.)*"', text[at:]):
        return Habit(
            at, closed.end(), "a text was not expected here", "put a comma or an operator before it"
        )
    begin = at - 1 if text[max(0, at - 1) : at + 1] in _PAIRS else at
    for pattern, problem, mend in _THERE:
        if found := pattern.match(text, begin):
            return Habit(begin, found.end() - begin, problem.format(found[0]), mend)
    return None


# Numbers as they are written elsewhere: what stands there, what is wrong, what to write.
_NUMBERS: tuple[tuple[re.Pattern[str], str, str], ...] = tuple(
    (re.compile(pattern), problem, mend)
    for pattern, problem, mend in (
        (r"(\.[0-9]+%?)", "a number begins with a digit", "write 0{1}"),
        (r"([0-9]+)\.(%?)(?![0-9])", "a number ends with a digit", "write {1}{2}"),
        (
            r"([0-9]+(?:[._][0-9]{3}){2,}|[0-9]+_[0-9_]+)",
            "thousands are not parted",
            "write {plain}, or 1k, 1mn",
        ),
        (
            r"([0-9.]+)[eE]\+?[0-9]+",
            "powers of ten are not written so",
            "write it in full, or with k, mn, bn, tn",
        ),
        (r"([0-9.]+)(?:pct|percent|%%)", "{0} is no number", "write {1}%"),
        (r"([0-9.]+)[bB](?![A-Za-z])", "{0} is no number", "write {1}bn"),
    )
)


def _number_at(text: str, at: int) -> Habit | None:
    """A number written otherwise."""
    comma, number = re.match(r",([0-9]+%?)", text[at:]), re.search(r"[0-9]+$", text[:at])
    if comma and number and len(comma[1].rstrip("%")) != 3:
        begin = number.start()
        mend = f"write {number[0]}.{comma[1]}"
        return Habit(begin, at + comma.end() - begin, "a number has a point, not a comma", mend)
    for pattern, problem, mend in _NUMBERS:
        if found := pattern.match(text, at):
            words = {"plain": re.sub(r"[._]", "", found[0])}
            groups = (found[0], *(g or "" for g in found.groups()))
            return Habit(
                at, found.end() - at, problem.format(*groups), mend.format(*groups, **words)
            )
    return None


def _list_at(text: str, at: int) -> Habit | None:
    """Something else than a list behind `in`."""
    if not re.search(r"\bin\s*$", text[:at]) or text[at : at + 1] in ("", "("):
        return None
    found = re.match(r'[\[{][^\]}]*[\]}]?|"(?:[^"\\\n]|\\.)*"|[^\s()]+', text[at:])
    if found is None:
        return None
    inner = found[0].strip("[]{}")
    return Habit(at, found.end(), "in takes a list", f"write in ({inner})")


def _span_at(text: str, at: int) -> Habit | None:
    """A span written otherwise, or where none can stand."""
    if whole := re.match(r"([0-9]+)\.[0-9]+(d|mo|q|y)\b", text[at:]):
        months = "in months, as in 18mo" if whole[2] == "y" else f"as in {whole[1]}{whole[2]}"
        return Habit(at, whole.end(), "a span is a whole number", f"write it {months}")
    if plain := re.match(r"[0-9]+(?:d|mo|q|y)\b", text[at:]):
        if minus := _MINUS_BEFORE.search(text, 0, at):
            return Habit(
                minus.start(), 1, "a span has no sign", "write it without, as in ago(x, 1y)"
            )
        inside = text[:at].count("(") > text[:at].count(")")
        if inside and not text[:at].rstrip().endswith(("(", ",")):
            return Habit(
                at, plain.end(), "a comma is missing before the span", f"write , {plain[0]}"
            )
        return Habit(
            at,
            plain.end(),
            "a span stands only inside a function",
            f"write it as in ago(x, {plain[0]})",
        )
    if scale := re.match(r"([0-9]+)[mM]\b", text[at:]):
        spellings = f"{scale[1]}mn for millions, {scale[1]}mo for months"
        return Habit(at, scale.end(), f"{scale[0]} is no number", f"write {spellings}")
    number = re.search(r"[0-9]+\s*$", text[:at])
    begin = at if number is None else number.start()
    for pattern, unit in _SPANS:
        if found := pattern.match(text, begin):
            return Habit(
                begin, found.end() - begin, f"{found[0]} is no span", f"write {found[1]}{unit}"
            )
    return None


def _empty_at(text: str, at: int) -> Habit | None:
    """A parenthesis that closes too early: nothing was given, or a comma stands before it."""
    if text[at : at + 1] != ")":
        return None
    before = text[:at].rstrip()
    if before.endswith(","):
        return Habit(len(before) - 1, 1, "a comma too many", "take it out")
    if re.search(r"\bin\s*\($", before):
        return Habit(at, 1, "the list is empty", 'write in ("…", "…")')
    if (called := re.search(r"([a-z][a-z0-9_]*)\s*\($", before)) is not None:
        name = called[1]
        mend = (
            f"write {FUNCTIONS[name].call}"
            if name in FUNCTIONS
            else f"write {name} without parentheses"
        )
        return Habit(called.start(), at + 1 - called.start(), f"{name} is given nothing", mend)
    return None


def _currency_at(text: str, at: int) -> Habit | None:
    """A currency that does not stand behind its amount, one blank between."""
    if glued := re.match(r"([0-9][0-9.]*(?:k|mn|bn|tn)?)([A-Z]{3})\b", text[at:]):
        return Habit(
            at, glued.end(), "a blank stands before the currency", f"write {glued[1]} {glued[2]}"
        )
    code = re.match(r"([A-Z]{3})\b(?:\s*([0-9][0-9.]*(?:k|mn|bn|tn)?)\b)?", text[at:])
    if code is None or not is_currency(code[1]):
        return None
    amount = f"{code[2]} {code[1]}" if code[2] else f"an amount before it, as in 5mn {code[1]}"
    return Habit(at, code.end(), "a currency stands behind its amount", f"write {amount}")
