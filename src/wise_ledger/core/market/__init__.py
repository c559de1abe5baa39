"""Market data: currency rates."""
