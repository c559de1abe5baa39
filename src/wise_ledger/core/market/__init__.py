"""Market data: currency rates, and splits of shares."""
