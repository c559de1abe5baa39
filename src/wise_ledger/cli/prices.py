"""wise-ledger prices, market"""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking, partly
from wise_ledger.cli.choosing import Columns, columns_option, companies_and_days, frequency_option
from wise_ledger.cli.completion import COMPANY, LIST
from wise_ledger.cli.files import write_file
from wise_ledger.cli.ink import BOLD, DIM, END
from wise_ledger.cli.output import (
    Heading,
    console,
    draw,
    layout_options,
    output_options,
    short,
    write,
)
from wise_ledger.cli.viewpoint import viewpoint_options
from wise_ledger.wire.columns import PRICES

if TYPE_CHECKING:
    from wise_ledger.wire.prices import Bar, MarketAnswer, PriceHistory, PricesAnswer

_STANDARD = "date,open,high,low,close,volume,change"
_PERCENT = ("change", "total_return")
_SPARKS = "▁▂▃▄▅▆▇█"


@click.command()
@companies_and_days()
@frequency_option("day")
@columns_option(PRICES, _STANDARD)
@click.option(
    "--as-traded",
    is_flag=True,
    help="Not adjusted for splits; `factor` says by how much they would be.",
)
@layout_options
@output_options
def prices(
    companies: tuple[str, ...],
    list_: str | None,
    start: str | None,
    end: str | None,
    known_on: str | None,
    frequency: str,
    columns: Columns,
    as_traded: bool,
    sort: str,
    layout: str,
    header: bool,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """Prices of COMPANIES (any identifiers) as known on a date, both ends of the range included.

    \b
    wise-ledger prices AGK@ZALD --from 2023-01-01 --to 2023-12-31 --frequency month
    wise-ledger prices AGK@ZALD PTP@ZBRE --frequency week --layout wide --columns close
    wise-ledger prices --list first-look --from 2020-01-01 --output first-look.parquet
    """
    if bool(companies) == bool(list_):
        raise click.UsageError("name companies, such as AGK@ZALD, or a list by --list")
    from wise_ledger.client.given import request_of
    from wise_ledger.client.marketcalls import PriceTable
    from wise_ledger.client.viewpoint import viewpoint
    from wise_ledger.wire.prices import PricesRequest

    names = columns.of(format_)
    with asking() as ledger:
        asked = request_of(
            PricesRequest,
            list=list_,
            companies=[*companies],
            start=start,
            end=end,
            frequency=frequency,
            columns=names,
            adjusted=not as_traded,
            sort=sort,
            layout=layout,
            **viewpoint(known_on, seen),  # type: ignore[arg-type]
        )
        # it may be millions of rows: straight into the file
        if format_ == "parquet" and output is not None:
            raw = ledger.price_file(asked, "parquet")
            write_file(output, raw)
            partly(PriceTable(raw).failed)
            return
        found = ledger.price_answer(asked)
    draws = (lambda: _draw(found, names)) if layout == "tidy" else None
    write(
        found.rows(names, layout),
        format_,
        output,
        table=draws,
        whole=found.model_dump(mode="json"),
        header=header,  # type: ignore[arg-type]
    )
    partly(found.failed)


def _draw(found: "PricesAnswer", columns: Sequence[str]) -> None:
    terminal = console()
    adjusted = "adjusted for the splits known then" if found.adjusted else "as traded"
    terminal.print(
        f"{DIM}{found.start} to {found.end}, both included, by {found.frequency}, {adjusted}; "
        f"known on {found.known_on:%d %B %Y}, batch {found.batch}{END}"
    )
    for history in found.histories:
        terminal.print(f"\n{BOLD}{history.name}{END} {history.symbol}, {history.currency}")
        if not history.bars:
            since = (
                f"there are prices from {history.since} on"
                if history.since
                else "nothing was known then"
            )
            terminal.print(f"No price in this range: {since}.")
            continue
        if history.since and history.since > found.start:
            terminal.print(f"{DIM}there are prices from {history.since} on{END}")
        _table(history, columns)


def _table(history: "PriceHistory", columns: Sequence[str]) -> None:
    heads = [
        Heading(c.replace("_", " ").capitalize(), right=c != "date", whole=True) for c in columns
    ]
    rows = [[_cell(name, bar, history.currency) for name in columns] for bar in history.bars]
    marked = [i for i, bar in enumerate(history.bars) if not bar.complete]
    for i in marked:
        rows[i][0] += f" {DIM}…{END}"
    draw(heads, rows, caption="… cut off by the range, or not over yet" if marked else "")


def _cell(name: str, bar: "Bar", currency: str) -> str:
    from wise_ledger.cli.figures import REASONS

    if bar.reason and name in ("close", "reason"):
        return f"{DIM}{REASONS[bar.reason]}{END}"
    return _shown(name, getattr(bar, name, currency))


def _shown(name: str, value: Any) -> str:
    if value is None:
        return f"{DIM}–{END}"
    if name in _PERCENT:
        return f"{value * 100:+,.2f} %"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return (
            f"{value:,.0f}"
            if name == "volume"
            else f"{value:g}"
            if name == "factor"
            else f"{value:,.2f}"
        )
    return str(value)


@click.command()
@click.argument("companies", nargs=-1, type=COMPANY)
@click.option(
    "--list", "list_", type=LIST, help="The members of a list; without it and companies everybody."
)
@viewpoint_options
@output_options
def market(
    companies: tuple[str, ...],
    list_: str | None,
    known_on: str | None,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """The last close of companies, how far it moved, and what they are worth,
    as known on a date.
    """
    with asking() as ledger:
        found = ledger.market(known_on, list=list_, companies=companies, **seen)
    write(
        found.rows(),
        format_,
        output,
        table=lambda: _market(found),
        whole=found.model_dump(mode="json"),
    )
    partly(found.failed)


def _market(found: "MarketAnswer") -> None:
    from wise_ledger.cli.figures import REASONS

    headings = [
        Heading("Company"), Heading("Listing", optional=True), Heading("Close", right=True, whole=True),
        Heading("", whole=True), Heading("Day", right=True, whole=True), Heading("Week", right=True, whole=True),
        Heading("Month", right=True, whole=True), Heading("Year", right=True, whole=True),
        Heading("To date", right=True, whole=True), Heading("Market value", right=True, whole=True),
        Heading("60 days", whole=True, optional=True),
    ]  # fmt: skip
    rows = []
    for c in found.companies:
        moves = [_move(c.day), _move(c.week), _move(c.month), _move(c.year), _move(c.year_to_date)]
        close = (
            f"{DIM}{REASONS[c.reason or 'not_known']}{END}"
            if c.close is None
            else f"{c.close:,.2f}"
        )
        if c.market_value_reason:
            worth = f"{DIM}{REASONS[c.market_value_reason]}{END}"
        else:
            about = "~" if "approximate" in c.market_value_marks else ""
            worth = f"{about}{c.market_value_currency or ''} {short(c.market_value or 0.0)}"
        rows.append(
            [c.name, c.symbol or "", close, c.currency or "", *moves, worth, _spark(c.closes)]
        )
    title = f"{BOLD}{found.list_title}{END} {DIM}known on {found.known_on:%d %B %Y}, batch {found.batch}{END}"
    draw(
        headings,
        rows,
        title=title,
        caption="changes in percent; to date: since the last close of the year before",
    )


def _move(value: float | None) -> str:
    if value is None:
        return f"{DIM}–{END}"
    return f"{value * 100:+,.1f}"


def _spark(closes: Sequence[float]) -> str:
    """The last closes as a line of bars, every third of them."""
    few = closes[::-3][::-1]
    if len(few) < 2:
        return ""
    low, high = min(few), max(few)
    span = (high - low) or 1.0
    return "".join(_SPARKS[min(7, int((c - low) / span * 8))] for c in few)
