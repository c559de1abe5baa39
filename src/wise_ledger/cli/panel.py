"""wise-ledger panel"""

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking, partly
from wise_ledger.cli.completion import COMPANY, LIST, MEASURE
from wise_ledger.cli.files import write_file
from wise_ledger.cli.ink import BOLD, DIM, END, YELLOW
from wise_ledger.cli.keeping import keep_question, keeping_options, refuse_the_rest
from wise_ledger.cli.output import Heading, console, draw, output_options, short, write
from wise_ledger.cli.progress import progress_bar
from wise_ledger.cli.viewpoint import viewpoint_options
from wise_ledger.words import counted

if TYPE_CHECKING:
    from wise_ledger.client import Ledger
    from wise_ledger.wire.panels import ColumnSummary, PanelAnswer, PanelPlan, PanelRequest

_BESIDE = ("reason", "currency", "period_end", "known_at", "marks", "source")
_SHOWN, _WIDE = 40, 60_000  # rows on a terminal, and rows of one answer as JSON


@click.command()
@click.argument("measures", nargs=-1, type=MEASURE)
@click.option(
    "--list", "list_", type=LIST, help="Who was on a list then.  [default: everybody active then]"
)
@click.option(
    "--company",
    "companies",
    type=COMPANY,
    multiple=True,
    help="A company in its place; can be given again.",
)
@click.option(
    "--dates",
    multiple=True,
    metavar="DATES",
    help="2015-01-01/2024-12-31 monthly; can be given again.",
)
@click.option(
    "--periods",
    metavar="PERIODS",
    help="In their place: FY2015/FY2024, FY2020Q1/FY2024Q4, 2015/2024.",
)
@click.option(
    "--where", metavar="RULE", help="Only rows of which it is true, judged per company and date."
)
@click.option(
    "--lag", type=click.IntRange(0), default=0, help="Use only what was known so many days before."
)
@click.option("--at-close", is_flag=True, help="The cut-off is the close of each company's venue.")
@click.option("--first-reported", is_flag=True, help="Figures as first reported.")
@click.option(
    "--ahead",
    multiple=True,
    metavar="RETURN",
    help="A return after each date: 'total 3mo'. It looks ahead.",
)
@click.option(
    "--beside", multiple=True, type=click.Choice(_BESIDE), help="What stands beside each value."
)
@click.option(
    "--layout", type=click.Choice(("wide", "tidy", "turned")), default="wide", show_default=True
)
@click.option("--summary", is_flag=True, help="How the columns lie, in the place of rows.")
@keeping_options("panel")
@viewpoint_options
@output_options
def panel(
    measures: tuple[str, ...],
    list_: str | None,
    companies: tuple[str, ...],
    known_on: str | None,
    seen: dict[str, Any],
    summary: bool,
    kept: str | None,
    keep: str | None,
    who: str,
    title: str,
    format_: str,
    output: Path | None,
    **how: Any,
) -> None:
    """MEASURES of a list on many dates, or by fiscal period.

    \b
    wise-ledger panel operating_margin revenue_growth --list first-look --dates '2015-01-01/2024-12-31 yearly'
    wise-ledger panel revenue net_income --company AGK@ZALD --periods FY2015/FY2024 --layout turned
    wise-ledger panel momentum --dates '2010-01-01/2024-12-31 monthly' --output momentum.parquet
    """
    from wise_ledger.client.kept import asked_again
    from wise_ledger.client.panelcalls import panel_request
    from wise_ledger.wire.panels import PanelRequest, PanelSummary

    if kept:
        refuse_the_rest()
    with asking() as ledger:
        if kept:
            question = ledger.question(kept, recorded_by=seen.get("recorded_by"))
            asked = asked_again(question, "panel", PanelRequest, known_on, seen)  # type: ignore[arg-type]
        else:
            given = {name: list(v) if isinstance(v, tuple) else v for name, v in how.items()}
            asked = panel_request(
                list_ or (companies or None),
                measures,
                given.pop("dates") or None,
                given.pop("periods"),
                known_on,
                seen,
                **given,  # type: ignore[arg-type]
            )
        found = ledger.panel_summary(asked) if summary else ledger.plan_panel(asked)
        if keep:  # what cannot be answered is not kept
            keep_question(ledger, keep, "panel", asked, who, title)
        if isinstance(found, PanelSummary):
            write(found.rows(), format_, output, table=lambda: _summary(found.title, found.summary),
                  whole=found.model_dump(mode="json"))  # fmt: skip
        else:
            _answer(ledger, asked, found, format_, output)
    partly(found.failed)


