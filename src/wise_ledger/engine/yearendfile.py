"""What is known of fiscal year ends, kept as a file: to learn it,
the periods of all flows of everybody are read.
"""

import hashlib
from collections.abc import Callable, Iterable, Sequence
from functools import cache
from itertools import groupby
from pathlib import Path

import numpy as np

from wise_ledger import core
from wise_ledger.core.fiscal.yearends import Regime, Stage
from wise_ledger.store.columnfile import read_columns, write_columns

_NAMES = ("stage", "company", "at", "since", "month")  # a row for each regime


class YearEndFile:
    """The stages of all companies (F3) as of a batch;
    `hash_of` gives the hash by which a batch is chained.

    It is derived: where it is lost, damaged or of another ledger, year ends are learned again.
    """

    def __init__(self, path: Path, hash_of: Callable[[int], str | None]) -> None:
        self._path = path
        self._hash_of = hash_of

    def read(self, upto: int) -> tuple[int, list[Stage]] | None:
        """The batch, at most this one, and the stages as of it;
        None where there are none to be trusted.
        """
        kept = read_columns(self._path)
        if kept is None or tuple(kept[1]) != _NAMES:
            return None
        about, columns = kept
        batch = about.get("batch")
        if not isinstance(batch, int) or batch > upto or about != self._about(batch):
            return None
        rows = zip(*(columns[name].tolist() for name in _NAMES), strict=True)
        stages = groupby(rows, key=lambda row: row[:3])
        return batch, [Stage(company, at, _regimes(own)) for (_, company, at), own in stages]

    def write(self, batch: int, stages: Sequence[Stage]) -> None:
        """Keep the stages as of a batch; where the disk is full they are not kept."""
        rows = [
            (n, s.company, s.at, r.since, r.month) for n, s in enumerate(stages) for r in s.regimes
        ]
        columns = np.array(rows, np.int64).reshape(-1, len(_NAMES)).T
        try:
            write_columns(self._path, self._about(batch), dict(zip(_NAMES, columns, strict=True)))
        except OSError:
            self._path.with_suffix(".new").unlink(missing_ok=True)

    def forget(self) -> None:
        """Take it away."""
        self._path.unlink(missing_ok=True)

    def _about(self, batch: int) -> dict[str, object]:
        return {"batch": batch, "hash": self._hash_of(batch), "rules": _rules()}


def _regimes(rows: Iterable[tuple[int, ...]]) -> tuple[Regime, ...]:
    return tuple(Regime(since, month) for *_, since, month in rows)


@cache
def _rules() -> str:
    """What year ends are learned by: kept by other rules, they are learned again."""
    rules = hashlib.sha256()
    # year ends stand on periods, versions, records …
    for path in sorted(Path(core.__file__).parent.rglob("*.py")):
        rules.update(path.read_bytes())
    return rules.hexdigest()
