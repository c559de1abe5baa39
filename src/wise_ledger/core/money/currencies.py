"""Currencies as small numbers: the three letters of ISO 4217 read as digits of base 26."""

from functools import cache

NO_CURRENCY = -1


def currency_code(code: str) -> int:
    """A three-letter currency as a small number: its letters read as digits of base 26."""
    a, b, c = (ord(letter) - 65 for letter in code)
    return (a * 26 + b) * 26 + c


def is_currency(code: str) -> bool:
    """Whether it is written like a code of ISO 4217: three capitals."""
    return len(code) == 3 and code.isascii() and code.isalpha() and code.isupper()


def currency_of(unit: str) -> int:
    """The currency number of a fact's unit (`EUR`, `EUR/shares`); `NO_CURRENCY` for others."""
    money = unit.partition("/")[0]
    return currency_code(money) if len(money) == 3 and money.isupper() else NO_CURRENCY


@cache
def currency_name(code: int) -> str | None:
    """The letters of a currency number; None for `NO_CURRENCY`."""
    if code < 0:
        return None
    return chr(65 + code // 676) + chr(65 + code // 26 % 26) + chr(65 + code % 26)
