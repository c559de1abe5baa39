"""wise-ledger statements"""

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking, partly
from wise_ledger.cli.completion import COMPANY, LIST
from wise_ledger.cli.ink import BOLD, DIM, END
from wise_ledger.cli.output import (
    Heading,
    columns_of,
    console,
    draw,
    layout_options,
    output_options,
    write,
)
from wise_ledger.cli.viewpoint import cell_viewpoint_options
from wise_ledger.wire.columns import STATEMENT

if TYPE_CHECKING:
    from wise_ledger.wire.statements import StatementAnswer, StatementCell

STATEMENTS = ("income", "balance", "cash_flow", "per_share", "share_count", "other", "all")
_MARKS = {"i": "implied", "a": "assumed", "~": "approximate", "m": "mixed_basis", "!": "flagged"}
_POWERS = {"units": 0, "k": 3, "mn": 6, "bn": 9}


@click.command()
@click.argument("companies", nargs=-1, type=COMPANY)
@click.option(
    "--list", "list_", type=LIST, help="The members of a list, in the place of companies."
)
@cell_viewpoint_options
@click.option(
    "--frequency",
    type=click.Choice(("annual", "half", "quarter", "trailing", "cumulative")),
    default="annual",
    show_default=True,
)
@click.option(
    "--periods",
    type=click.IntRange(1),
    help="The newest so many; as many as there are unless given.",
)
@click.option(
    "--from", "start", metavar="DATE", help="Periods that end from this day on, included."
)
@click.option("--to", "end", metavar="DATE", help="Periods that end up to this day, included.")
@click.option(
    "--first-reported", is_flag=True, help="The first version of each figure, not the latest known."
)
@click.option("--as-reported", is_flag=True, help="Leave out what is formed of other figures.")
@click.option(
    "--show",
    type=click.Choice(("amounts", "common_size", "growth")),
    default="amounts",
    show_default=True,
)
@click.option(
    "--lines", type=click.Choice(("filled", "template", "all")), default="filled", show_default=True
)
@click.option(
    "--scale",
    type=click.Choice(tuple(_POWERS)),
    default="mn",
    show_default=True,
    help="Of amounts.",
)
@click.option("--calendar", is_flag=True, help="Head the columns by calendar periods.")
@click.option(
    "--basis",
    default="consolidated",
    show_default=True,
    help="Or a segment; the answer names them.",
)
@click.option(
    "--columns", callback=columns_of(STATEMENT), default="", help="Of files: which, in this order."
)
@layout_options
@output_options
def statements(
    companies: tuple[str, ...],
    list_: str | None,
    known_on: str | None,
    first_reported: bool,
    as_reported: bool,
    scale: str,
    calendar: bool,
    columns: list[str],
    sort: str,
    layout: str,
    header: bool,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
    **how: Any,
) -> None:
    """A statement of COMPANIES (any identifiers) as known on a date: oldest first.

    The last argument may say which: income (without one), balance, cash_flow, per_share,
    share_count, other or all.

    \b
    wise-ledger statements AGK@ZALD --known-on 2024-06-30 --periods 5
    wise-ledger statements AGK@ZALD EMI@ZBRE balance --frequency quarter --periods 6
    wise-ledger statements --list first-look --currency EUR --output first-look.parquet
    wise-ledger statements AGK@ZALD --from 2021-01-01 --layout turned --no-header --format csv
    """
    statement = "income"
    if companies and companies[-1] in STATEMENTS:
        *named, statement = companies
        companies = tuple(named)
    if bool(companies) == bool(list_):
        raise click.UsageError("name companies, such as AGK@ZALD, or a list by --list")
    how |= {
        "versions": "first" if first_reported else "latest",
        "figures": "as_reported" if as_reported else "normalised",
    }
    frequency = how.pop("frequency")
    if list_ is not None or len(companies) > 1:
        if how.pop("basis") != "consolidated":
            raise click.UsageError("another basis is shown of one company alone")
        with asking() as ledger:
            several = ledger.statements(
                companies, statement, frequency, known_on, list=list_, **how, **seen
            )
        write(
            several.rows(columns, layout, sort),
            format_,
            output,
            header=header,  # type: ignore[arg-type]
            table=lambda: [_draw(s, scale, calendar) for s in several.statements],
            whole=several.model_dump(mode="json"),
        )
        partly(several.failed)
        return
    with asking() as ledger:
        found = ledger.statement(companies[0], statement, frequency, known_on, **how, **seen).answer
    write(
        found.rows(columns, layout, sort), format_, output, header=header,  # type: ignore[arg-type]
        table=lambda: _draw(found, scale, calendar), whole=found.model_dump(mode="json"),
    )  # fmt: skip


