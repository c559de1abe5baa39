"""Values of attributes as people write them in rules: codes,
or the names that are shown for them.
"""

from collections.abc import Mapping

from wise_ledger.core.catalogue.items import ALL_TEMPLATES
from wise_ledger.core.identity.industries import DIVISIONS
from wise_ledger.core.money.currencies import currencies, near_currencies
from wise_ledger.core.nearest import nearest

NOTHING: Mapping[str, str] = {}
SECURITY_TYPES = ("ordinary", "preference", "depositary_receipt", "fund", "unit", "warrant")
# The codes of an attribute with the name shown for each; attributes that are not here take any
# text.
CODES: Mapping[str, Mapping[str, str]] = {
    "industry": DIVISIONS,
    "template": {code: code for code in sorted(ALL_TEMPLATES)},
    "security_type": {code: code.replace("_", " ") for code in SECURITY_TYPES},
    "fiscal_year_end": {str(month): str(month) for month in range(1, 13)},
}


def codes_of(attribute: str, known: Mapping[str, str]) -> Mapping[str, str] | None:
    """The codes of an attribute with the names shown: of its table, else
    those `known`; None for any text.
    """
    return CODES.get(attribute, currencies() if attribute == "currency" else known or None)


def code_of(attribute: str, text: str, known: Mapping[str, str] = NOTHING) -> str | None:
    """The code that a text means; None where there is none.

    Of attributes without a table the text itself.

    `known` are codes that the ledger has, with the names shown for them.

    >>> code_of("industry", "glass and ceramics")
    '23'
    """
    codes = codes_of(attribute, known)
    if codes is None or text in codes:
        return text
    plain = text.casefold().strip()
    if attribute == "fiscal_year_end":  # a month, written with a nought or without
        plain = plain.lstrip("0")
    return next(
        (code for code, name in codes.items() if plain in (name.casefold(), code.casefold())), None
    )


def near_codes(attribute: str, text: str, known: Mapping[str, str] = NOTHING) -> str:
    """What exists that is most like a text, with the names shown."""
    if attribute == "currency":
        return near_currencies(text)
    codes = codes_of(attribute, known) or {}
    names = {f"{code} {name}" if name != code else code: code for code, name in codes.items()}
    plain = text.casefold()
    found = [shown for shown in names if plain and plain in shown.casefold()][:3] or nearest(
        text, list(names)
    )
    few = list(names) if len(names) <= 12 else found or list(names)[:3]
    return f"write {', '.join(few)}"
