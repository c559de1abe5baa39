"""/tokens: who may call; made, listed, revoked."""

from fastapi import Response

from wise_ledger.service.access import OpenDesk
from wise_ledger.service.routes import calls
from wise_ledger.wire.tokens import MadeToken, NewToken, TokenInfo, TokenList
from wise_ledger.work.access import Token
from wise_ledger.work.desk import Desk

router = calls("tokens", "/tokens")


@router.get("")
def tokens(desk: OpenDesk) -> TokenList:
    """All tokens, the newest first, with when each was last used; never their secrets."""
    return TokenList(tokens=[TokenInfo(**_shown(desk, token)) for token in desk.tokens.all()])


@router.post("", status_code=201)
def make(desk: OpenDesk, asked: NewToken, response: Response) -> MadeToken:
    """A new token: its secret is in this answer, and nowhere else."""
    made, secret = desk.tokens.make(asked.name, asked.days)
    response.headers["Cache-Control"] = "no-store"
    return MadeToken(**_shown(desk, made), token=secret)


@router.delete("/{token}")
def revoke(desk: OpenDesk, token: str) -> TokenInfo:
    """End a token now, by its id; one that is used for this call ends with it."""
    return TokenInfo(**_shown(desk, desk.tokens.revoke(token)))


def _shown(desk: Desk, token: Token) -> dict[str, object]:
    found = {name: value for name, value in vars(token).items() if name != "hash"}
    return found | {"holds": token.holds(desk.ledger.now())}
