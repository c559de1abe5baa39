"""Currencies as small numbers: the three letters of ISO 4217 read as digits of base 26."""

from collections.abc import Mapping
from functools import cache

from wise_ledger.core.nearest import nearest

NO_CURRENCY = -1


def currency_code(code: str) -> int:
    """A three-letter currency as a small number: its letters read as digits of base 26."""
    a, b, c = (ord(letter) - 65 for letter in code)
    return (a * 26 + b) * 26 + c


# Codes that ISO 4217 has withdrawn (its part 3): figures of those years are still published in
# them.
WITHDRAWN = frozenset(
    "ADP ATS BEF BGL CSD CYP CZK DEM EEK ESP FIM FRF GHC GRD GWP HRK IEP ITL LTL LUF LVL MGF MRO MTL MXP MZM NLG PLZ "
    "PTE ROL RUR SDD SIT SKK SRG STD SUR TRL VEB VEF XEU YUM ZAL ZMK ZWL".split()
)


@cache
def currencies() -> Mapping[str, str]:
    """The codes of ISO 4217, withdrawn ones too, with the name of each currency in use."""
    from pycountry import currencies as known  # reading the standard takes a while

    return {**dict.fromkeys(WITHDRAWN, "withdrawn"), **{c.alpha_3: c.name for c in known}}


def is_currency(code: str) -> bool:
    """Whether it is a code of ISO 4217.

    >>> is_currency("EUR"), is_currency("eur"), is_currency("QQQ")
    (True, False, False)
    """
    return code in currencies()


def near_currencies(code: str) -> str:
    """What to write in the place of a code that does not exist.

    >>> near_currencies("EUO")
    'write a code of ISO 4217, such as EUR'
    """
    near = nearest(code.upper(), currencies().keys() - WITHDRAWN) or ["EUR", "USD", "JPY"]
    return f"write a code of ISO 4217, such as {', '.join(near)}"


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
