"""Tokens: made once, shown once, kept only as a hash.

A token is `wl_`, an id and 256 random bits. Since nobody chooses it, a plain SHA-256 of it is as hard to turn back as
the token is to guess, and checking it costs nothing on each call.
"""

import hashlib
import hmac
import secrets

from wise_ledger.store import operations
from wise_ledger.store.ledger import Ledger


def make_token(ledger: Ledger, name: str) -> str:
    """A new token; only its hash is kept."""
    id_, secret = secrets.token_hex(4), secrets.token_urlsafe(32)
    token = f"wl_{id_}_{secret}"
    with ledger.database.write() as connection:
        operations.add_token(connection, id_, name, _hash(token), ledger.now())
    return token


def accepts(ledger: Ledger, token: str) -> bool:
    """Whether the token is one of ours and not revoked."""
    parts = token.split("_", 2)
    if len(parts) != 3 or parts[0] != "wl":
        return False
    with ledger.database.read() as connection:
        kept = operations.token_hash(connection, parts[1])
    return kept is not None and hmac.compare_digest(kept, _hash(token))


def anybody(ledger: Ledger) -> bool:
    """Whether any token was ever made and still holds."""
    with ledger.database.read() as connection:
        return operations.has_tokens(connection)


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
