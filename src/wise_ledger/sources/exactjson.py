"""JSON whose numbers with a point stay exact."""

import json
from decimal import Decimal
from typing import Any


def read_json(raw: bytes) -> Any:
    """What JSON says, numbers with a point exact; raises `ValueError`,
    also for NaN and infinities.
    """
    return json.loads(raw, parse_float=Decimal, parse_constant=_no_number)


def _no_number(constant: str) -> Any:
    raise ValueError(f"{constant} is no number")
