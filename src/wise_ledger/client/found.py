"""Several answers of one kind, in order, that make a frame."""

from collections.abc import Iterable
from typing import TYPE_CHECKING, TypeVar

from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import rows_of
from wise_ledger.wire.tables import frame

if TYPE_CHECKING:
    import pandas as pd

M = TypeVar("M", bound=Model)


class Found(tuple[M, ...]):
    """A tuple of answers; `kind` is what they are."""

    kind: type[M]

    def __new__(cls, kind: type[M], items: Iterable[M]) -> "Found[M]":
        made = super().__new__(cls, items)
        made.kind = kind
        return made

    def frame(self) -> "pd.DataFrame":
        """One row each, the fields as columns, with types."""
        return frame(rows_of(self.kind, self))

    def __repr__(self) -> str:
        return f"<{len(self)} of {self.kind.__name__}>"
