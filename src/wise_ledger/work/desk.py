"""Everything the jobs need, opened together: the ledger, its snapshots, runs and schedules."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from wise_ledger.engine.snapshots import BUDGET, Snapshots
from wise_ledger.sources.protocol import OpenSource
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.lock import FolderLock
from wise_ledger.work import digests, notices
from wise_ledger.work.access import Tokens
from wise_ledger.work.extracts import Extracts, Write
from wise_ledger.work.notices import Post
from wise_ledger.work.runs import CONFIRM_ABOVE, Runs
from wise_ledger.work.schedules import Schedules


@dataclass(frozen=True)
class Desk:
    """An open ledger with all that works on it."""

    ledger: Ledger
    snapshots: Snapshots
    runs: Runs
    schedules: Schedules
    lock: FolderLock
    extracts: Extracts
    tokens: Tokens

    @classmethod
    def open(
        cls,
        folder: Path,
        sources: Mapping[str, OpenSource],
        now: Callable[[], datetime],
        *,
        post: Post | None = None,
        confirm_above: int = CONFIRM_ABOVE,
        memory: int = BUDGET,
        write: Write | None = None,
    ) -> "Desk":
        """The ledger in `folder`, made if there is none;
        runs left open by an earlier process go on.

        `write` makes files of extracts; without it they wait.
        Raises `StoreError` where another process has the folder open, or the file cannot be used.
        """
        post = post or Post()
        lock = FolderLock(folder)
        ledger = Ledger(folder / "ledger.sqlite", now)
        runs = Runs(ledger, sources, confirm_above)
        snapshots, extracts = (
            Snapshots(ledger, folder / "columns", memory),
            Extracts(ledger, folder / "extracts"),
        )
        desk = cls(
            ledger, snapshots, runs, Schedules(ledger, runs, post), lock, extracts, Tokens(ledger)
        )
        runs.ended = lambda run: desk._after(run, post)
        from wise_ledger.work.longkinds import kinds_of_work  # which knows the desk

        runs.work = kinds_of_work(desk)
        runs.start()
        desk.schedules.start()
        if write is not None:
            from wise_ledger.work.extractpanels import extract_batches  # which knows the desk

            extracts.start(lambda asked, progress: extract_batches(desk, asked, progress), write)
        return desk

    def _after(self, run: int, post: Post) -> None:
        """A run ended: its digest is made, notices go out,
        and what was asked lately is formed again.
        """
        digest = digests.make(self.ledger, self.snapshots, run)
        targets = self.schedules.targets(self.runs.report(run).run)
        notices.notify(self.ledger, post, digest, targets)
        self.snapshots.refresh()

    def close(self) -> None:
        """Finish the company at hand, then let go of the file."""
        self.extracts.stop()
        self.schedules.stop()
        self.runs.stop()
        self.tokens.remember()
        self.ledger.close()
        self.lock.release()
