"""What can go wrong with the ledger's file."""

from wise_ledger.core.errors import LedgerError


class StoreError(LedgerError):
    """The ledger cannot be read or written as it stands."""

    title = "The ledger cannot be used"


class ChainBroken(StoreError):
    """A batch does not match its hash: the ledger was changed from outside."""

    title = "The chain of batches is broken"
