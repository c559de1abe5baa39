"""Our side of as_of_cold, a program of its own: folder and columns.

Prints its peak memory, MB, and that on start.
"""

import sys
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from wise_ledger.core.language.counted import Counted
from wise_ledger.core.panels.panel import Question, blocks, plan_columns
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.ledger import Ledger


def main(folder: Path, names: list[str]) -> None:
    """Open the ledger, make the panel, and write one array."""
    asked = dict(np.load(folder / "asked.npz"))
    members, cutoffs = np.unique(asked["company"]), np.unique(asked["known_at"])
    with closing(
        Ledger(folder / "ledger.sqlite", lambda: datetime(2026, 1, 1, tzinfo=UTC))
    ) as ledger:
        idle = peak_memory()
        view = Snapshots(ledger, folder / "columns").at().view
        counted = Counted(np.ones((len(members), len(cutoffs)), np.bool_))
        columns = plan_columns(names, view.vocabulary)
        out = np.full((len(columns), len(members), len(cutoffs)), np.nan)
        for block in blocks(view, Question(columns, members, cutoffs, counted)):
            for n, figures in enumerate(block.columns):
                values = figures.values
                part = out[n][:, block.first : block.first + values.value.shape[1]]
                part[values.there] = values.value[values.there]
        np.save(folder / "ours.npy", out)
    print(peak_memory(), idle)


def peak_memory() -> float:
    """The most memory this process had, MB;
    what `getrusage` says is at the least what its parent had.
    """
    lines = Path("/proc/self/status").read_text("ascii").splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("VmHWM")) / 1024


if __name__ == "__main__":
    main(Path(sys.argv[1]), sys.argv[2:])
