"""The Python client: one object, verbs of the trade, pandas out."""

from wise_ledger.client.errors import (
    AccessDenied,
    InputRefused,
    NotThere,
    ServiceFailed,
    ServiceUnreachable,
    WiseLedgerError,
)
from wise_ledger.client.ledger import Ledger, connect
from wise_ledger.client.results import Explained, Matches, Screened

__all__ = [
    "AccessDenied",
    "Explained",
    "InputRefused",
    "Ledger",
    "Matches",
    "NotThere",
    "Screened",
    "ServiceFailed",
    "ServiceUnreachable",
    "WiseLedgerError",
    "connect",
]
