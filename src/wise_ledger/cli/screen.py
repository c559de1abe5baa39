"""wise-ledger screen"""

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking, partly
from wise_ledger.cli.completion import COMPANY, LIST
from wise_ledger.cli.ink import BOLD, DIM, END, GREEN
from wise_ledger.cli.keeping import keep_question, keeping_options, refuse_the_rest
from wise_ledger.cli.output import Heading, draw, output_options, write
from wise_ledger.cli.viewpoint import cell_viewpoint_options

if TYPE_CHECKING:
    from wise_ledger.wire.screens import ScreenAnswer, ScreenedCompany


@click.command()
@click.argument("rule", required=False)
@click.option(
    "--list",
    "list_",
    type=LIST,
    help="The list of companies to screen.  [default: everybody active then]",
)
@click.option(
    "--company",
    "companies",
    type=COMPANY,
    multiple=True,
    help="A company in the place of a list; may be given again.",
)
@click.option(
    "--show",
    multiple=True,
    metavar="COLUMN",
    help="A column to add: 'revenue', or with a name 'margin: operating_income / revenue'. Can be given again.",
)
@click.option(
    "--sort", metavar="COLUMN", help="By a column, with - before it the highest first: -margin."
)
@click.option(
    "--only",
    multiple=True,
    type=click.Choice(("pass", "fail", "unknown")),
    help="Only these verdicts.",
)
@keeping_options("screen")
@cell_viewpoint_options
@output_options
def screen(
    rule: str | None,
    list_: str | None,
    companies: tuple[str, ...],
    show: tuple[str, ...],
    sort: str | None,
    only: tuple[Any, ...],
    known_on: str | None,
    seen: dict[str, Any],
    kept: str | None,
    keep: str | None,
    who: str,
    title: str,
    format_: str,
    output: Path | None,
) -> None:
    """Who of a list passes RULE, who does not, and who is unknown and why.

    \b
    wise-ledger screen 'operating_income / revenue > 15%' --list first-look --known-on 2023-06-30
    wise-ledger screen 'net_margin > 15%' --list first-look --keep wide-margins --who Ada
    wise-ledger screen 'active' --show 'margin: operating_income / revenue' --sort -margin --only pass
    """
    from wise_ledger.client.kept import asked_again
    from wise_ledger.client.ledger import screen_request
    from wise_ledger.wire.screens import ScreenRequest

    if kept:
        refuse_the_rest()
    elif rule is None:
        raise click.MissingParameter(param_hint="'RULE'", param_type="argument")
    with asking() as ledger:
        if kept:
            question = ledger.question(kept, recorded_by=seen.get("recorded_by"))
            asked = asked_again(question, "screen", ScreenRequest, known_on, seen)  # type: ignore[arg-type]
        else:
            how = {"companies": companies, "show": show, "sort": sort, "only": only}
            asked = screen_request(rule, list_, known_on, seen, **how)  # type: ignore[arg-type]
        found = ledger.screen_answer(asked).answer
        if keep:  # what cannot be answered is not kept
            keep_question(ledger, keep, "screen", asked, who, title)
    write(
        found.rows(),
        format_,
        output,
        table=lambda: draw_screen(found),
        whole=found.model_dump(mode="json"),
    )
    partly(found.failed)


def draw_screen(found: "ScreenAnswer") -> None:
    """The answer as a table on the terminal."""
    from wise_ledger.cli.figures import heading, row_currency, row_texts

    styles = {"pass": GREEN, "fail": "", "unknown": DIM}
    headings = [
        Heading("Verdict", whole=True), Heading("Company"), Heading("Symbol", whole=True),
        Heading("Industry", optional=True, whole=True),
    ]  # fmt: skip
    several = any(cell.currency for c in found.companies for cell in c.cells)
    for column in found.columns:
        headings.append(
            Heading(heading(column.name, column.unit, column.percent), right=column.unit != "text")
        )
    headings += [Heading("Currency")] if several else []
    noted = any(map(_note, found.companies))
    headings += [Heading("Period", whole=True), *([Heading("Note", least=10)] if noted else [])]
    rows = []
    for company in found.companies:
        style = styles[company.verdict]
        periods = dict.fromkeys(x.period for x in company.cells if x.period)
        currency = [row_currency(company.cells)] if several else []
        row = [
            company.verdict, company.name, company.symbol or "", company.industry_title or "",
            *row_texts(company.cells, found.columns, company.template), *currency, ", ".join(periods),
            *([_note(company)] if noted else []),
        ]  # fmt: skip
        rows.append([f"{style}{v}{END}" for v in row])
    counts = found.counts
    lines = [
        f"{counts.passed} pass, {counts.failed} fail, {counts.unknown} unknown · batch {found.batch}"
    ]
    for one in found.conditions:
        why = (
            f", {one.of_reason} of these {(one.reason or '').replace('_', ' ')}"
            if one.unknown
            else ""
        )
        lines.append(
            f"{one.expression}: {one.passed} pass, {one.failed} fail, {one.unknown} unknown{why}"
        )
    draw(
        headings,
        rows,
        title=f"{BOLD}{found.rule}{END}  over {found.list_title}, known on {found.known_on:%d %B %Y}",
        caption="\n".join(lines),
    )


def _note(company: "ScreenedCompany") -> str:
    """The marks of its figures, and why it is unknown where none of them says so."""
    from wise_ledger.cli.figures import notes

    shown = dict.fromkeys(n for x in company.cells if (n := notes(x)))
    if company.reason and company.reason not in {x.reason for x in company.cells}:
        shown[company.reason.replace("_", " ")] = None
    return ", ".join(shown)
