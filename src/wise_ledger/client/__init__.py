"""The Python client: one object, verbs of the trade, pandas out."""

from wise_ledger.client.beside import AsyncLedger, connect_async
from wise_ledger.client.errors import (
    AccessDenied,
    InputRefused,
    NotThere,
    ServiceFailed,
    ServiceUnreachable,
    WiseLedgerError,
)
from wise_ledger.client.found import Found
from wise_ledger.client.ledger import Ledger, connect
from wise_ledger.client.paneltable import PanelTable
from wise_ledger.client.results import Explained, Matches, Members, Screened, Stated

__all__ = [
    "AccessDenied",
    "AsyncLedger",
    "Explained",
    "Found",
    "InputRefused",
    "Ledger",
    "Matches",
    "Members",
    "NotThere",
    "PanelTable",
    "Screened",
    "ServiceFailed",
    "ServiceUnreachable",
    "Stated",
    "WiseLedgerError",
    "connect",
    "connect_async",
]
