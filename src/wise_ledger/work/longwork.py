"""Long work that is no collection (a verification, a large match, a new meaning of a tag):
how it is done and watched.

It is queued and shown beside collections (`runs`), says how far it is after every step, and can be
stopped at each. What it answers is kept in a file for a week.
"""

import json
from collections.abc import Callable, Mapping
from dataclasses import asdict
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from wise_ledger.core.errors import BadInput, LedgerError, NotFound, Problem
from wise_ledger.store.errors import ChainBroken, StoreError

KEPT = timedelta(days=7)
Step = Callable[[int, int], None]  # what is done, of how much (0: not known yet); raises `Halted`
Work = Callable[[Mapping[str, Any], Step], Mapping[str, Any]]
_ERRORS: dict[str, type[LedgerError]] = {
    e.__name__: e for e in (BadInput, NotFound, ChainBroken, StoreError)
}


class Halted(Exception):
    """A person stopped this work, or the service ends."""


def unwatched(done: int, total: int) -> None:
    """The step of work that nobody watches."""


class Answers:
    """What long work answered, by its run: one JSON file each,
    or the problems that it ended with.
    """

    def __init__(self, folder: Path, now: Callable[[], datetime]) -> None:
        self._folder = folder
        self._now = now

    def keep(self, run: int, answer: Mapping[str, Any]) -> None:
        """Keep an answer, and let go of those whose time is over."""
        self._write(run, {"answer": answer})

    def keep_error(self, run: int, error: LedgerError) -> None:
        """Keep why there is no answer: whoever asks is answered as if the
        work had been done at once.
        """
        kind = next(
            name for name, cls in {**_ERRORS, "": LedgerError}.items() if isinstance(error, cls)
        )
        self._write(run, {"error": kind, "problems": [asdict(p) for p in error.problems]})

    def find(self, run: int) -> Mapping[str, Any]:
        """The answer of a run; raises what its work raised, and `NotFound` where there is none."""
        try:
            found = json.loads(self._path(run).read_bytes())
        except (OSError, ValueError):
            mend = f"wait until it has finished; answers are kept for {KEPT.days} days"
            raise NotFound(Problem("run", str(run), "it left no answer", mend)) from None
        if "answer" not in found:
            raise _ERRORS.get(found["error"], LedgerError)(
                *(Problem(**p) for p in found["problems"])
            )
        answer: Mapping[str, Any] = found["answer"]
        return answer

    def _write(self, run: int, content: Mapping[str, Any]) -> None:
        self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        for path in self._folder.glob("*.json"):
            if self._now().timestamp() - path.stat().st_mtime > KEPT.total_seconds():
                path.unlink(missing_ok=True)
        part = self._path(run).with_suffix(".part")
        part.touch(0o600)
        part.write_text(json.dumps(content, default=str))
        part.replace(self._path(run))

    def _path(self, run: int) -> Path:
        return self._folder / f"{run}.json"
