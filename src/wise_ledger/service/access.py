"""Every call needs a token, except health and the console's own files;
the gate has looked at it.
"""

from typing import Annotated

from fastapi import Depends, Request
from fastapi.security import HTTPAuthorizationCredentials, HTTPBearer

from wise_ledger.work.desk import Desk

_bearer = HTTPBearer(auto_error=False, description="a token, as `tokens make` prints it")


async def desk(
    request: Request, _given: Annotated[HTTPAuthorizationCredentials | None, Depends(_bearer)]
) -> Desk:
    """The service's desk, for a caller whom the gate let in with a token."""
    if "token" not in request.scope:
        raise RuntimeError("a call came past the gate")
    opened: Desk = request.app.state.desk
    return opened


OpenDesk = Annotated[Desk, Depends(desk)]
