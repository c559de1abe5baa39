"""wise-ledger companies, venues, listings"""

from pathlib import Path
from typing import TYPE_CHECKING

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import COMPANY
from wise_ledger.cli.deciding import who_option
from wise_ledger.cli.groups import Group
from wise_ledger.cli.ink import BOLD, DIM, END
from wise_ledger.cli.match import TYPES
from wise_ledger.cli.output import Heading, console, draw, output_options, write
from wise_ledger.cli.viewpoint import RECORDED_BY
from wise_ledger.words import counted

if TYPE_CHECKING:
    from wise_ledger.wire.identity import CompanyPage, SpanInfo, Venues


@click.group(cls=Group)
def companies() -> None:
    """Companies: search them, look at one."""


@companies.command("search")
@click.argument("query", default="")
@click.option("--known-on", "on", metavar="DATE", help="As of this date.  [default: today]")
@click.option("--active-only", is_flag=True, help="Leave out companies that were not active.")
@RECORDED_BY
@output_options
def search(
    query: str,
    on: str | None,
    active_only: bool,
    recorded_by: int | None,
    format_: str,
    output: Path | None,
) -> None:
    """Companies by name, symbol or identifier; all without QUERY."""
    with asking() as ledger:
        found = ledger.companies(query, on, with_inactive=not active_only, recorded_by=recorded_by)
    rows = found.rows()
    shown = [
        (
            c.id,
            c.name,
            c.country or "",
            c.seat or "",
            ", ".join(f"{x.symbol}@{x.mic}" for x in c.listings),
            "" if c.active else "not active",
        )
        for c in found.companies
    ]
    headings = [
        Heading("Company", style="dim", whole=True), Heading("Name"), Heading("Country"),
        Heading("Seat", optional=True),
        Heading("Listing"), Heading(""),
    ]  # fmt: skip
    scope = "inactive ones included" if found.with_inactive else "inactive ones left out"
    caption = f"{counted(found.total, 'company')} as of {found.on}, {scope}"
    write(rows, format_, output, table=lambda: draw(headings, shown, caption=caption))


@companies.command("show")
@click.argument("company", type=COMPANY)
@click.option("--known-on", "on", metavar="DATE", help="As known on this date.  [default: today]")
@RECORDED_BY
@output_options
def show(
    company: str, on: str | None, recorded_by: int | None, format_: str, output: Path | None
) -> None:
    """One COMPANY by any identifier: its names, identifiers and listings
    through time, what the ledger holds.
    """
    from wise_ledger.wire.identity import SpanInfo
    from wise_ledger.wire.rows import rows_of

    with asking() as ledger:
        page = ledger.company(company, on, recorded_by=recorded_by)
    rows = rows_of(SpanInfo, (*page.names, *page.identifiers, *page.attributes))
    write(rows, format_, output, table=lambda: _show(page), whole=page.model_dump(mode="json"))


def _span(since: object, until: object) -> str:
    if since and until:
        return f"{since} to {until}"
    return f"since {since}" if since else f"until {until}" if until else "always"


def _spans(title: str, spans: "list[SpanInfo]") -> None:
    rows = [(s.kind, s.value, _span(s.valid_from, s.valid_to), s.of or "") for s in spans]
    draw(
        [
            Heading(title, style="bold", whole=True),
            Heading("Value"),
            Heading("From, to", whole=True),
            Heading("Of", style="dim", optional=True),
        ],
        rows,
    )


def _show(page: "CompanyPage") -> None:
    company, terminal = page.company, console()
    ended = f", not active after {page.ended}: {page.end_cause}" if page.ended else ""
    terminal.print(
        f"{BOLD}{company.name}{END}  {company.id}  {company.country or ''}, {company.seat or ''}{ended}"
    )
    terminal.print(f"{DIM}{company.description or ''} {company.website or ''}{END}\n")
    _spans("Named", page.names)
    _spans("Identified by", page.identifiers)
    draw(
        [
            Heading("Listed", style="bold", whole=True),
            Heading("Security"),
            Heading("Currency"),
            Heading("From, to", whole=True),
            Heading(""),
        ],
        [
            (
                f"{x.symbol}@{x.mic}",
                x.security_type.replace("_", " "),
                x.currency,
                _span(x.valid_from, x.valid_to),
                "primary" if x.primary else "",
            )
            for x in page.listings
        ],
    )
    held = [
        (
            h.item,
            f"{h.facts:,}",
            f"{h.first_period_end} to {h.last_period_end}",
            str(h.last_published),
        )
        for h in page.holdings
    ]
    if held:
        draw(
            [
                Heading("Held", style="bold"),
                Heading("Facts", right=True),
                Heading("Period ends"),
                Heading("Last public"),
            ],
            held,
        )
    terminal.print(
        f"{DIM}{counted(len(page.documents), 'document')} · as known on {page.known_on} · batch {page.batch}{END}"
    )


