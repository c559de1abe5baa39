"""Writing a panel to a file, some dates at a time."""

from collections.abc import Iterator, Mapping
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.panels.panel import Block
from wise_ledger.work.extracts import Extract, Told
from wise_ledger.work.panels import Panel, PanelAsked, read_panel
from wise_ledger.work.paneltable import batches
from wise_ledger.work.viewpoint import read_viewpoint

if TYPE_CHECKING:
    import pyarrow as pa

    from wise_ledger.work.desk import Desk


def ask_extract(desk: "Desk", viewpoint: Viewpoint, asked: PanelAsked, layout: str, form: str) -> Extract:
    """Have a panel written to a file; it is checked at once. Raises what `read_panel` does."""
    panel = read_panel(desk, viewpoint, asked)
    # As of the batch of now, so that it says the same however long it waits.
    seen = {"known_on": viewpoint.known_on.isoformat(), "recorded_by": panel.batch, "currency": viewpoint.currency,
            "leave_out": sorted(viewpoint.leave_out)}  # fmt: skip
    return desk.extracts.ask(panel.title, {"asked": asdict(asked), "viewpoint": seen, "layout": layout}, form)


def write_extract(desk: "Desk", asked: Mapping[str, Any], form: str, path: Path, told: Told) -> None:
    """Write the panel that was asked for, and tell how far it is."""
    fields = {k: tuple(v) if isinstance(v, list) else v for k, v in asked["asked"].items()}
    panel = _Told(read_panel(desk, read_viewpoint(desk, **asked["viewpoint"]), PanelAsked(**fields)), told)
    made = batches(panel, asked["layout"])  # type: ignore[arg-type]
    with path.open("wb") as file:
        _write(file, form, made)


class _Told:
    """A panel that tells how far its reading is, and ends when it is told to."""

    def __init__(self, panel: Panel, told: Told) -> None:
        self._panel = panel
        self._told = told

    def __getattr__(self, name: str) -> Any:
        return getattr(self._panel, name)

    def blocks(self) -> Iterator[Block]:
        rows = 0
        for block in self._panel.blocks():
            yield block
            rows += int(block.rows.sum())
            if not self._told(block.first + block.rows.shape[1], self._panel.question.dates, rows):
                return


def _write(file: Any, form: str, made: "Iterator[pa.RecordBatch]") -> None:
    import pyarrow as pa
    import pyarrow.csv as pc
    import pyarrow.parquet as pq

    writer: Any = None
    for batch in made:
        if writer is None and form == "parquet":
            writer = pq.ParquetWriter(file, batch.schema, compression="zstd")
        elif writer is None:
            opened = {"arrow": pa.ipc.new_file, "csv": pc.CSVWriter}[form]
            schema = batch.schema if form == "arrow" else _plain(batch).schema
            writer = opened(file, schema)
        writer.write_batch(batch if form != "csv" else _plain(batch))
    if writer is not None:
        writer.close()


def _plain(batch: "pa.RecordBatch") -> "pa.RecordBatch":
    """Words written out, which separated text needs."""
    import pyarrow as pa

    columns = [c.dictionary_decode() if pa.types.is_dictionary(c.type) else c for c in batch.columns]
    return pa.RecordBatch.from_arrays(columns, names=batch.schema.names)
