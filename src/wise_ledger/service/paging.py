"""Lists page by cursor: `next` of an answer is the `cursor` of the page after."""

from typing import Annotated

from fastapi import Query

from wise_ledger.wire.model import Number

Cursor = Annotated[Number, Query(description="`next` of the page before")]


def following(before: int, shown: int, total: int) -> str | None:
    """The cursor of the page after, which is how many came before it; none after the last."""
    return str(before + shown) if 0 < shown < total - before else None
