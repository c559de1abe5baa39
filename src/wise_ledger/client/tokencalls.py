"""Calls about tokens: who may call."""

from wise_ledger.client.answers import body_of
from wise_ledger.client.given import request_of, segment
from wise_ledger.client.transport import Transport
from wise_ledger.wire.tokens import MadeToken, NewToken, TokenInfo, TokenList


class TokenCalls:
    """A part of `Ledger`."""

    _transport: Transport

    def tokens(self) -> TokenList:
        """All tokens, the newest first, with when each was last used;
        `frame()` has one row each.
        """
        return body_of(TokenList, self._transport.get("/tokens"))

    def make_token(self, name: str, *, days: int | None = None) -> MadeToken:
        """A new token, which holds for so many days or until it is revoked.

        Its secret is shown this once.
        """
        asked = request_of(NewToken, name=name, days=days)
        return body_of(MadeToken, self._transport.post("/tokens", asked.model_dump()))

    def revoke_token(self, token: str) -> TokenInfo:
        """End a token now, by its id; raises `NotFound`."""
        return body_of(TokenInfo, self._transport.delete(f"/tokens/{segment(token)}"))
