"""Symbols in many spellings: dot, dash, slash, blank and case,
and the venue given in front or behind.
"""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

_SEPARATORS = re.compile(r"[.\-/ _:@]+")
_SHAPE = re.compile(r"[A-Za-z0-9]{1,8}(?:[.\-/ _:@][A-Za-z0-9]{1,6}){0,2}")


@dataclass(frozen=True)
class SymbolReading:
    """A symbol without separators, and the venue or country given with it;
    `unknown` if nothing is called so.
    """

    key: str
    place: str | None = None
    unknown: str | None = None


def symbol_key(symbol: str) -> str:
    """One spelling for all: upper case, its parts joined by a dot."""
    return ".".join(part for part in _SEPARATORS.split(symbol.upper()) if part)


def read_symbol(term: str, places: Mapping[str, str]) -> Iterator[SymbolReading]:
    """What a term can mean as a symbol, the likeliest first;
    `places` give the venues and countries by what they are called.

    `ABC@ZALD`, `abc.zald`, `ZALD:ABC` and `ABC ZALD` name a venue; `ABC.B` may be a symbol with a
    class letter.
    """
    text = term.strip()
    if not _SHAPE.fullmatch(text):
        return
    parts = [part for part in _SEPARATORS.split(text.upper()) if part]
    if len(parts) > 1 and parts[-1] in places:
        yield SymbolReading(".".join(parts[:-1]), places[parts[-1]])
    if len(parts) > 1 and parts[0] in places:
        yield SymbolReading(".".join(parts[1:]), places[parts[0]])
    yield SymbolReading(".".join(parts))
    if len(parts) > 1 and parts[-1] not in places:
        yield SymbolReading(".".join(parts[:-1]), unknown=parts[-1])
