"""Lists page by cursor: `next` of an answer is the `cursor` of the page after."""

from collections.abc import Callable, Sequence
from typing import Annotated, TypeVar

from fastapi import Query

from wise_ledger.wire.model import Number

R = TypeVar("R")
_MEANING = "`next` of the page before"
Cursor = Annotated[Number, Query(description=_MEANING)]
Before = Annotated[Number | None, Query(description=_MEANING)]
"""Of a list whose newest stands first, and grows while somebody reads it: the number of the last shown."""


def following(before: int, shown: int, total: int) -> str | None:
    """The cursor of the page after, which is how many came before it; none after the last."""
    return str(before + shown) if 0 < shown < total - before else None


def newest(
    found: Sequence[R], limit: int, number: Callable[[R], int]
) -> tuple[Sequence[R], str | None]:
    """Of one more than fits on a page those that do, and the cursor of the page after."""
    shown = found[:limit]
    return shown, str(number(shown[-1])) if len(found) > limit else None
