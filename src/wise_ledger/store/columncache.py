"""Column files: one folder an item, derived from the ledger, memory-mapped; deleting them loses nothing.

A folder holds one `.npy` file a column and `covers.json`, written last, which says the batch it covers and how many
rows and bytes belong. A folder that is missing, short or damaged is made anew; one that is behind is extended.
"""

import json
import shutil
from dataclasses import fields
from pathlib import Path

import numpy as np
from sqlalchemy import Connection, select

from wise_ledger.core.facts.columns import DTYPES, FactColumns, currency_of
from wise_ledger.core.fiscal.periods import ABSENT
from wise_ledger.store.tables import facts, items

_COVERS = "covers.json"


class ColumnCache:
    """Column files under one folder."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def columns(self, connection: Connection, item: str, batch: int) -> FactColumns:
        """The item's facts up to `batch`, which `connection` can see; sorted by company, then place in the ledger."""
        number = connection.execute(select(items.c.number).where(items.c.code == item)).scalar()
        if number is None:
            return FactColumns.empty()
        kept, covered = self._open(item)
        if kept is not None and covered >= batch:
            return kept if covered == batch else kept.where(kept.batch <= batch)
        fresh = _read(connection, number, covered if kept is not None else 0, batch)
        if kept is not None and len(fresh):
            fresh = FactColumns.of(
                {f.name: np.concatenate([getattr(kept, f.name), getattr(fresh, f.name)]) for f in fields(kept)}
            )
        elif kept is not None:
            fresh = kept
        order = np.lexsort((fresh.fact, fresh.company))
        fresh = FactColumns.of({f.name: getattr(fresh, f.name)[order] for f in fields(fresh)})
        self._write(item, fresh, batch)
        return fresh

    def _open(self, item: str) -> tuple[FactColumns | None, int]:
        folder = self._folder / item
        try:
            covers = json.loads((folder / _COVERS).read_text("utf-8"))
            columns = {name: np.load(folder / f"{name}.npy", mmap_mode="r") for name in DTYPES}
        except (OSError, ValueError, EOFError):
            return None, 0
        for name, column in columns.items():
            size = (folder / f"{name}.npy").stat().st_size
            if column.dtype != DTYPES[name] or len(column) != covers["rows"] or size != covers["bytes"][name]:
                return None, 0
        return FactColumns.of(columns), covers["batch"]

    def _write(self, item: str, columns: FactColumns, batch: int) -> None:
        """Aside first, then moved into place, so that a crash leaves the old folder or none."""
        self._folder.mkdir(parents=True, exist_ok=True)
        aside = self._folder / f".{item}.new"
        shutil.rmtree(aside, ignore_errors=True)
        aside.mkdir()
        sizes = {}
        for name in DTYPES:
            np.save(aside / f"{name}.npy", getattr(columns, name))
            sizes[name] = (aside / f"{name}.npy").stat().st_size
        covers = {"batch": batch, "rows": len(columns), "bytes": sizes}
        (aside / _COVERS).write_text(json.dumps(covers), "utf-8")
        # Readers that have the old files mapped keep them: unlinking takes the names away, not the bytes.
        shutil.rmtree(self._folder / item, ignore_errors=True)
        aside.rename(self._folder / item)


def _read(connection: Connection, item: int, after: int, batch: int) -> FactColumns:
    columns = (
        facts.c.company,
        facts.c.period_start,
        facts.c.period_end,
        facts.c.declared_end,
        facts.c.published_at,
        facts.c.batch,
        facts.c.position,
        facts.c.source,
        facts.c.value,
        facts.c.unit,
        facts.c.assumed,
        facts.c.id,
    )
    query = select(*columns).where(
        facts.c.item == item, facts.c.batch > after, facts.c.batch <= batch, facts.c.basis == "consolidated"
    )
    rows = connection.execute(query).all()
    by_name = dict(zip(DTYPES, zip(*rows, strict=True), strict=True)) if rows else dict.fromkeys(DTYPES, ())
    units = {unit: currency_of(unit) for unit in set(by_name["currency"])}
    return FactColumns.of(
        {
            **by_name,
            "start": [ABSENT if v is None else v for v in by_name["start"]],
            "declared_end": [ABSENT if v is None else v for v in by_name["declared_end"]],
            "value": [np.nan if v is None else v for v in by_name["value"]],
            "currency": [units[u] for u in by_name["currency"]],
        }
    )
