"""Panels and screens that are kept under a name and asked again: the options that both have."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Literal, TypeVar

import click
from click.core import ParameterSource

if TYPE_CHECKING:
    from wise_ledger.client import Ledger
    from wise_ledger.wire.viewpoint import Viewpoint

F = TypeVar("F", bound=Callable[..., Any])
# How a kept question is seen, and what becomes of its answer, may be said again each time.
_SAID_AGAIN = {
    *("kept", "keep", "who", "title", "summary", "format_", "output", "raw"),
    *("known_on", "recorded_by", "without_assumed", "leave_out", "hindsight", "currency"),
}


def keeping_options(kind: Literal["panel", "screen"]) -> Callable[[F], F]:
    """Give a command `--kept`, `--keep`, `--who` and `--title`."""
    options = (
        click.option("--kept", metavar="NAME", help=f"Ask a kept {kind} again."),
        click.option("--keep", metavar="NAME", help=f"Keep this {kind} under a name, with --who."),
        click.option("--who", default="", help="Who keeps it."),
        click.option("--title", default="", help=f"What a kept {kind} is called."),
    )

    def given(command: F) -> F:
        for option in reversed(options):
            command = option(command)
        return command

    return given


def refuse_the_rest() -> None:
    """What is kept is asked whole: a part of it that is given as well is named, and refused."""
    context = click.get_current_context()
    for parameter in context.command.params:
        source = context.get_parameter_source(parameter.name or "")
        if parameter.name not in _SAID_AGAIN and source is ParameterSource.COMMANDLINE:
            option = isinstance(parameter, click.Option)
            name = parameter.opts[0] if option else parameter.human_readable_name.upper()
            raise click.UsageError(
                f"{name} beside --kept: what is kept is asked as it stands; leave one of them out"
            )


def keep_question(
    ledger: "Ledger",
    name: str,
    kind: Literal["panel", "screen"],
    asked: "Viewpoint",
    who: str,
    title: str,
) -> None:
    """Keep a question, and say how it is asked again."""
    question = asked.model_dump(mode="json", exclude_defaults=True)
    made = ledger.keep_question(name, kind, question, who, title=title)
    again = f"wise-ledger {kind} --kept {made.name}"
    click.echo(f"{made.name} is kept, version {made.version}: {again}", err=True)
