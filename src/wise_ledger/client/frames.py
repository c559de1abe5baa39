"""Rows of an answer as a frame: the columns of every other export, in the same order, with types."""

from collections.abc import Hashable, Sequence
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel

from wise_ledger.wire.figures import Column

if TYPE_CHECKING:
    import pandas as pd


def how_asked(answer: BaseModel, *parts: str) -> dict[Hashable | None, Any]:
    """What an answer says of itself beside its large parts: for `attrs`."""
    plain = answer.model_dump(mode="json", exclude=set(parts))
    return {name: value for name, value in plain.items() if value is not None}


def frame_of(
    rows: Sequence[dict[str, object]],
    about: Sequence[str],
    columns: Sequence[Column],
    attrs: dict[Hashable | None, Any],
) -> "pd.DataFrame":
    """Rows indexed by company: first what they are `about`, then each column with what goes with it.

    Figures are float64, NaN where missing; dates are timestamps, instants in UTC. Empty answers have the same columns
    and types.
    """
    import pandas as pd

    kinds = ["reason", "currency", "period", "period_end", "known_at", "marks"]
    names = [*about, *(n for c in columns for n in (c.expression, *(f"{c.expression} {k}" for k in kinds)))]
    frame = pd.DataFrame(rows, columns=names)
    kept: dict[str, str] = {"active": "bool", "weight": "float64"}
    types = {name: kept.get(name, "str") for name in about}
    for column in columns:
        is_text = column.unit in ("text", "truth")
        types[column.expression] = "str" if is_text else "float64"
        types |= {f"{column.expression} {kind}": "str" for kind in kinds if kind not in _TIMES}
        for kind, zoned in _TIMES.items():
            name = f"{column.expression} {kind}"
            frame[name] = pd.to_datetime(frame[name], utc=zoned, format="ISO8601").dt.as_unit("us")
    frame = frame.astype(types).set_index("company")
    frame.attrs = attrs
    return frame


_TIMES = {"period_end": False, "known_at": True}  # whether with a zone
