"""What every question about time shares: how it is asked, and the ETag of an answer."""

import hashlib
from datetime import datetime
from typing import Annotated

from fastapi import Depends, Query, Response
from pydantic import BaseModel

from wise_ledger.service.access import OpenDesk
from wise_ledger.wire import viewpoint as wire
from wise_ledger.wire.model import Number
from wise_ledger.work.dates import read_cutoff
from wise_ledger.work.viewpoint import Viewpoint, read_viewpoint


def read(desk: OpenDesk, asked: wire.Viewpoint) -> Viewpoint:
    """How a question with a body is asked; raises `BadInput`."""
    fields = {name: getattr(asked, name) for name in wire.Viewpoint.model_fields}
    return read_viewpoint(desk, **fields)


def _query(
    desk: OpenDesk,
    known_on: Annotated[
        str | None,
        Query(description="YYYY-MM-DD (its end, UTC) or an instant; by default now", examples=["2023-06-30"]),
    ] = None,
    recorded_by: Annotated[Number | None, Query(description="ignore every batch after this one")] = None,
    leave_out: Annotated[list[wire.Mark] | None, Query(description="figures with these marks do not count")] = None,
    hindsight: Annotated[bool, Query(description="also say what reads differently later")] = False,
    currency: Annotated[str | None, Query(description="ISO 4217: show amounts in it")] = None,
) -> Viewpoint:
    return read_viewpoint(desk, known_on, recorded_by, leave_out or (), hindsight, currency)


# How a question without a body is asked, out of its query.
Asked = Annotated[Viewpoint, Depends(_query)]


def seen(viewpoint: Viewpoint, batch: int) -> dict[str, object]:
    """What an answer says of how it was asked."""
    return {
        "known_on": viewpoint.known_on,
        "recorded_by": viewpoint.recorded_by,
        "leave_out": sorted(viewpoint.leave_out),
        "currency": viewpoint.currency,
        "batch": batch,
    }


def cutoff(known_on: str) -> datetime:
    """The cut-off that a date or an instant means (T3); raises `BadInput`."""
    return read_cutoff(known_on, "known_on")


def tag(response: Response, answer: BaseModel) -> None:
    """Name the answer by its content, so that the same question of the same ledger has the same ETag (T7)."""
    tag_bytes(response, answer.model_dump_json().encode())


def tag_bytes(response: Response, body: bytes) -> None:
    """The same, for an answer that is written already."""
    response.headers["ETag"] = f'"{hashlib.sha256(body).hexdigest()[:24]}"'
