"""Everything the jobs need, opened together: the ledger, its snapshots, and the runs."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from wise_ledger.sources.protocol import OpenSource
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.lock import FolderLock
from wise_ledger.work.runs import Runs
from wise_ledger.work.snapshots import Snapshots


@dataclass(frozen=True)
class Desk:
    """An open ledger with all that works on it."""

    ledger: Ledger
    snapshots: Snapshots
    runs: Runs
    lock: FolderLock

    @classmethod
    def open(cls, folder: Path, sources: Mapping[str, OpenSource], now: Callable[[], datetime]) -> "Desk":
        """The ledger in `folder`, made if there is none; runs left open by an earlier process go on.

        Raises `StoreError` where another process has the folder open, or the file cannot be used.
        """
        lock = FolderLock(folder)
        ledger = Ledger(folder / "ledger.sqlite", now)
        desk = cls(ledger, Snapshots(ledger, folder / "columns"), Runs(ledger, sources), lock)
        desk.runs.start()
        return desk

    def close(self) -> None:
        """Finish the company at hand, then let go of the file."""
        self.runs.stop()
        self.ledger.close()
        self.lock.release()