@click.group(cls=Group, invoke_without_command=True)
@click.option("--known-on", "on", metavar="DATE", help="As of this date.  [default: today]")
@RECORDED_BY
@output_options
@click.pass_context
def venues(
    context: click.Context,
    on: str | None,
    recorded_by: int | None,
    format_: str,
    output: Path | None,
) -> None:
    """Venues with their listings and companies by security type."""
    if context.invoked_subcommand is None:
        with asking() as ledger:
            _write_venues(ledger.venues(on, recorded_by=recorded_by), format_, output)


@venues.command("alias")
@click.argument("mic")
@click.argument("words", nargs=-1, required=True)
@click.option("--forget", is_flag=True, help="Take the words back.")
@who_option
@output_options
def alias(
    mic: str, words: tuple[str, ...], forget: bool, who: str, format_: str, output: Path | None
) -> None:
    """Teach what the venue MIC is also called: WORDS such as the suffix of its symbols.

    \b
    wise-ledger venues alias ZALD .ALD 'Aldmoor'
    wise-ledger match ABC.ALD --known-on 2024-03-31
    """
    with asking() as ledger:
        for word in words:
            found = ledger.call_venue(word, None if forget else mic, who or "somebody")
    _write_venues(found, format_, output)


def _write_venues(found: "Venues", format_: str, output: Path | None) -> None:
    rows = found.rows()
    headings = [
        Heading("Venue", style="bold"), Heading("Name"), Heading("Country"), Heading("Time zone", optional=True),
        Heading("Closes"), Heading("Also called"), Heading("Security type"), Heading("Listings", right=True),
        Heading("Companies", right=True),
    ]  # fmt: skip
    shown = [[str(x or "") for x in r.values()] for r in rows]
    write(rows, format_, output, table=lambda: draw(headings, shown))


@click.command()
@click.option(
    "--known-on", "on", metavar="DATE", help="Those of this date.  [default: of all time]"
)
@click.option("--venue", metavar="MIC", help="Of this venue.")
@click.option("--type", "type_", type=click.Choice(TYPES), help="Of this security type.")
@RECORDED_BY
@output_options
def listings(
    on: str | None,
    venue: str | None,
    type_: str | None,
    recorded_by: int | None,
    format_: str,
    output: Path | None,
) -> None:
    """Listings with their companies."""
    with asking() as ledger:
        found = ledger.listings(on, venue=venue, security_type=type_, recorded_by=recorded_by)
    rows = found.rows()
    headings = [
        Heading("Listing", style="bold", whole=True), Heading("Company"), Heading("Security"), Heading("Currency"),
        Heading("From, to", whole=True), Heading(""),
    ]  # fmt: skip
    shown = [
        (
            str(r["symbol"]),
            str(r["name"]),
            str(r["security_type"]).replace("_", " "),
            str(r["currency"]),
            _span(r["valid_from"], r["valid_to"]),
            "primary" if r["primary"] else "",
        )
        for r in rows
    ]
    write(
        rows,
        format_,
        output,
        table=lambda: draw(headings, shown, caption=counted(len(rows), "listing")),
    )


@click.command()
@click.option(
    "--known-on", "on", metavar="DATE", help="With the listings of this date.  [default: today]"
)
@click.option("--type", "type_", type=click.Choice(TYPES), help="Of this type.")
@RECORDED_BY
@output_options
def securities(
    on: str | None,
    type_: str | None,
    recorded_by: int | None,
    format_: str,
    output: Path | None,
) -> None:
    """Securities with their companies and listings."""
    with asking() as ledger:
        found = ledger.securities(on, security_type=type_, recorded_by=recorded_by)
    rows = found.rows()
    headings = [
        Heading("Security", style="dim", whole=True), Heading("Company"), Heading("Type"), Heading("Ratio", right=True),
        Heading("Listed"),
    ]  # fmt: skip
    shown = [
        (
            s.id,
            s.name,
            s.type.replace("_", " "),
            "" if s.ratio is None else f"{s.ratio:g}",
            str(r["listings"]),
        )
        for s, r in zip(found.securities, rows, strict=True)
    ]
    write(
        rows,
        format_,
        output,
        table=lambda: draw(headings, shown, caption=counted(len(rows), "security")),
    )
