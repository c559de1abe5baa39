"""Titles of industries."""

from wise_ledger.core.identity.industries import DIVISIONS


def title(division: str | None) -> str | None:
    """The short title of an ISIC division; the code itself where it is none."""
    return None if division is None else DIVISIONS.get(division, division)
