"""Attributes whose values are codes: which there are, and how to write one."""

from collections.abc import Callable, Mapping

from wise_ledger.core.catalogue.items import ALL_TEMPLATES
from wise_ledger.core.identity.industries import DIVISIONS
from wise_ledger.core.money.currencies import is_currency


def _month(value: str) -> bool:
    return value.isascii() and value.isdigit() and len(value) <= 2 and 1 <= int(value) <= 12


# Of attributes whose values are codes: what is asked of one, and how to write it.
CODES: Mapping[str, tuple[Callable[[str], bool], str]] = {
    "fiscal_year_end": (_month, "write the month as 1 to 12"),
    "fiscal_year_named_by": (lambda v: v in ("start", "end"), "write start or end"),
    "template": (lambda v: v in ALL_TEMPLATES, f"write {', '.join(sorted(ALL_TEMPLATES))}"),
    "currency": (is_currency, "write a code of ISO 4217, such as EUR"),
    "active": (lambda v: v in ("yes", "no"), "write yes or no"),
    "industry": (lambda v: v in DIVISIONS, "write a division of ISIC Rev. 4, such as 23"),
    "country": (
        lambda v: len(v) == 2 and v.isascii() and v.isalpha() and v.isupper(),
        "write two capitals: XA",
    ),
}
