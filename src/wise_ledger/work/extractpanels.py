"""Writing a panel to a file, some dates at a time."""

from collections.abc import Iterator, Mapping
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.panels.panel import Block
from wise_ledger.core.time.instants import iso_text
from wise_ledger.work.extracts import Extract, Progress
from wise_ledger.work.panels import Panel, PanelAsked, read_panel
from wise_ledger.work.paneltable import batches, refuse_layout
from wise_ledger.work.viewpoint import read_viewpoint

if TYPE_CHECKING:
    import pyarrow as pa

    from wise_ledger.work.desk import Desk


def ask_extract(
    desk: "Desk", viewpoint: Viewpoint, asked: PanelAsked, layout: str, form: str
) -> Extract:
    """Have a panel written to a file; it is checked at once.

    Raises what `read_panel` and `refuse_layout` do.
    """
    panel = read_panel(desk, viewpoint, asked)
    refuse_layout(panel, layout)
    # As of the batch of now, so that it says the same however long it waits.
    seen = {
        "known_on": iso_text(viewpoint.known_on),
        "recorded_by": panel.batch,
        "currency": viewpoint.currency,
        "leave_out": sorted(viewpoint.leave_out),
    }
    return desk.extracts.ask(
        panel.title, {"asked": asdict(asked), "viewpoint": seen, "layout": layout}, form
    )


def extract_batches(
    desk: "Desk", asked: Mapping[str, Any], progress: Progress
) -> "Iterator[pa.RecordBatch]":
    """The rows of the panel that was asked for; how far they are is reported as they are read."""
    fields = {k: tuple(v) if isinstance(v, list) else v for k, v in asked["asked"].items()}
    panel = _Watched(
        read_panel(desk, read_viewpoint(desk, **asked["viewpoint"]), PanelAsked(**fields)), progress
    )
    return batches(panel, asked["layout"])  # type: ignore[arg-type]


class _Watched:
    """A panel that reports how far its reading is, and ends when it is asked to."""

    def __init__(self, panel: Panel, progress: Progress) -> None:
        self._panel = panel
        self._progress = progress

    def __getattr__(self, name: str) -> Any:
        return getattr(self._panel, name)

    def blocks(self) -> Iterator[Block]:
        rows = 0
        for block in self._panel.blocks():
            yield block
            rows += int(block.rows.sum())
            if not self._progress(
                block.first + block.rows.shape[1], self._panel.question.dates, rows
            ):
                return
