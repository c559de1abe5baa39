"""Wise Ledger: a shared point-in-time fundamentals ledger.

`connect()` opens a client of a running service, `connect_async()` one for `async` code; what they
raise has `WiseLedgerError` as its root.
"""

from typing import TYPE_CHECKING, Any

__version__ = "0.1.0"
__all__ = [
    "AccessDenied", "InputRefused", "Ledger", "NotThere", "ServiceFailed", "ServiceUnreachable", "WiseLedgerError",
    "__version__", "connect", "connect_async",
]  # fmt: skip

if TYPE_CHECKING:
    from wise_ledger.client import (
        AccessDenied,
        InputRefused,
        Ledger,
        NotThere,
        ServiceFailed,
        ServiceUnreachable,
        WiseLedgerError,
        connect,
        connect_async,
    )


def __getattr__(name: str) -> Any:
    # The client needs pandas; the command line must not pay for it on `--help`.
    if name in __all__:
        from wise_ledger import client

        return getattr(client, name)
    raise AttributeError(f"module 'wise_ledger' has no attribute {name!r}")
