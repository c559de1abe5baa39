"""wise-ledger quality"""

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import COMPANY, LIST
from wise_ledger.cli.groups import Group
from wise_ledger.cli.output import Heading, draw, output_options, short, write
from wise_ledger.words import counted

if TYPE_CHECKING:
    from wise_ledger.wire.quality import MarketQualityAnswer, QualityAnswer


@click.group(cls=Group, invoke_without_command=True)
@click.option("--check", help="Only of one check, such as scale or balance.")
@click.option("--state", type=click.Choice(("quarantined", "accepted", "rejected", "flagged")))
@click.option("--company", type=COMPANY, help="Only of one company.")
@click.option("--list", type=LIST, help="Only of a list's members of today.")
@click.option("--source", help="Only from one source.")
@click.option("--limit", type=click.IntRange(1, 5000), default=30, show_default=True)
@output_options
@click.pass_context
def quality(context: click.Context, format_: str, output: Path | None, **how: Any) -> None:
    """What checks found wrong; figures in quarantine are not used until somebody accepts them."""

    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        found = ledger.quality(**how)

    def table() -> None:
        if not _draw_checks(found):
            return
        headings = [
            Heading("Fact", right=True, whole=True), Heading("State", whole=True), Heading("Company"), Heading("Line"),
            Heading("Period", whole=True), Heading("Figure", right=True, whole=True), Heading("What is wrong"),
        ]  # fmt: skip
        cells = [
            (str(f.fact), f.state, f.name, f.title, f.period,
             "none" if f.value is None else f"{short(f.value)} {f.unit}",
             f.detail + (f" ({f.who}: {f.why})" if f.who else ""))
            for f in found.findings
        ]  # fmt: skip
        draw(headings, cells, caption=f"{len(cells)} of {found.total} · batch {found.batch}")
        if found.by_state.get("quarantined"):
            click.echo(
                " Decide with: wise-ledger quality accept FACT … --who NAME --why CAUSE, or reject"
            )

    write(found.rows(), format_, output, table=table, whole=found.model_dump(mode="json"))


def _draw_checks(found: "QualityAnswer | MarketQualityAnswer") -> bool:
    """How many findings each check has; whether there are any."""
    if not found.by_check:
        click.echo("No check found anything wrong.")
        return False
    heads = [
        Heading("Check", style="bold"),
        Heading("Findings", right=True),
        Heading("It looks at"),
    ]
    draw(heads, [(name, str(n), found.checks[name]) for name, n in found.by_check.items()])
    return True


def _decide(facts: tuple[int, ...], accept: bool, who: str, why: str) -> None:
    with asking() as ledger:
        done = ledger.decide_quarantine(facts, accept, who, why)
    decided = "accepted: used from now on" if accept else "rejected"
    click.echo(f"{counted(done.facts, 'figure')} {decided}, batch {done.batch}")


@quality.command()
@click.argument("facts", nargs=-1, type=int, required=True)
@click.option("--who", required=True, help="Who says so.")
@click.option("--why", required=True, help="What was looked at.")
def accept(facts: tuple[int, ...], who: str, why: str) -> None:
    """Use figures in quarantine after all, by their numbers (FACTS)."""
    _decide(facts, True, who, why)


@quality.command()
@click.argument("facts", nargs=-1, type=int, required=True)
@click.option("--who", required=True, help="Who says so.")
@click.option("--why", required=True, help="What was looked at.")
def reject(facts: tuple[int, ...], who: str, why: str) -> None:
    """Keep figures in quarantine for good, by their numbers (FACTS)."""
    _decide(facts, False, who, why)


@quality.command()
@click.argument("list_", type=LIST)
@click.option("--statement", help="income, balance, cash_flow, per_share, share_count or other.")
@output_options
def coverage(list_: str, statement: str | None, format_: str, output: Path | None) -> None:
    """How many members of a list have each item, year by year."""
    with asking() as ledger:
        found = ledger.coverage(list_, statement)

    def table() -> None:
        headings = [
            Heading("Item", style="bold", whole=True),
            Heading("Of", right=True, whole=True),
        ]
        headings += [Heading(str(y), right=True, whole=True) for y in found.years]
        caption = f"of the members whose template has the line; {found.members} in all · batch {found.batch}"
        draw(
            headings,
            [(r.title, str(r.members), *map(str, r.companies)) for r in found.items],
            caption=caption,
        )

    write(found.rows(), format_, output, table=table, whole=found.model_dump(mode="json"))


@quality.group("market", invoke_without_command=True)
@click.option("--check", help="Only of one check: scale, inverted, jump, split, dividend or hole.")
@click.option("--state", type=click.Choice(("quarantined", "accepted", "rejected", "flagged")))
@click.option("--company", type=COMPANY, help="Only of one company.")
@click.option("--limit", type=click.IntRange(1, 5000), default=30, show_default=True)
@output_options
@click.pass_context
def market(context: click.Context, format_: str, output: Path | None, **how: Any) -> None:
    """Prices, levels and rates that cannot be or look odd; those in quarantine are not used."""
    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        found = ledger.market_quality(**how)

    def table() -> None:
        if not _draw_checks(found):
            return
        headings = [
            Heading("State", whole=True), Heading("Kind", whole=True), Heading("Subject", whole=True),
            Heading("Company"), Heading("Date", whole=True), Heading("Value", right=True, whole=True),
            Heading("Beside", right=True, whole=True), Heading("What is wrong"),
        ]  # fmt: skip
        cells = [
            (
                f.state,
                f.kind,
                f.subject,
                f.name or "",
                f"{f.date}",
                f"{f.value:,.6g}",
                f"{f.beside:,.6g}",
                f.detail + (f" ({f.who}: {f.why})" if f.who else ""),
            )
            for f in found.findings
        ]
        draw(headings, cells, caption=f"{len(cells)} of {found.total} · batch {found.batch}")
        if found.by_state.get("quarantined"):
            click.echo(
                " Decide with: wise-ledger quality market accept KIND SUBJECT DATE --who NAME --why CAUSE, or reject"
            )

    write(found.rows(), format_, output, table=table, whole=found.model_dump(mode="json"))


def _decide_market(kind: str, subject: str, on: str, accept: bool, who: str, why: str) -> None:
    with asking() as ledger:
        done = ledger.decide_market_quarantine([(kind, subject, on)], accept, who, why)
    decided = (
        "accepted: used from now on, and what comes after it is held against it"
        if accept
        else "rejected"
    )
    click.echo(f"{kind} of {subject} on {on} {decided}, batch {done.batch}")


_MARKET_KIND = click.Choice(("prices", "levels", "rates"))


@market.command("accept")
@click.argument("kind", type=_MARKET_KIND)
@click.argument("subject")
@click.argument("on", metavar="DATE")
@click.option("--who", required=True, help="Who says so.")
@click.option("--why", required=True, help="What was looked at.")
def accept_market(kind: str, subject: str, on: str, who: str, why: str) -> None:
    """Use a row in quarantine after all, such as: prices AGK@ZALD 2024-03-04,
    or rates EUR/USD 2024-03-04.
    """
    _decide_market(kind, subject, on, True, who, why)


@market.command("reject")
@click.argument("kind", type=_MARKET_KIND)
@click.argument("subject")
@click.argument("on", metavar="DATE")
@click.option("--who", required=True, help="Who says so.")
@click.option("--why", required=True, help="What was looked at.")
def reject_market(kind: str, subject: str, on: str, who: str, why: str) -> None:
    """Keep a row in quarantine for good."""
    _decide_market(kind, subject, on, False, who, why)
