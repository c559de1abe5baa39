"""How a question is asked, as callers write it."""

from collections.abc import Sequence
from typing import Any, TypedDict

from wise_ledger.client.given import When, number, one_text, truth, when, words
from wise_ledger.wire.viewpoint import MarkLeftOut


class Seen(TypedDict, total=False):
    """What every question about time may say beside its date.

    `recorded_by` leaves out later batches; `leave_out` figures with these marks
    (`without_assumed=True` is short for `["assumed"]`); with `hindsight` cells also say whether
    they read differently later; amounts come in `currency`.
    """

    recorded_by: int | None
    leave_out: Sequence[MarkLeftOut]
    without_assumed: bool
    hindsight: bool
    currency: str | None


def viewpoint(known_on: When | None, how: Seen) -> dict[str, Any]:
    """The fields of a question on the wire."""
    without = truth("without_assumed", how.get("without_assumed", False))
    marks = [*words("leave_out", how.get("leave_out", ())), *(["assumed"] if without else [])]
    plain = {
        "recorded_by": number("recorded_by", how.get("recorded_by")),
        "currency": one_text("currency", how.get("currency")),
        "known_on": None if known_on is None else when(known_on),
        "leave_out": list(dict.fromkeys(marks)),
    }
    return {**plain, "hindsight": truth("hindsight", how.get("hindsight", False))}
