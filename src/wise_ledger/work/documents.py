"""Documents by their address, and when what became public."""

from datetime import datetime

from wise_ledger.core.errors import Problem
from wise_ledger.core.time.instants import micros
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import listreading, reading
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.reading import Document
from wise_ledger.work import NotFound, lists


def find_document(ledger: Ledger, address: str) -> tuple[Document, bytes]:
    """A document with its raw bytes, by its SHA-256 or an unambiguous
    beginning of it; raises `NotFound`.
    """
    with ledger.database.read() as connection:
        found = reading.find_document(connection, address.lower()) if len(address) >= 6 else None
        if found is None:
            mend = "give the SHA-256 of its bytes, or six characters or more of its beginning"
            raise NotFound(
                Problem("document", address, "there is no single document at this address", mend)
            )
        return found, reading.document_bytes(connection, found.sha256)


def publications(
    ledger: Ledger,
    snapshots: Snapshots,
    list_name: str | None = None,
    company: str | None = None,
) -> list[tuple[str, int]]:
    """How many facts became public in each month: of a company, of whoever
    was ever on a list, or of all.

    A list kept by a rule has no stays: those of whom the rule is true today stand for it. Raises
    `NotFound`.
    """
    snapshot = snapshots.at()
    numbers: set[int] | None = None
    if company is not None:
        numbers = {snapshot.number(company)}
    elif (
        list_name is not None
        and lists.find_list(ledger, list_name, snapshot.batch).rule is not None
    ):
        numbers = set(lists.members(ledger, snapshot, list_name, micros(ledger.now())))
    with ledger.database.read() as connection:
        if numbers is None and list_name is not None:
            numbers = {s.company for s in listreading.stays(connection, list_name, snapshot.batch)}
        return reading.published_by_month(connection, numbers, snapshot.view.limits)


def newest_publication(ledger: Ledger, snapshots: Snapshots) -> datetime | None:
    """The latest instant at which anything in the ledger became public."""
    with ledger.database.read() as connection:
        return reading.newest_publication(connection, snapshots.at().view.limits)
