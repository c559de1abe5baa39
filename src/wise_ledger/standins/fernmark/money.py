"""Made-up currency rates: units of USD and JPY for one EUR on every weekday,
wandering about a mean.
"""

import random
from datetime import date, timedelta
from typing import Any

# mean, daily step as a share, decimals
_PAIRS = {"USD": (1.16, 0.0045, 4), "JPY": (129.0, 0.0055, 2)}


def make_rates(since: date, until: date, seed: int = 7) -> list[dict[str, Any]]:
    """One row a weekday from `since` to `until`; the same for the same seed,
    whatever the first day asked.
    """
    rng = random.Random(f"{seed}:rates")
    now = {quote: mean for quote, (mean, _, _) in _PAIRS.items()}
    day, rows = date(2011, 12, 26), []
    while day <= until:
        if day.weekday() < 5:
            for quote, (mean, step, _) in _PAIRS.items():
                now[quote] *= 1 + rng.gauss(0, step) + 0.002 * (mean / now[quote] - 1)
            if day >= since:
                rates = {
                    quote: round(now[quote], decimals) for quote, (_, _, decimals) in _PAIRS.items()
                }
                rows.append({"date": day.isoformat(), "base": "EUR", "rates": rates})
        day += timedelta(1)
    return rows
