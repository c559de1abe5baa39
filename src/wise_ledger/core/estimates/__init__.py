"""What analysts expected, as known on a day: consensus, horizons, surprise (E1 to E5)."""
