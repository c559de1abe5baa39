"""Every call needs a token, except health and the console's own files."""

from typing import Annotated

from fastapi import Depends, Request
from fastapi.security import HTTPAuthorizationCredentials, HTTPBearer

from wise_ledger.work import access
from wise_ledger.work.desk import Desk

_bearer = HTTPBearer(auto_error=False, description="a token, as `serve` or `demo` prints it")


class NoAccess(Exception):
    """The call came without a token that holds."""


def desk(request: Request, given: Annotated[HTTPAuthorizationCredentials | None, Depends(_bearer)]) -> Desk:
    """The service's desk, for a caller with a token."""
    opened: Desk = request.app.state.desk
    if given is None or not access.accepts(opened.ledger, given.credentials):
        raise NoAccess
    return opened


OpenDesk = Annotated[Desk, Depends(desk)]
