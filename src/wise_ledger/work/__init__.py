"""What the service can do, one module a job.

Errors that a person sees come from here for the rooms above.
"""

from wise_ledger.core.errors import BadInput, LedgerError, NotFound, Problem
from wise_ledger.core.nearest import mend_for
from wise_ledger.sources.errors import SourceError, SourceRefused, SourceUnreachable
from wise_ledger.store.errors import ChainBroken, StoreError

__all__ = [
    "BadInput",
    "ChainBroken",
    "LedgerError",
    "NotFound",
    "Problem",
    "SourceError",
    "SourceRefused",
    "SourceUnreachable",
    "StoreError",
    "mend_for",
]
