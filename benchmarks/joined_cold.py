"""DuckDB's side of as_of_cold, a program that loads nothing of ours: folder,
days until stale, SQL, tables.
"""

import sys
from pathlib import Path

import duckdb
import numpy as np


def main(folder: Path, stale: int, query: str, tables: list[str]) -> None:
    """Join each table with what is asked, and write one array, as the engine does."""
    asked = dict(np.load(folder / "asked.npz"))
    days = asked["known_at"] // 86_400_000_000
    out = np.full((len(tables), len(days)), np.nan)
    with duckdb.connect(str(folder / "facts.duckdb"), read_only=True) as connection:
        connection.register("asked", asked)
        for n, table in enumerate(tables):
            found = connection.execute(query.replace("facts", table)).fetchnumpy()
            value = np.ma.filled(np.ma.asarray(found["value"], np.float64), np.nan)
            end = np.ma.filled(np.ma.asarray(found["period_end"]), 0)
            out[n] = np.where(days - end <= stale, value, np.nan)
    np.save(folder / "theirs.npy", out)


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]), sys.argv[3], sys.argv[4:])
