"""One process a ledger: two would both take up the same runs."""

import fcntl
import os
from pathlib import Path

from wise_ledger.core.errors import Problem
from wise_ledger.store.errors import StoreError


class FolderLock:
    """Held until released or the process ends, however it ends."""

    def __init__(self, folder: Path) -> None:
        try:
            made = not folder.exists()
            folder.mkdir(parents=True, exist_ok=True)
            if made or (folder / "ledger.sqlite").exists():
                folder.chmod(0o700)  # what is in it is nobody else's
            self._file = os.open(folder / "in-use.lock", os.O_RDWR | os.O_CREAT, 0o600)
        except OSError as error:
            mend = "choose another folder with --data, or make this one writable"
            raise StoreError(
                Problem("the data folder", str(folder), f"it cannot be used: {error}", mend)
            ) from None
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(self._file)
            mend = "stop that one, or choose another folder with --data"
            raise StoreError(
                Problem(
                    "the data folder", str(folder), "another service has this ledger open", mend
                )
            ) from None

    def release(self) -> None:
        """Let others have it."""
        os.close(self._file)
