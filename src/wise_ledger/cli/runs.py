"""wise-ledger runs"""

from pathlib import Path

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.groups import Group
from wise_ledger.cli.ink import BOLD, END, RED
from wise_ledger.cli.output import Heading, draw, output_options, write
from wise_ledger.words import counted


@click.group(cls=Group, invoke_without_command=True)
@click.pass_context
@output_options
def runs(context: click.Context, format_: str, output: Path | None) -> None:
    """Long work: list it; `show` one, `pause`, `resume`, `cancel` or `retry` it;
    `digest` says what came in.
    """
    from wise_ledger.wire.collecting import Run
    from wise_ledger.wire.rows import rows_of

    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        found = ledger.runs()
    rows = rows_of(Run, found, ("outcomes",))
    headings = [
        Heading("Run", right=True, style="bold"), Heading("What"), Heading("State"), Heading("Done", right=True),
        Heading("Failed", right=True), Heading("New facts", right=True), Heading("Requests", right=True),
        Heading("Began, UTC", whole=True), Heading("Queued by"),
    ]  # fmt: skip
    shown = [
        [
            str(r.id),
            r.title,
            r.state.replace("_", " "),
            f"{r.done} of {r.total}" if r.total is not None else "0",
            str(r.failed),
            f"{r.facts:,}",
            f"{r.requests:,}",
            f"{r.created_at:%Y-%m-%d %H:%M:%S}",
            r.schedule or (f"run {r.failed_of}, failed only" if r.failed_of else "people"),
        ]
        for r in found
    ]
    write(rows, format_, output, table=lambda: draw(headings, shown))


@runs.command("show")
@click.argument("run", type=int)
@output_options
def show(run: int, format_: str, output: Path | None) -> None:
    """What became of each company in a RUN."""
    from wise_ledger.wire.collecting import Outcome
    from wise_ledger.wire.rows import rows_of

    with asking() as ledger:
        found = ledger.run(run)
    rows = rows_of(Outcome, found.outcomes)
    order = {"failed": 0, "stored": 1, "unchanged": 2}
    headings = [
        Heading("Company"), Heading("Outcome", whole=True), Heading("New facts", right=True),
        Heading("Requests", right=True), Heading("Why"),
    ]  # fmt: skip
    shown = [
        [
            o.company or o.subject,
            f"{RED}{o.state}{END}" if o.state == "failed" else o.state,
            f"{o.facts:,}",
            str(o.tries),
            o.reason,
        ]
        for o in sorted(found.outcomes, key=lambda o: (order[o.state], o.company or ""))
    ]
    title = f"{BOLD}Run {found.id}{END}, {found.title}: {found.state.replace('_', ' ')}"
    caption = f"{found.stored} stored, {found.unchanged} unchanged, {found.failed} failed"
    caption += f" · {counted(found.requests, 'request')}"
    caption += f", {found.bytes / 1e6:,.1f} MB" + (f" · {found.problem}" if found.problem else "")
    write(rows, format_, output, table=lambda: draw(headings, shown, title=title, caption=caption))


@runs.command("watch")
@click.argument("run", type=int)
def watch(run: int) -> None:
    """Follow a RUN until it ends."""
    from wise_ledger.cli.collect import follow

    with asking() as ledger:
        follow(ledger, ledger.run(run))


@runs.command("pause")
@click.argument("run", type=int)
def pause(run: int) -> None:
    """Hold a RUN after the company at hand."""
    with asking() as ledger:
        click.echo(f"run {run} {ledger.pause(run).state}")


@runs.command("resume")
@click.argument("run", type=int)
def resume(run: int) -> None:
    """Go on with a paused RUN."""
    with asking() as ledger:
        click.echo(f"run {run} {ledger.resume(run).state}")


@runs.command("cancel")
@click.argument("run", type=int)
def cancel(run: int) -> None:
    """End a RUN; what it stored stays."""
    with asking() as ledger:
        click.echo(f"run {run} {ledger.cancel(run).state}")


@runs.command("retry")
@click.argument("run", type=int)
def retry(run: int) -> None:
    """Try the companies again that failed in a RUN, and follow that."""
    from wise_ledger.cli.collect import follow

    with asking() as ledger:
        follow(ledger, ledger.try_again(run))


@runs.command("digest")
@click.argument("run", type=int)
@output_options
def digest(run: int, format_: str, output: Path | None) -> None:
    """What came in with a RUN: companies, periods, restatements, withdrawals,
    tags without an item, failures.
    """
    from wise_ledger.cli.collect import also_new
    from wise_ledger.wire.collecting import DigestChange
    from wise_ledger.wire.rows import rows_of

    with asking() as ledger:
        found = ledger.digest(run)

    def table() -> None:
        counts = found.counts
        draw(
            [Heading(k.capitalize(), right=True) for k in counts],
            [[f"{n:,}" for n in counts.values()]],
            title=f"{BOLD}What came in with run {found.run}{END} of {found.source}, {found.state.replace('_', ' ')}",
            caption=also_new(found.records).capitalize() if found.records else "",
        )
        if found.restatements:
            draw(
                [
                    Heading("Restated", style="bold"),
                    Heading("Item"),
                    Heading("Period end", whole=True),
                    Heading("Unit"),
                    Heading("Was", right=True),
                    Heading("Is", right=True),
                    Heading("%", right=True),
                ],
                [
                    [
                        c.name,
                        c.item,
                        str(c.period_end),
                        c.unit,
                        *("withdrawn" if v is None else f"{v:,.2f}" for v in (c.old, c.new)),
                        "n/a" if c.percent is None else f"{c.percent:+.1f}",
                    ]
                    for c in found.restatements[:15]
                ],
                caption=_more(counts["restatements"], 15),
            )
        if found.withdrawn:
            draw(
                [
                    Heading("Withdrawn", style="bold"),
                    Heading("Item"),
                    Heading("Period end"),
                    Heading("Document"),
                ],
                [[c.name, c.item, str(c.period_end), c.document] for c in found.withdrawn[:15]],
            )
        if found.periods:
            draw(
                [
                    Heading("New periods of", style="bold"),
                    Heading("Periods", right=True),
                    Heading("First, last"),
                    Heading("Facts", right=True),
                ],
                [
                    [p.name, str(p.periods), f"{p.first} to {p.last}", f"{p.facts:,}"]
                    for p in found.periods[:12]
                ],
                caption=_more(len(found.periods), 12),
            )
        if found.unmapped:
            draw(
                [Heading("Tag without an item", style="bold"), Heading("Documents", right=True)],
                [[u.tag, f"{u.documents:,}"] for u in found.unmapped],
            )
        for failed in found.failed:
            click.secho(f" failed: {failed.company or failed.subject}: {failed.reason}", fg="red")
        for delivery in found.deliveries:
            click.echo(
                f" {delivery.state} to {delivery.target}{': ' + delivery.reason if delivery.reason else ''}"
            )

    withdrawn = {id(c) for c in found.withdrawn}
    changes = [*found.restatements, *found.withdrawn]
    plain = rows_of(
        DigestChange, changes, kind=lambda c: "withdrawn" if id(c) in withdrawn else "restatements"
    )
    write(plain, format_, output, table=table, whole=found.model_dump(mode="json"))


def _more(count: int, shown: int) -> str:
    return f"and {count - shown:,} more; --format json gives them" if count > shown else ""
