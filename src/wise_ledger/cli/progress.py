"""How far long work is, on stderr while one waits for it."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rich.progress import Progress

    from wise_ledger.wire.collecting import Run


def progress_bar() -> "Progress":
    """A bar that goes away at the end."""
    from rich.console import Console
    from rich.progress import (
        BarColumn,
        MofNCompleteColumn,
        Progress,
        TextColumn,
        TimeElapsedColumn,
        TimeRemainingColumn,
    )

    columns = (
        TextColumn("{task.description}", markup=False),  # the name of a list, or of a company
        BarColumn(),
        MofNCompleteColumn(),
        TimeElapsedColumn(),
        TextColumn("left"),
        TimeRemainingColumn(),
    )
    return Progress(*columns, console=Console(stderr=True), transient=True)


@contextmanager
def watched() -> Iterator[Callable[["Run"], None]]:
    """What a call of the client takes as its `progress`; Ctrl-C stops the work."""
    with progress_bar() as bar:
        task = bar.add_task("", total=None, visible=False)

        def show(run: "Run") -> None:
            bar.update(
                task, total=run.total, completed=run.done, description=run.title, visible=True
            )

        yield show