def _draw(found: "StatementAnswer", scale: str, calendar: bool) -> None:
    terminal = console()
    suffix = {
        "amounts": "",
        "common_size": ", percent of the total",
        "growth": ", growth over a year in percent",
    }
    terminal.print(
        f"{BOLD}{found.name}{END} {found.symbol or found.company}: "
        f"{found.statement.replace('_', ' ')}, {found.frequency}{suffix.get(found.show, '')}"
    )
    unit = _unit(found, scale) if found.show == "amounts" and found.columns else ""
    versions = ", first reported" if found.versions == "first" else ""
    versions += ", as reported" if found.figures == "as_reported" else ""
    terminal.print(
        f"{DIM}{unit}{'; ' if unit else ''}known on {found.known_on:%d %B %Y}{versions}, batch {found.batch}{END}"
    )
    if found.basis != "consolidated":
        terminal.print(f"{BOLD}{found.basis}{END} alone, apart from the consolidated figures")
    elif found.bases:
        terminal.print(f"{DIM}also reported apart: {', '.join(found.bases)}; see --basis{END}")
    if not found.columns:
        terminal.print(
            "Nothing of this statement was known then: try a later date, or another frequency."
        )
        return
    fits = max(1, (terminal.width - 34) // 13)
    columns = list(enumerate(found.columns))[-fits:]
    if len(columns) < len(found.columns):
        terminal.print(
            f"{DIM}the newest {len(columns)} of {len(found.columns)} periods fit; --format csv has them all{END}"
        )
    headings = [Heading("", whole=True)]
    for _, c in columns:
        headings.append(Heading(c.calendar if calendar else c.label, right=True, whole=True))
    rows = [[f"{DIM}period ends{END}", *(f"{DIM}{c.period_end}{END}" for _, c in columns)]]
    if found.currency is None and found.show == "amounts":
        rows.append([f"{DIM}currency{END}", *(f"{DIM}{c.currency or ''}{END}" for _, c in columns)])
    marks: set[str] = set()
    for line in found.lines:
        title = "  " * line.indent + line.title
        bold = line.indent == 0
        cells = [
            _cell(line.cells[n], line.unit, found, scale, marks, line.applies) for n, _ in columns
        ]
        rows.append(
            [
                f"{BOLD}{title}{END}" if bold else title,
                *(f"{BOLD}{c}{END}" if bold else c for c in cells),
            ]
        )
    rows.append(
        [
            f"{DIM}public since{END}",
            *(f"{DIM}{c.first_public_at:%Y-%m-%d}{END}" for _, c in columns),
        ]
    )
    notes = {
        "r": "r restated",
        "f": "f formed of other figures",
        "i": "i implied: absent means zero",
        "a": "a publication date assumed",
        "~": "~ approximate",
        "m": "m mixed basis",
        "!": "! flagged by a check, see wise-ledger quality",
    }
    draw(headings, rows, caption="   ".join(text for mark, text in notes.items() if mark in marks))


def _unit(found: "StatementAnswer", scale: str) -> str:
    """What the figures are in: a currency where there are amounts,
    a scale where there is anything to scale.
    """
    units = {line.unit for line in found.lines}
    moneyed = units & {"money", "money_per_share"}
    currency = (found.currency or "amounts in each period's currency") if moneyed else ""
    return f"{currency} {scale if units & {'money', 'shares'} else ''}".strip()


def _cell(
    cell: "StatementCell",
    unit: str,
    found: "StatementAnswer",
    scale: str,
    marks: set[str],
    applies: bool,
) -> str:
    from wise_ledger.cli.figures import REASONS

    if cell.value is None:
        words = REASONS[cell.reason or "not_known"]
        return f"{DIM}{f'n/a {found.template}' if not applies and found.template else words}{END}"
    letters = "r" * cell.restated + "f" * (cell.formed and not set(cell.marks) - {"flagged"})
    letters += "".join(mark for mark, name in _MARKS.items() if name in cell.marks)
    marks.update(letters)
    if found.show != "amounts":
        text = f"{abs(cell.value) * 100:,.1f}"
    elif unit in ("money", "shares"):
        power = _POWERS[scale]
        text = f"{abs(cell.value) / 10**power:,.{1 if power else 0}f}"
    else:
        text = f"{abs(cell.value):,.2f}" if unit == "money_per_share" else f"{abs(cell.value):,.0f}"
    text = f"({text})" if cell.value < 0 else text
    text = f"{DIM}{cell.currency}{END} {text}" if cell.currency else text
    return f"{text} {DIM}{letters}{END}" if letters else text
