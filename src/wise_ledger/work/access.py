"""Tokens: made once, shown once, kept only as a hash; they end on a day or when they are revoked.

A token is `wl_`, an id and 256 random bits. Since nobody chooses it, a plain SHA-256 of it is as
hard to turn back as the token is to guess, and checking it costs nothing on each call.
"""

import hashlib
import hmac
import secrets
import threading
from datetime import datetime, timedelta

from wise_ledger.core.errors import NotFound, Problem, bad_input
from wise_ledger.store import tokenkeeping
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.tokenkeeping import Token

_LONGEST_NAME = 100
_LONGEST = 3650  # days


class Tokens:
    """The tokens of a ledger; safe for many threads."""

    def __init__(self, ledger: Ledger) -> None:
        self._ledger = ledger
        self._lock = threading.Lock()
        self._known: dict[str, Token] = {}
        self._used: dict[str, datetime] = {}

    def make(self, name: str, days: int | None = None) -> tuple[Token, str]:
        """A new token, which holds for so many days or until it is revoked; only its hash is kept.

        Raises `BadInput` for a name that says nothing, or a span that is none.
        """
        if not name.strip() or len(name) > _LONGEST_NAME or not name.isprintable():
            raise bad_input(
                "name",
                name[:_LONGEST_NAME],
                "this is no name",
                "say in a few words whose the token is",
            )
        if days is not None and not 1 <= days <= _LONGEST:
            raise bad_input(
                "days", days, "a token cannot end then", f"write 1 to {_LONGEST:,}, or nothing"
            )
        now = self._ledger.now()
        id_ = secrets.token_hex(4)
        token = f"wl_{id_}_{secrets.token_urlsafe(32)}"
        made = Token(
            id_, name.strip(), _hash(token), now, None if days is None else now + timedelta(days)
        )
        with self._ledger.database.write() as connection:
            tokenkeeping.add(connection, made)
        return made, token

    def known(self, token: str) -> bool:
        """Whether looking at a token takes no look into the ledger."""
        return token[3:11] in self._known

    def accepted(self, token: str) -> Token | None:
        """The token, if it is one of ours and holds; that it was used is remembered."""
        parts = token.split("_", 2)
        if len(parts) != 3 or parts[0] != "wl" or not parts[1].isalnum():
            return None
        kept = self._known.get(parts[1])
        if kept is None:
            with self._ledger.database.read() as connection:
                kept = tokenkeeping.find(connection, parts[1])
            if kept is None:
                return None
            with self._lock:
                self._known[kept.id] = kept
        now = self._ledger.now()
        if not hmac.compare_digest(kept.hash, _hash(token)) or not kept.holds(now):
            return None
        self._used[kept.id] = now
        return kept

    def revoke(self, id_: str) -> Token:
        """End a token now; raises `NotFound`."""
        with self._lock:
            with self._ledger.database.write() as connection:
                tokenkeeping.revoke(connection, id_, self._ledger.now())
                kept = tokenkeeping.find(connection, id_)
            self._known.pop(id_, None)
        if kept is None:
            raise NotFound(
                Problem(
                    "token",
                    id_[:40],
                    "there is no such token",
                    "`wise-ledger tokens list` has them",
                )
            )
        return kept

    def all(self) -> list[Token]:
        """Every token ever made, the newest first, with when each was last used."""
        self.remember()
        with self._ledger.database.read() as connection:
            return tokenkeeping.every(connection)

    def anybody(self) -> bool:
        """Whether anybody can sign in."""
        now = self._ledger.now()
        with self._ledger.database.read() as connection:
            return any(token.holds(now) for token in tokenkeeping.every(connection))

    def remember(self) -> None:
        """Write down when tokens were last used; until then it is only in memory."""
        with self._lock:
            used, self._used = self._used, {}
        if used:
            with self._ledger.database.write() as connection:
                tokenkeeping.used(connection, used)


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode("utf-8", "surrogatepass")).hexdigest()
