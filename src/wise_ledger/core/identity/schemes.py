"""Identifier schemes: what a term is written as, whether its check digit agrees,
and what a slip could have made it.

Check digits by python-stdnum (ISO 6166 for ISIN, ISO 17442 for LEI, and the schemes' own rules for
the others).
"""

import re
from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass

from stdnum import cusip, figi, isin, lei
from stdnum.gb import sedol

from wise_ledger.core.identity.company_id import is_company_id

CHECKED: dict[str, Callable[[str], bool]] = {
    "isin": isin.is_valid,
    "cusip": cusip.is_valid,
    "sedol": sedol.is_valid,
    "figi": figi.is_valid,
    "lei": lei.is_valid,
}
# Shapes that say which scheme a bare term is of; nothing a name or a symbol would look like.
_SHAPES = (
    ("lei", re.compile(r"[A-Z0-9]{18}[0-9]{2}")),
    ("figi", re.compile(r"[B-DF-HJ-NP-TV-Z0-9]{2}G[B-DF-HJ-NP-TV-Z0-9]{8}[0-9]")),
    ("isin", re.compile(r"[A-Z]{2}[A-Z0-9]{9}[0-9]")),
    ("cusip", re.compile(r"(?=(?:.*[0-9]){4})[A-Z0-9*@#]{8}[0-9]")),
    ("sedol", re.compile(r"(?=.*[0-9].*[0-9])[B-DF-HJ-NP-TV-Z0-9]{6}[0-9]")),
)
_SCIENTIFIC = re.compile(r"[0-9](?:[.,][0-9]+)?E\+?[0-9]{1,2}", re.I)
_LETTERS = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ"
_PADDED = (("cusip", 9), ("sedol", 7))  # schemes whose values may begin with zeros


@dataclass(frozen=True)
class Reading:
    """A term read as a value of a scheme; `problem` where it cannot be one as it stands."""

    scheme: str
    value: str
    problem: str | None = None


def read_identifier(term: str, own: Collection[str] = ()) -> Reading | None:
    """The scheme that a term is written in, bare or as `scheme:value`;
    None for what may be a symbol or a name.

    `own` are the names of sources, whose keys are schemes too.
    """
    text = term.strip()
    prefix, colon, rest = text.partition(":")
    if colon and prefix.strip().lower() in {*CHECKED, *own}:
        return _checked(prefix.strip().lower(), rest)
    if text[:3].lower() == "co-" and len(text) == 9:
        id_ = "co-" + text[3:].upper()
        return Reading(
            "company", id_, None if is_company_id(id_) else "the check character does not agree"
        )
    if _SCIENTIFIC.fullmatch(text):
        return Reading(
            "number", text, "a spreadsheet turned this into a number, and digits are lost"
        )
    bare = _bare(text)
    for scheme, shape in _SHAPES:
        if shape.fullmatch(bare) and " " not in text.strip():
            return _checked(scheme, bare)
    return None


def _bare(text: str) -> str:
    return text.upper().replace("-", "").replace(" ", "")


def _checked(scheme: str, value: str) -> Reading:
    if scheme not in CHECKED:
        return Reading(scheme, value.strip())
    bare = _bare(value)
    return Reading(
        scheme, bare, None if CHECKED[scheme](bare) else "the check digit does not agree"
    )


def one_slip_away(value: str) -> Iterator[str]:
    """Every text that one wrong character, or two neighbours swapped,
    could have turned into `value`.
    """
    for i, own in enumerate(value):
        for letter in _LETTERS:
            if letter != own:
                yield value[:i] + letter + value[i + 1 :]
    for i in range(len(value) - 1):
        if value[i] != value[i + 1]:
            yield value[:i] + value[i + 1] + value[i] + value[i + 2 :]


def zeros_restored(term: str) -> Iterator[Reading]:
    """What a term of digits was if a spreadsheet took its leading zeros away."""
    digits = term.strip()
    if digits.isascii() and digits.isdigit():
        for scheme, length in _PADDED:
            padded = digits.zfill(length)
            if len(digits) < length and CHECKED[scheme](padded):
                yield Reading(scheme, padded)
