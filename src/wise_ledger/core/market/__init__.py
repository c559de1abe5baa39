"""Prices of listings as known on a day: closes, returns, windows, market value (M3 to M5)."""
