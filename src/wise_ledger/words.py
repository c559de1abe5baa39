"""Words that every room may use: counts with their nouns, numbers as they are written.
It knows nobody.
"""

import re
from collections.abc import Mapping

_DIGITS = re.compile(r"[0-9]{1,18}")
_DECIMAL = re.compile(r"[+-]?([0-9]+\.?[0-9]*|\.[0-9]+)([eE][+-]?[0-9]{1,4})?")


def whole_number(text: str) -> int | None:
    """The number that plain digits write; None for all else, other scripts' digits too.

    >>> [whole_number(text) for text in ("12", "-1", "²", "٣", "1_0", "")]
    [12, None, None, None, None, None]
    """
    return int(text) if _DIGITS.fullmatch(text) else None


def decimal_number(text: str) -> str | None:
    """The text of a number in digits, with a point and an exponent at the most; None for all else.

    >>> [decimal_number(text) for text in (" 1.5", "-2e3", "1_0", "١", "nan", "1,5")]
    ['1.5', '-2e3', None, None, None, None]
    """
    plain = text.strip()
    return plain if _DECIMAL.fullmatch(plain) else None


def plural(noun: str) -> str:
    """Several of it.

    >>> [plural(noun) for noun in ("company", "row", "batch", "new index", "series", "day")]
    ['companies', 'rows', 'batches', 'new indexes', 'series', 'days']
    """
    if noun.endswith("series"):
        return noun
    if re.search("(s|x|ch)$", noun):
        return f"{noun}es"
    return f"{noun[:-1]}ies" if re.search("[^aeiou]y$", noun) else f"{noun}s"


def singular(nouns: str) -> str:
    """One of them; the other way round for every plural.

    >>> [singular(n) for n in ("companies", "rows", "batches", "indexes", "series", "share counts")]
    ['company', 'row', 'batch', 'index', 'series', 'share count']
    """
    if nouns.endswith("series"):
        return nouns
    if nouns.endswith("ies"):
        return f"{nouns[:-3]}y"
    return re.sub("(?<=s|x)es$|(?<=ch)es$|s$", "", nouns)


def counted(number: int, noun: str) -> str:
    """A number with its noun.

    >>> counted(1, "company"), counted(1_200, "row"), counted(0, "series")
    ('1 company', '1,200 rows', '0 series')
    """
    return f"{number:,} {noun if number == 1 else plural(noun)}"


def each_counted(numbers: Mapping[str, int]) -> str:
    """Several kinds, by their plurals.

    >>> each_counted({"prices": 1_200, "companies": 1})
    '1,200 prices, 1 company'
    """
    return ", ".join(counted(number, singular(nouns)) for nouns, number in numbers.items())
