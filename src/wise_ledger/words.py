"""Words for people that every room may use: counts with their nouns. It knows nobody."""

import re
from collections.abc import Mapping


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
