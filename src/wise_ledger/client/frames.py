"""Rows of an answer as a frame: the columns of every other export, in the same order,
with types.
"""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from wise_ledger.wire.figures import BESIDE, Column
from wise_ledger.wire.rows import Rows
from wise_ledger.wire.tables import frame

if TYPE_CHECKING:
    import pandas as pd


def frame_of(rows: Rows, about: Sequence[str], columns: Sequence[Column]) -> "pd.DataFrame":
    """Rows indexed by company: first what they are `about`,
    then each column with what goes with it.

    Figures are float64, NaN where missing; dates are timestamps, instants in UTC. Empty answers
    have the same columns and types; `attrs` hold how it was asked.
    """
    made = frame(rows)
    kept: dict[str, str] = {"active": "bool", "weight": "float64"}
    types = {name: kept.get(name, "str") for name in about} | {"list": "str", "batch": "int64"}
    for column in columns:
        types[column.name] = "str" if column.unit in ("text", "truth") else "float64"
        types |= {
            column.beside(kind): "str" for kind in BESIDE if kind not in ("period_end", "known_at")
        }
        made[column.beside("period_end")] = made[column.beside("period_end")].dt.as_unit("us")
    made = made.astype(types).set_index("company")
    made.attrs.update(rows.context)
    return made
