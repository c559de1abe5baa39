"""How a question is asked, as callers write it."""

from collections.abc import Sequence
from typing import Any, TypedDict

from wise_ledger.client.errors import refused
from wise_ledger.client.given import When, number, one_text, truth, when, words
from wise_ledger.wire.viewpoint import MarkLeftOut


class PlainSeen(TypedDict, total=False):
    """What every question about time may say beside its date.

    `recorded_by` leaves out later batches; `leave_out` figures with these marks
    (`without_assumed=True` is short for `["assumed"]`).
    """

    recorded_by: int | None
    leave_out: Sequence[MarkLeftOut]
    without_assumed: bool


class Seen(PlainSeen, total=False):
    """The same, of what can be shown in a currency of choice: amounts come in `currency`."""

    currency: str | None


class CellSeen(Seen, total=False):
    """The same, of figures in cells: with `hindsight` they also say whether they read
    differently later.
    """

    hindsight: bool


_NOT_TAKEN = {
    "currency": "what is asked for stands in the unit it was published in",
    "hindsight": "what is asked for has no cells that could say what reads differently later",
}


def viewpoint(known_on: When | None, how: Seen) -> dict[str, Any]:
    """The fields of a question on the wire; raises `InputRefused`."""
    currency = one_text("currency", how.get("currency"))
    return {"currency": currency, **_fields(known_on, how, Seen)}


def plain_viewpoint(known_on: When | None, how: PlainSeen) -> dict[str, Any]:
    """The same, of what stands in the unit it was published in."""
    return _fields(known_on, how, PlainSeen)


def cell_viewpoint(known_on: When | None, how: CellSeen) -> dict[str, Any]:
    """The same, of figures in cells."""
    currency = one_text("currency", how.get("currency"))
    hindsight = truth("hindsight", how.get("hindsight", False))
    return {"currency": currency, "hindsight": hindsight, **_fields(known_on, how, CellSeen)}


def _fields(known_on: When | None, how: PlainSeen, of: type[PlainSeen]) -> dict[str, Any]:
    known = of.__annotations__.keys()
    for name, value in how.items():
        if name not in known:
            problem = _NOT_TAKEN.get(name, "this call takes nothing of this name")
            raise refused(name, value, problem, f"it takes {', '.join(sorted(known))}")
    without = truth("without_assumed", how.get("without_assumed", False))
    marks = [*words("leave_out", how.get("leave_out", ())), *(["assumed"] if without else [])]
    return {
        "recorded_by": number("recorded_by", how.get("recorded_by")),
        "known_on": None if known_on is None else when(known_on),
        "leave_out": list(dict.fromkeys(marks)),
    }
