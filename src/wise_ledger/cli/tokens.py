"""wise-ledger tokens"""

from pathlib import Path
from typing import TYPE_CHECKING

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.groups import Group
from wise_ledger.cli.output import Heading, draw, output_options, write

if TYPE_CHECKING:
    from datetime import datetime

    from wise_ledger.wire.tokens import TokenInfo


@click.group(cls=Group)
def tokens() -> None:
    """Tokens to sign in with: make them, see when each was last used, revoke them."""


@tokens.command("list")
@output_options
def list_(format_: str, output: Path | None) -> None:
    """All tokens, the newest first; never their secrets."""
    with asking() as ledger:
        found = ledger.tokens()

    def table() -> None:
        heads = [
            Heading("Token", style="bold", whole=True),
            Heading("For"),
            Heading("Made"),
            Heading("Last used"),
            Heading("State"),
        ]
        draw(heads, [(t.id, t.name, _at(t.created_at), _at(t.last_used_at) or "never", _state(t))
                     for t in found.tokens])  # fmt: skip

    write(found.rows(), format_, output, table=table, whole=found.model_dump(mode="json"))


@tokens.command()
@click.argument("name")
@click.option(
    "--days",
    type=click.IntRange(1, 3650),
    help="It holds for so many days; without, until it is revoked.",
)
def make(name: str, days: int | None) -> None:
    """Make a token for NAME, a person or a program, and print it: it is shown this once."""
    with asking() as ledger:
        made = ledger.make_token(name, days=days)
    click.echo(made.token)
    until = (
        f"holds until {_at(made.expires_at)}" if made.expires_at else "holds until it is revoked"
    )
    click.secho(
        f"Token {made.id} for {made.name} {until}. Keep it now: it is not shown again.", err=True
    )


@tokens.command()
@click.argument("token", metavar="ID")
def revoke(token: str) -> None:
    """End the token ID now, as `tokens list` shows it."""
    with asking() as ledger:
        ended = ledger.revoke_token(token)
    click.echo(f"Token {ended.id} for {ended.name} ended {_at(ended.revoked_at)}.")


def _state(token: "TokenInfo") -> str:
    if token.revoked_at:
        return f"revoked {_at(token.revoked_at)}"
    if not token.holds:
        return f"ended {_at(token.expires_at)}"
    return f"holds until {_at(token.expires_at)}" if token.expires_at else "holds"


def _at(instant: "datetime | None") -> str:
    return f"{instant:%Y-%m-%d %H:%M}" if instant else ""
