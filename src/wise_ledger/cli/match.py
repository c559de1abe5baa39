"""wise-ledger match"""

import sys
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import PARTLY, asking
from wise_ledger.cli.files import PIPED, read_file
from wise_ledger.cli.ink import BOLD, CYAN, DIM, END, GREEN, RED, YELLOW
from wise_ledger.cli.output import Heading, console, draw, output_options, write
from wise_ledger.cli.progress import watched
from wise_ledger.cli.viewpoint import RECORDED_BY
from wise_ledger.words import counted

if TYPE_CHECKING:
    from wise_ledger.client import Ledger
    from wise_ledger.wire.identity import MatchAnswer, TermAsked

TYPES = ("ordinary", "preference", "depositary_receipt", "fund", "unit", "warrant")
_FILES = {".csv", ".tsv", ".txt", ".xlsx", ".xls", ".json", ".jsonl", ".parquet"}
_STYLES = {
    "matched": GREEN,
    "ambiguous": YELLOW,
    "renamed": CYAN,
    "inactive": DIM,
    "invalid": RED,
}


@click.command()
@click.argument("terms", nargs=-1, required=True)
@click.option(
    "--known-on",
    "on",
    metavar="DATE",
    help="As of this date: a symbol means who held it then.  [default: today]",
)
@click.option("--column", help="The column of the file; found by its head otherwise.")
@click.option(
    "--to",
    multiple=True,
    metavar="SCHEME",
    help="Map to a scheme (isin, sedol, lei, symbol …); may be repeated.",
)
@click.option(
    "--types",
    multiple=True,
    type=click.Choice(TYPES),
    help="Security types that count.  [default: ordinary]",
)
@click.option("--all-listings", is_flag=True, help="All listings, not the primary one alone.")
@click.option("--ever", is_flag=True, help="Companies and symbols of any time.")
@click.option("--settle", is_flag=True, help="Settle ambiguous rows, one keystroke each.")
@click.option("--forget", is_flag=True, help="Take back what was decided of these terms before.")
@click.option("--keep", metavar="LIST", help="Keep what matched as a list.")
@click.option(
    "--leave-out",
    multiple=True,
    type=click.Choice(("renamed", "inactive")),
    help="Keep a list without these. Inactive companies stand on it until they ended.",
)
@click.option("--who", envvar="USER", default="", help="Who settles or keeps.  [default: $USER]")
@RECORDED_BY
@output_options
def match(
    terms: tuple[str, ...],
    on: str | None,
    column: str | None,
    to: tuple[str, ...],
    types: tuple[str, ...],
    all_listings: bool,
    ever: bool,
    settle: bool,
    forget: bool,
    keep: str | None,
    leave_out: tuple[str, ...],
    who: str,
    recorded_by: int | None,
    format_: str,
    output: Path | None,
) -> None:
    """Which companies TERMS mean: names, symbols, identifiers, or files of
    them (CSV, XLSX, lines; - for stdin).

    \b
    wise-ledger match 'Marlow Intl Shipping' LNK@ZALD --known-on 2024-03-31 --to isin
    wise-ledger match watch.csv --known-on 2024-03-31 --settle --keep my-watch

    Exit status 3 says that some rows are not settled.
    """
    if recorded_by is not None and settle:
        raise click.UsageError("what is settled now is recorded later: leave one of the two out")
    on = on or datetime.now(UTC).date().isoformat()
    with asking() as ledger:
        asked = _terms(ledger, terms, column)
        if forget:
            _forget(ledger, asked, who)
        how: dict[str, Any] = {
            "types": types or ("ordinary",),
            "all_listings": all_listings,
            "ever": ever,
            "to": to,
            "recorded_by": recorded_by,
        }
        with watched() as progress:
            found = ledger.match(asked, on, **how, progress=progress).answer
        if settle and _settle(ledger, found, who):
            found = ledger.match(asked, on, **how).answer
        if keep:
            _keep(ledger, found, keep, who, set(leave_out))
        write(
            found.table(),
            format_,
            output,
            table=lambda: _show(found),
            whole=found.model_dump(mode="json"),
        )
    if any(r.outcome != "matched" for r in found.rows):
        sys.exit(PARTLY)


