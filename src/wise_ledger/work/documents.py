"""Documents by their address, and when what became public."""

from datetime import datetime

from wise_ledger.core.errors import Problem
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import listreading, reading
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.reading import Document
from wise_ledger.work import NotFound


def find_document(ledger: Ledger, address: str) -> tuple[Document, bytes]:
    """A document with its raw bytes, by its SHA-256 or an unambiguous beginning of it; raises `NotFound`."""
    with ledger.database.read() as connection:
        found = reading.find_document(connection, address.lower()) if len(address) >= 6 else None
        if found is None:
            mend = "give the SHA-256 of its bytes, or six characters or more of its beginning"
            raise NotFound(Problem("document", address, "there is no single document at this address", mend))
        return found, reading.document_bytes(connection, found.sha256)


def publications(ledger: Ledger, snapshots: Snapshots, list_name: str | None) -> list[tuple[str, int]]:
    """How many facts became public in each month, of a list's companies or of all."""
    numbers = None
    with ledger.database.read() as connection:
        if list_name is not None:
            stays = listreading.stays(connection, list_name, snapshots.at().batch)
            numbers = {s.company for s in stays}
        return reading.published_by_month(connection, numbers)


def newest_publication(ledger: Ledger) -> datetime | None:
    """The latest instant at which anything in the ledger became public."""
    with ledger.database.read() as connection:
        return reading.newest_publication(connection)