def _answer(
    ledger: "Ledger", asked: "PanelRequest", plan: "PanelPlan", format_: str, output: Path | None
) -> None:
    if format_ == "table":
        beside = list(dict.fromkeys((*asked.beside, "reason")))
        found = ledger.panel_rows(asked.model_copy(update={"beside": beside}), limit=_SHOWN)
        _table(found, plan, asked)
        return
    if format_ == "json" or (format_ in ("tsv", "xlsx") and plan.at_once):
        found = ledger.panel_rows(
            asked, limit=min(50_000, max(1, plan.rows * max(1, len(plan.columns))))
        )
        write(
            found.rows(),
            format_,
            output,
            table=lambda: _table(found, plan, asked),
            whole=found.model_dump(mode="json"),
        )
        return
    raw = (
        ledger.panel_file(asked, format_)
        if plan.at_once
        else _extracted(ledger, asked, plan, format_)
    )
    if output is None:
        sys.stdout.buffer.write(raw)
    else:
        write_file(output, raw)
        click.echo(
            f"{counted(plan.rows, 'row')}, {counted(len(plan.columns), 'measure')}: {output}",
            err=True,
        )


def _extracted(ledger: "Ledger", asked: "PanelRequest", plan: "PanelPlan", form: str) -> bytes:
    """A large one: written by the service first, with a bar of progress on stderr."""
    if form not in ("parquet", "csv"):
        raise click.UsageError(
            f"this panel has {plan.cells:,} cells: write it to a .parquet or .csv file"
        )
    click.echo(f"{plan.cells:,} cells, about {plan.seconds:,.0f} seconds", err=True)
    extract = ledger.ask_extract(asked, form)  # type: ignore[arg-type]
    try:
        with progress_bar() as bar:
            task = bar.add_task(plan.title, total=None)
            ledger.wait_for_extract(
                extract.id, lambda e: bar.update(task, completed=e.done, total=e.total or None)
            )
        return ledger.extract_file(extract.id)
    finally:
        ledger.drop_extract(extract.id)


def _as_known(asked: "PanelRequest", found: "PanelAnswer") -> str:
    """On dates no row knows what another does; by period all are of one day."""
    if asked.periods:
        return f"known on {found.known_on:%d %B %Y}"
    days = f"{counted(asked.lag, 'day')} before its date" if asked.lag else "on its date"
    return f"each row as known {days}" + (", at the close" if asked.at_close else "")


def _table(found: "PanelAnswer", plan: "PanelPlan", asked: "PanelRequest") -> None:
    """The first rows on the terminal: a measure with its missing cells in words."""
    if not found.records:
        console().print("No row: of no company and date is the condition true.")
        return
    from wise_ledger.cli.figures import REASONS, number

    units = {c.name: c.unit for c in found.columns}
    hidden = {h for h in found.heads if "." in h} | {"company"}
    heads = [h for h in found.heads if h not in hidden]
    text = {
        "date",
        "period",
        "period_end",
        "name",
        "symbol",
        "measure",
        "unit",
        "reason",
        "currency",
        "text",
        "marks",
    }
    headings = [
        Heading(
            h,
            right=h not in text and units.get(h) != "text",
            whole=h in ("date", "period", "symbol"),
            optional=h == "symbol",
        )
        for h in heads
    ]

    def cell(row: dict[str, Any], head: str) -> str:
        value = row[head]
        if value is None:
            reason = row.get(f"{head}.reason")
            return f"{DIM}{REASONS.get(reason, '')}{END}" if reason else ""
        if isinstance(value, float):
            unit = units.get(head) or units.get(row.get("measure", ""), "pure")
            currency = row.get(f"{head}.currency") or ""
            return f"{number(value, unit)} {currency}".strip()
        return str(value)

    about = "about " if found.total is None else ""
    total = about + counted(plan.rows if found.total is None else found.total, "row")
    unknown = f", unknown: {sum(found.unknown.values()):,}" if found.unknown else ""
    draw(
        headings,
        [[cell(row, head) for head in heads] for row in found.records],
        title=f"{BOLD}{found.title}{END}  {_as_known(asked, found)}",
        caption=f"{len(found.records):,} of {total}{unknown}, amounts and shares in millions, "
        f"batch {found.batch}; all of them: --output FILE.parquet",
    )
    for column in found.columns:
        if column.looks_ahead:
            console().print(f"{YELLOW}{column.name}{END} {column.expression}")


def _summary(title: str, columns: "list[ColumnSummary]") -> None:
    heads = [
        Heading("Measure", style="bold", whole=True),
        Heading("Filled", right=True),
        Heading("Missing"),
        *(
            Heading(n, right=True)
            for n in ("Least", "5 %", "25 %", "Median", "75 %", "95 %", "Greatest")
        ),
        Heading("Lowest is", optional=True),
        Heading("Highest is", optional=True),
    ]
    rows = []
    for c in columns:
        share = f"{c.filled / c.cells:.1%}" if c.cells else ""
        missing = ", ".join(
            f"{reason.replace('_', ' ')} {count:,}" for reason, count in list(c.reasons.items())[:3]
        )
        numbers = [short(q) for q in c.quantiles] or [""] * 7
        extremes = [f"{e.name} {e.date}" if e else "" for e in (c.lowest, c.highest)]
        rows.append([c.name, share, missing, *numbers, *extremes])
    draw(heads, rows, title=f"{BOLD}{title}{END}")
