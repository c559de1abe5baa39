"""wise-ledger load"""

import sys
from collections import Counter
from pathlib import Path

import click

from wise_ledger.cli.asking import FAILED, PARTLY, asking
from wise_ledger.cli.files import PIPED, NamedPath, OutputFile, read_file, read_text, write_file
from wise_ledger.words import counted

_SHOWN = 30  # outcomes; the rest is counted
KINDS = (
    "companies", "identifiers", "listings", "members", "facts", "rates", "splits", "venues", "observations", "pages",
    "prices", "dividends", "shares", "delistings", "levels", "estimates", "actuals", "consensus",
    "announcements", "series", "series_attributes", "receipt_ratios",
)  # fmt: skip


@click.command(epilog=f"Each KIND: {', '.join(KINDS)}.")
@click.argument("kind", type=click.Choice(KINDS), metavar="KIND")
@click.argument("file", type=NamedPath(), required=False)
@click.option(
    "--template",
    is_flag=True,
    help="Write FILE instead, or show it: the heads and one example row, as CSV.",
)
@click.option("--accept-good", is_flag=True, help="Load the good rows though others are bad.")
@click.option(
    "--mapping",
    type=NamedPath(exists=True, dir_okay=False),
    help="YAML that says what is where in a table of facts of another shape, or on pages.",
)
@click.option("--rejects", type=OutputFile(), help="Write the bad rows to a file.")
def load(
    kind: str,
    file: Path | None,
    template: bool,
    accept_good: bool,
    mapping: Path | None,
    rejects: Path | None,
) -> None:
    """Load a FILE of a KIND (CSV, JSON Lines, XLSX, Parquet; - for a pipe) as one batch.

    With a bad row nothing is loaded; each is listed with line, column, value, problem and mend. For
    pages FILE is a folder: in it one folder a company, in those HTML or CSV pages whose names say
    when they were captured.
    """
    if template:
        _write_template(kind, None if file == PIPED else file)
        return
    if file is None:
        raise click.UsageError(f"name a FILE of {kind}, or - for what comes in through a pipe")
    if file != PIPED and not file.exists():
        raise click.UsageError(
            f"there is no {file}; wise-ledger load {kind} {file} --template writes one to fill"
        )
    if file.is_dir() != (kind == "pages"):
        raise click.UsageError(
            f"{kind} are loaded from {'a folder' if kind == 'pages' else 'a file'}: {file}"
        )
    if kind == "pages":
        _load_pages(file, mapping)
        return
    with asking() as ledger:
        shape = read_text(mapping) if mapping else None
        found = ledger.load(
            kind, read_file(file), accept_good=accept_good, mapping=shape, name=file.name
        )
    for row in found.bad:
        click.secho(f"{file}, line {row.line}, {row.column}: {row.value}", fg="red", err=True)
        click.echo(f"  {row.problem}; {row.mend}", err=True)
    if rejects is not None:
        from wise_ledger.wire.collecting import BadRow
        from wise_ledger.wire.rows import rows_of
        from wise_ledger.wire.tables import separated

        write_file(rejects, separated(rows_of(BadRow, found.bad)))
    if found.rows:
        what = f"batch {found.batch}" if found.batch else "nothing new"
        what += f", {found.new} new" if found.new is not None and found.batch else ""
        rows = f"{counted(found.rows, 'row')} of {kind}"
        click.echo(f"{rows} loaded, {what}; {counted(len(found.bad), 'bad row')}")
        for note in found.notes:
            click.echo(note, err=True)
        if found.quarantined:
            rows = counted(found.quarantined, "row")
            click.echo(f"{rows} in quarantine, not used: wise-ledger quality market", err=True)
    else:
        rows = counted(len(found.bad), "bad row")
        mend = "mend what is bad, or load the rest with --accept-good"
        click.echo(f"nothing loaded: {rows}; {mend}", err=True)
    if found.bad:
        sys.exit(PARTLY if found.rows else FAILED)


def _write_template(kind: str, file: Path | None) -> None:
    if kind == "pages":
        raise click.UsageError("pages are loaded from a folder: there is no template of one")
    if file is not None and file.exists():
        raise click.UsageError(f"{file} is there already: name another file")
    with asking() as ledger:
        content = ledger.load_template(kind)
    if file is None:
        click.echo(content.decode(), nl=False)
        return
    write_file(file, content)
    click.echo(
        f"{file}: write your rows in the place of the example, then wise-ledger load {kind} {file}"
    )


def _load_pages(folder: Path, mapping: Path | None) -> None:
    import io
    import zipfile

    if mapping is None:
        raise click.UsageError("pages need --mapping: YAML that says what their labels mean")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, strict_timestamps=False) as archive:
        for path in sorted(folder.rglob("*")):
            archive.write(path, path.relative_to(folder))
    with asking() as ledger:
        found = ledger.load_pages(packed.getvalue(), read_text(mapping), name=folder.resolve().name)
    count = Counter(o.state for o in found.outcomes)
    shown = [o for o in found.outcomes if o.state in ("failed", "empty")]
    for outcome in shown[:_SHOWN]:
        click.secho(
            f"{outcome.path}: {outcome.state}",
            fg="red" if outcome.state == "failed" else None,
            err=True,
        )
        click.echo(f"  {outcome.reason}", err=True)
    if len(shown) > _SHOWN:
        click.echo(f"and {len(shown) - _SHOWN} more", err=True)
    for label, pages in found.unmapped.items():
        click.echo(f"no meaning for {label!r}, on {pages} page{'s' if pages > 1 else ''}", err=True)
    what = f"batch {found.batch}" if found.batch else "nothing new"
    click.echo(
        f"{found.new} new observations, {what}; "
        + ", ".join(f"{n} {state}" for state, n in count.items())
    )
    if count["failed"]:
        sys.exit(PARTLY if count["stored"] + count["unchanged"] else FAILED)
