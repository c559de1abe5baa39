"""What every question about time shares: how it is asked,
and what its answer says of that in its headers.
"""

import hashlib
import json
from collections.abc import Callable, Coroutine, Sequence
from contextvars import ContextVar
from dataclasses import replace
from datetime import date, datetime
from functools import partial
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import Depends, Request, Response
from fastapi.routing import APIRoute

from wise_ledger import __version__
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.meanings import as_in
from wise_ledger.wire import viewpoint as wire
from wise_ledger.wire.model import Number, iso_text
from wise_ledger.work import Problem
from wise_ledger.work.dates import read_cutoff
from wise_ledger.work.viewpoint import Viewpoint, read_viewpoint
from wise_ledger.work.whom import as_failed

_NAMED = 20  # who are not found, in a header


def read(desk: OpenDesk, asked: wire.PlainViewpoint) -> Viewpoint:
    """How a question with a body is asked; raises `BadInput`."""
    how = next(kind for kind in _HOW if isinstance(asked, kind))
    return read_viewpoint(desk, **{name: getattr(asked, name) for name in how.model_fields})


_HOW = (wire.CellViewpoint, wire.Viewpoint, wire.PlainViewpoint)
_said = partial(as_in, wire.CellViewpoint)
RecordedBy = Annotated[Number | None, _said("recorded_by")]


def _plain_query(
    desk: OpenDesk,
    known_on: Annotated[str | None, _said("known_on")] = None,
    recorded_by: RecordedBy = None,
    leave_out: Annotated[list[wire.MarkLeftOut] | None, _said("leave_out")] = None,
) -> Viewpoint:
    return read_viewpoint(desk, known_on, recorded_by, leave_out or ())


def _query(
    plain: Annotated[Viewpoint, Depends(_plain_query)],
    currency: Annotated[str | None, _said("currency")] = None,
) -> Viewpoint:
    return replace(plain, currency=currency)


def _cell_query(
    asked: Annotated[Viewpoint, Depends(_query)],
    hindsight: Annotated[bool, _said("hindsight")] = False,
) -> Viewpoint:
    return replace(asked, hindsight=hindsight)


# How a question without a body is asked, out of its query: of what stands in the unit it was
# published in; of amounts; of figures in cells.
AskedPlain = Annotated[Viewpoint, Depends(_plain_query)]
Asked = Annotated[Viewpoint, Depends(_query)]
AskedOfCells = Annotated[Viewpoint, Depends(_cell_query)]


def seen(viewpoint: Viewpoint, batch: int) -> dict[str, object]:
    """What an answer says of how it was asked; its headers say it too (`Dated`)."""
    stamp(viewpoint.known_on, viewpoint.recorded_by, batch)
    return {
        "known_on": viewpoint.known_on,
        "recorded_by": viewpoint.recorded_by,
        "leave_out": sorted(viewpoint.leave_out),
        "currency": viewpoint.currency,
        "batch": batch,
    }


def unanswered(failed: Sequence[Problem]) -> list[dict[str, object]]:
    """Who was named and is not found, as an answer says it; its headers name
    them too, whatever its form.
    """
    if failed:
        named = [_in_a_header(str(problem.value)) for problem in failed[:_NAMED]]
        more = [f"and {len(failed) - _NAMED} more"] if len(failed) > _NAMED else []
        _stamped.get({})["Unanswered"] = ", ".join([*named, *more])
    return as_failed(failed)


def _in_a_header(text: str) -> str:
    """A name as it may stand there: no header begins or ends with a space."""
    return quote(text, safe="@:.- " if text == text.strip() else "@:.-")


def stamp(known_on: date, recorded_by: int | None, batch: int) -> None:
    """Have the headers of the answer say what it rests on."""
    _stamped.get({})["Known-On"] = iso_text(known_on)
    _stamped.get({})["Batch"] = str(batch)
    if recorded_by is not None:
        _stamped.get({})["Recorded-By"] = str(recorded_by)


class Dated(APIRoute):
    """A call whose answer says in its headers as of when it is, whatever its form,
    and has an `ETag` of that.

    The same question with the same cut-offs has the same answer for ever (T7): the `ETag` is the
    question's, with the cut-offs and the batch. Who has that answer already (`If-None-Match`) hears
    so, with nothing else.
    """

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        handler = super().get_route_handler()

        async def answered(request: Request) -> Response:
            stamped: dict[str, str] = {}
            # a call is answered in a copy of this context, which has the same dictionary
            _stamped.set(stamped)
            response = await handler(request)
            if not stamped or response.status_code != 200:
                return response
            response.headers.update(stamped)
            # to be asked about, never shown unasked
            response.headers["Cache-Control"] = "private, no-cache"
            if request.method in ("GET", "POST"):
                response.headers["ETag"] = await _tag(request, response)
            if (
                request.method == "GET"
                and request.headers.get("if-none-match") == response.headers["ETag"]
            ):
                kept = ("Known-On", "Recorded-By", "Batch", "ETag", "Cache-Control")
                return Response(
                    status_code=304,
                    headers={n: response.headers[n] for n in kept if n in response.headers},
                )
            return response

        return answered


async def _tag(request: Request, response: Response) -> str:
    """Two forms of one answer have two: the media type is part of it."""
    # What was sent has been read; where nothing was, waiting for it would meet a client that is
    # gone.
    body = await request.body() if request.method == "POST" else b""
    asked = [request.method, request.url.path, request.url.query, body.decode(errors="replace")]
    headers = [response.headers[name] for name in ("Content-Type", "Known-On", "Batch")]
    parts = json.dumps([*asked, *headers, response.headers.get("Recorded-By"), __version__])
    return f'"{hashlib.sha256(parts.encode()).hexdigest()[:24]}"'


_stamped: ContextVar[dict[str, str]] = ContextVar("stamped")


def cutoff(known_on: str) -> datetime:
    """The cut-off that a date or an instant means (T3); raises `BadInput`."""
    return read_cutoff(known_on, "known_on")
