"""The facts of each item in memory: segments that follow each other, read on as batches come."""

import threading
from collections import defaultdict
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records.facts import DTYPES, FactColumns
from wise_ledger.store import segments
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.segments import Segment, SegmentFiles

_WORTH_A_FILE = 256  # rows; fewer are read from the ledger again after a restart
_TENTH = 10
# facts that are read at once, and of how many spans of batches they are kept
_LITTLE, _SPANS = 5_000, 4


class Columns:
    """The columns of all items of a ledger; safe for many threads."""

    def __init__(self, ledger: Ledger, folder: Path) -> None:
        self._ledger = ledger
        self._files = SegmentFiles(folder, ledger.hash_of)
        self._locks: dict[str, threading.Lock] = defaultdict(threading.Lock)
        self._kept: dict[str, list[Segment]] = {}
        self._saved: dict[str, int] = {}  # how many of them are files
        self._reading = threading.Lock()
        self._few: dict[tuple[int, int], dict[str, Segment] | None] = {}

    def of(self, item: str, batch: int, companies: NDArray[np.int64] | None = None) -> FactColumns:
        """The facts of an item up to a batch: of some companies (ascending), or of all."""
        found = self._upto(item, batch)
        parts = [s.columns if companies is None else s.of(companies) for s in found]
        if found and found[-1].upto > batch:  # a state of the ledger that others have left behind
            parts = [p.where(p.batch <= batch) for p in parts]
        return _together(parts)

    def verify(self, step: Callable[[], None] = lambda: None) -> tuple[int, int]:
        """How many files of columns were compared with the ledger,
        and how many did not agree: these are let go of.
        """
        compared = again = 0
        for item in self._ledger.item_codes():
            step()
            with self._locks[item], self._ledger.database.read() as connection:
                found = self._files.read(item, self._ledger.last_batch())
                compared += len(found)
                if all(segments.agrees(connection, item, segment) for segment in found):
                    continue
                again += len(found)
                self._files.forget(item)
                self._kept.pop(item, None)
        return compared, again

    def _upto(self, item: str, batch: int) -> Sequence[Segment]:
        with self._locks[item]:
            if item not in self._kept:
                self._kept[item] = self._files.read(item, batch)
                self._saved[item] = len(self._kept[item])
            kept = self._kept[item]
            covered = kept[-1].upto if kept else 0
            if covered < batch:
                self._kept[item] = self._grown(item, kept, self._fresh(item, covered, batch))
            return self._kept[item]

    def _fresh(self, item: str, after: int, upto: int) -> Segment:
        """What some batches brought of an item: of all items at once where it
        is little, as after a filing.
        """
        with self._reading:
            if (after, upto) not in self._few:
                if len(self._few) >= _SPANS:
                    self._few.pop(next(iter(self._few)))
                with self._ledger.database.read() as connection:
                    self._few[after, upto] = segments.read_few(connection, after, upto, _LITTLE)
            few = self._few[after, upto]
        if few is not None:
            return few.get(item, Segment(after, upto, FactColumns.empty()))
        with self._ledger.database.read() as connection:
            return segments.read_facts(connection, item, after, upto)

    def _grown(self, item: str, kept: list[Segment], fresh: Segment) -> list[Segment]:
        """The segments with one more; small ones grow together,
        and into the base past a tenth of it.
        """
        saved = self._saved[item]
        if not len(fresh.columns) and len(kept) > saved:
            last = kept[-1]
            return [*kept[:-1], Segment(last.after, fresh.upto, last.columns)]
        tail = segments.merged([*kept[saved:], fresh]) if len(kept) > saved else fresh
        whole = [*kept[:saved], tail]
        after_base = sum(len(s.columns) for s in whole[1:])
        if len(whole) > 1 and after_base * _TENTH > len(whole[0].columns):
            whole, saved = [segments.merged(whole)], 0
        if len(whole[-1].columns) >= _WORTH_A_FILE:
            self._files.write(item, whole[-1], alone=len(whole) == 1)
            saved = len(whole)
        self._saved[item] = saved
        return whole


def _together(parts: Sequence[FactColumns]) -> FactColumns:
    filled = [p for p in parts if len(p)]
    if len(filled) <= 1:
        return filled[0] if filled else FactColumns.empty()
    return FactColumns.of({n: np.concatenate([getattr(p, n) for p in filled]) for n in DTYPES})