def _keep(ledger: "Ledger", found: "MatchAnswer", name: str, who: str, leave_out: set[str]) -> None:
    """Keep what was found as a list, and say how many of each outcome stand
    on it and how many do not.
    """
    kinds = [k for k in ("matched", "renamed", "inactive") if k not in leave_out]
    taken = {
        k: dict.fromkeys(r.company.id for r in found.rows if r.outcome == k and r.company)
        for k in kinds
    }
    companies = list(dict.fromkeys(id_ for ids in taken.values() for id_ in ids))
    kept = ledger.keep_list(name, companies, who or "somebody", until_ended=True)
    counts = ", ".join(f"{len(ids)} {kind}" for kind, ids in taken.items() if ids)
    if taken.get("inactive"):
        counts += " (each until it ended)"
    out = {k: n for k, n in found.counts.items() if n and k not in kinds}
    without = ", ".join(f"{n} {k.replace('_', ' ')}" for k, n in out.items())
    click.echo(
        f"kept as list {kept.name}: {counts}{f'; without {without}' if without else ''}", err=True
    )


def _terms(ledger: "Ledger", given: tuple[str, ...], column: str | None) -> "list[str | TermAsked]":
    out: list[str | TermAsked] = []
    for term in given:
        path = Path(term)
        if path == PIPED or path.is_file():
            read = ledger.read_terms(read_file(path), column)
            for note in read.notes:
                click.echo(f"{term}: {note}", err=True)
            out += read.terms
        elif path.suffix.lower() in _FILES:
            raise click.UsageError(
                f"there is no file {term}; a term with such an ending goes into a file"
            )
        else:
            out.append(term)
    return out


def _show(found: "MatchAnswer") -> None:
    headings = [
        Heading("Term"), Heading("Outcome", whole=True), Heading("Company"), Heading("Country", optional=True),
        Heading("Listing", whole=True), *(Heading(s) for s in found.to), Heading("Note"),
    ]  # fmt: skip
    rows = []
    for row in found.rows:
        style, company = _STYLES.get(row.outcome, ""), row.company
        notes = list(row.notes)
        if row.decided:
            notes.append(f"decided by {row.decided}")
        if row.repair:
            notes.append(f"did you mean {', '.join(row.repair)}?")
        if row.candidates:
            notes.append(
                "; ".join(
                    f"{c.name} {c.score:.2f}" if c.score else c.name for c in row.candidates[:3]
                )
            )
        outcome = row.outcome.replace("_", " ")
        rows.append(
            [
                row.term,
                f"{style}{outcome}{END}",
                company.name if company else "",
                (company.country or "") if company else "",
                ", ".join(f"{x.symbol}@{x.mic}" for x in company.listings) if company else "",
                *(c or "" for c in row.codes),
                "; ".join(notes),
            ]
        )
    counts = ", ".join(f"{n} {o.replace('_', ' ')}" for o, n in found.counts.items() if n)
    draw(
        headings,
        rows,
        title=f"{BOLD}{counted(len(rows), 'term')}{END} as of {found.on:%d %B %Y}",
        caption=f"{counts} · batch {found.batch}",
    )


def _settle(ledger: "Ledger", found: "MatchAnswer", who: str) -> int:
    """Ask for each ambiguous row; how many were decided."""
    open_ = [r for r in found.rows if r.candidates and r.outcome in ("ambiguous", "not_found")]
    decided = 0
    for i, row in enumerate(open_):
        terminal = console()
        terminal.print(f"\n{BOLD}{row.term}{END}  {i + 1} of {len(open_)}")
        for n, c in enumerate(row.candidates, 1):
            traded = ", ".join(f"{x.symbol}@{x.mic}" for x in c.listings)
            state = "" if c.active else ", not active"
            terminal.print(
                f"  {BOLD}{n}{END}  {c.name}  {traded}  {c.country or ''}, {c.seat or ''}{state}  {c.score:.2f}"
            )
        click.echo("  a number takes it, s skips, q ends: ", nl=False)
        key = click.getchar()
        click.echo(key)
        if key == "q":
            break
        if key.isdigit() and 1 <= int(key) <= len(row.candidates):
            ledger.decide(
                row.term,
                row.candidates[int(key) - 1].id,
                who or "somebody",
                "settled at the command line",
            )
            decided += 1
    return decided


def _forget(ledger: "Ledger", terms: "list[str | TermAsked]", who: str) -> None:
    """Take back the decisions that stand on these terms."""
    standing = {" ".join(d.term.casefold().split()) for d in ledger.decisions() if d.stands}
    for term in dict.fromkeys(t if isinstance(t, str) else t.text for t in terms):
        if " ".join(term.casefold().split()) in standing:
            ledger.decide(term, None, who or "somebody", "taken back at the command line")
            click.echo(f"taken back: {term}", err=True)
