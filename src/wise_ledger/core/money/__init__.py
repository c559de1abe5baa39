"""Currencies, rates between them, splits of shares."""
