"""Wise Ledger: a shared point-in-time fundamentals ledger.

`connect()` opens a client of a running service; everything else is behind it.
"""

from typing import TYPE_CHECKING, Any

__version__ = "0.1.0"
__all__ = ["__version__", "connect"]

if TYPE_CHECKING:
    from wise_ledger.client import connect


def __getattr__(name: str) -> Any:
    # The client needs pandas; the command line must not pay for it on `--help`.
    if name == "connect":
        from wise_ledger.client import connect

        return connect
    raise AttributeError(f"module 'wise_ledger' has no attribute {name!r}")
