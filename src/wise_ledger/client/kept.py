"""What was kept under a name, as a question to be asked again."""

from typing import Literal, TypeVar, cast

from wise_ledger.client.errors import refused
from wise_ledger.client.given import When, request_of
from wise_ledger.client.viewpoint import CellSeen, Seen, cell_viewpoint, viewpoint
from wise_ledger.wire.panels import QuestionInfo
from wise_ledger.wire.viewpoint import Viewpoint

V = TypeVar("V", bound=Viewpoint)


def asked_again(
    found: QuestionInfo,
    kind: Literal["panel", "screen"],
    model: type[V],
    known_on: When | None,
    seen: Seen,
) -> V:
    """The question as it was kept; as known on another date, or seen otherwise, where that is said.

    Raises `InputRefused` for a question of the other kind.
    """
    if found.kind != kind:
        mend = f"ask it as a {found.kind}, or name a {kind}: `questions` has them"
        raise refused("name", found.name, f"this question is a {found.kind}", mend)
    of_cells = kind == "screen"
    how = cell_viewpoint(known_on, cast(CellSeen, seen)) if of_cells else viewpoint(known_on, seen)
    otherwise = {name: value for name, value in how.items() if value}
    return request_of(model, **{**found.question, **otherwise})
