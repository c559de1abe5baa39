"""The calls of the API, room by room: what each of them has in common is said once,
where its route is laid out.

A route is laid out as it will be served. Routers that include routers would work out three times
what it takes and gives, which is most of what a start costs beside loading the code.
"""

from fastapi import APIRouter, Depends

from wise_ledger.service.again import Call
from wise_ledger.service.parameters import refuse_strangers
from wise_ledger.wire.model import build_all
from wise_ledger.wire.problems import ProblemDetails

API = "/api/v1"
_PROBLEM = {"model": ProblemDetails, "description": "What is wrong, where, and the mend"}


def calls(tag: str, under: str = "") -> APIRouter:
    """The calls of a room, under a path of the API or several;
    what a call does not read is refused.

    The models of its bodies are to be at hand: what is put off is built before anything is made of
    it.
    """
    build_all()
    return APIRouter(
        prefix=API + under,
        tags=[tag],
        route_class=Call,
        responses={422: _PROBLEM, "default": _PROBLEM},
        dependencies=[Depends(refuse_strangers)],
    )
