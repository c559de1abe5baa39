"""The options of every question about time: how it is asked."""

from collections.abc import Callable, Sequence
from functools import wraps
from typing import Any

import click

MARKS = ("assumed", "approximate", "mixed_basis", "implied", "flagged")
RECORDED_BY = click.option(
    "--recorded-by", type=int, metavar="BATCH", help="Ignore every batch after this one."
)
_OPTIONS = (
    click.option("--known-on", metavar="DATE", help="As known at the end of a day, or at an instant; else today."),
    RECORDED_BY,
    click.option("--without-assumed", is_flag=True, help="Short for --leave-out assumed."),
    click.option(
        "--leave-out", type=click.Choice(MARKS), multiple=True, metavar="MARK",
        help=f"Figures with this mark do not count: {', '.join(MARKS)}. Can be given again.",
    ),
)  # fmt: skip
_HINDSIGHT = click.option(
    "--hindsight", is_flag=True, help="Also say what reads differently later."
)
_CURRENCY = click.option(
    "--currency", metavar="CODE", help="Show amounts in this currency (ISO 4217)."
)
_NAMES = ("recorded_by", "without_assumed", "leave_out")


def plain_viewpoint_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Give a command about what stands in the unit it was published in the options; it gets
    `known_on`, and the others as a dict `seen` to hand to the client.
    """
    return _with(_OPTIONS, _NAMES, command)


def viewpoint_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """The same, with `--currency`."""
    return _with((*_OPTIONS, _CURRENCY), (*_NAMES, "currency"), command)


def cell_viewpoint_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """The same, with `--hindsight`: of figures in cells."""
    options = (*_OPTIONS, _HINDSIGHT, _CURRENCY)
    return _with(options, (*_NAMES, "hindsight", "currency"), command)


def _with(
    options: Sequence[Callable[..., Any]], names: Sequence[str], command: Callable[..., Any]
) -> Callable[..., Any]:
    @wraps(command)
    def asked(*args: Any, **given: Any) -> Any:
        seen = {name: given.pop(name) for name in names}
        return command(*args, seen=seen, **given)

    for option in reversed(options):
        asked = option(asked)
    return asked
