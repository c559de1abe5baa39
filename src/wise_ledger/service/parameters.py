"""Parameters of a call: one that nobody reads, or one given twice where one is read,
is refused, not passed over.
"""

from collections.abc import Iterator
from types import UnionType
from typing import Any, Union, get_args, get_origin

from fastapi import Request
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute

from wise_ledger.work import BadInput, Problem, mend_for


async def refuse_strangers(request: Request) -> None:
    """Refuse parameters that the call does not read; raises `BadInput`."""
    route = request.scope.get("route")
    if not isinstance(route, APIRoute):
        return
    known = dict(_read(route.dependant))
    problems = []
    for name in dict.fromkeys(request.query_params.keys()):
        values = request.query_params.getlist(name)
        if name not in known:
            mend = mend_for(name, known) if known else "leave it out: this call takes none"
            problems.append(Problem(name, values[0][:80], "this call has no such parameter", mend))
        elif len(values) > 1 and not _takes_many(known[name]):
            problems.append(
                Problem(name, ", ".join(values)[:80], "it is given more than once", "give it once")
            )
    if problems:
        raise BadInput(*problems)


def _read(dependant: Dependant) -> Iterator[tuple[str, Any]]:
    """The parameters that a call reads, with their types."""
    for field in dependant.query_params:
        yield field.alias, field.field_info.annotation
    for part in dependant.dependencies:
        yield from _read(part)


def _takes_many(kind: Any) -> bool:
    if get_origin(kind) in (Union, UnionType):
        return any(_takes_many(part) for part in get_args(kind))
    return kind is list or get_origin(kind) is list
