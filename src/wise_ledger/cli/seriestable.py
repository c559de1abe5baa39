"""Series side by side in a terminal, and the options by which they are chosen."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.figures import REASONS, distinct_parts, in_common
from wise_ledger.cli.files import PlotFile
from wise_ledger.cli.ink import DIM, END
from wise_ledger.cli.output import Heading, console, draw, short, write

if TYPE_CHECKING:
    from wise_ledger.wire.series import (
        SeriesAnswer,
        SeriesAsked,
        SeriesLine,
    )

then_option = click.option(
    "--then",
    "transforms",
    multiple=True,
    metavar="STEP",
    help="A transform, such as 'quarterly mean' or 'growth on a year ago'; several apply in the order given.",
)
from_option = click.option(
    "--from", "start", metavar="PERIOD", help="The first period or day, included."
)
to_option = click.option("--to", "end", metavar="PERIOD", help="The last period or day, included.")
plot_option = click.option(
    "--plot", type=PlotFile(), metavar="FILE", help="Draw it: FILE.png or FILE.svg."
)


def read_keys(keys: Sequence[str], transforms: Sequence[str]) -> "list[SeriesAsked]":
    """Keys as they are given; one may have transforms of its own behind a colon,
    the others have those of all.
    """
    from wise_ledger.client.given import request_of
    from wise_ledger.wire.series import SeriesAsked

    asked = []
    for text in keys:
        key, colon, own = text.partition(": ")
        steps = [s.strip() for s in own.split(",") if s.strip()] if colon else [*transforms]
        asked.append(request_of(SeriesAsked, key=key.strip(), transforms=steps))
    return asked


def show_series(
    found: "SeriesAnswer",
    layout: Any,
    sort: Any,
    header: bool,
    format_: str,
    output: Path | None,
    plot: Path | None,
) -> None:
    """Write series as they were asked for: drawn, as a table in a terminal, or as a file."""
    if plot is not None:
        from wise_ledger.cli.plots import plot_series

        plot_series(found, plot)
        if output is None:
            return
    whole = found.model_dump(mode="json") if format_ == "json" else None
    table = (lambda: _drawn(found, sort)) if layout == "tidy" else None
    write(found.rows(layout, sort), format_, output, table=table, whole=whole, header=header)


def _drawn(found: "SeriesAnswer", sort: str) -> None:
    terminal = console()
    span = f"{found.start or 'the first'} to {found.end or 'the last'}, both included"
    which = {
        "known": "as known",
        "first": "as first released by",
        "last": "as last revised, of periods known",
    }
    terminal.print(
        f"{DIM}{span}; {which[found.which]} on {found.known_on:%d %B %Y}, batch {found.batch}{END}"
    )
    if len(found.series) > 8:
        _sparks(found)
        return
    dates = sorted({o.date for s in found.series for o in s.observations}, reverse=sort == "newest")
    by_date = [{o.date: o for o in s.observations} for s in found.series]
    titles = distinct_parts([s.title for s in found.series])
    names = [_head(s, title) for s, title in zip(found.series, titles, strict=True)]
    heads = [Heading("Period", whole=True)] + [Heading(name, right=True) for name in names]
    rows = []
    for day in dates:
        cells = [of.get(day) for of in by_date]
        label = next(c.period for c in cells if c is not None)
        rows.append([label, *(_cell(c, s) for c, s in zip(cells, found.series, strict=True))])
    draw(heads, rows, in_common([s.title for s in found.series]))


def _head(line: "SeriesLine", title: str) -> str:
    unit = "%" if line.percent else " ".join(filter(None, (line.unit, line.base)))
    return ", ".join(filter(None, (title, "" if line.head == "level" else line.head, unit)))


def _cell(seen: Any, line: "SeriesLine") -> str:
    if seen is None:
        return f"{DIM}{line.frequency}{END}"
    if seen.value is None:
        return f"{DIM}{REASONS.get(seen.reason, '')}{END}"
    return f"{seen.value * 100:,.2f}" if line.percent else amount(seen.value)


def _sparks(found: "SeriesAnswer") -> None:
    """Many series: one row each, with its trend."""
    heads = [
        Heading("Key", whole=True),
        Heading("Title"),
        Heading("From"),
        Heading("To"),
        Heading("First", right=True),
        Heading("Last", right=True),
        Heading("Trend", whole=True),
    ]
    rows = []
    titles = [s.title for s in found.series]
    for s, title in zip(found.series, distinct_parts(titles), strict=True):
        seen = [o for o in s.observations if o.value is not None]
        values = [o.value for o in seen if o.value is not None]
        scale = 100 if s.percent else 1
        ends = [f"{v * scale:,.2f}" for v in (values[0], values[-1])] if values else ["", ""]
        rows.append(
            [
                s.key,
                title,
                seen[0].period if seen else "",
                seen[-1].period if seen else "",
                *ends,
                _spark(values),
            ]
        )
    first = found.series[0]
    unit = "%" if first.percent else first.unit
    draw(
        heads,
        rows,
        in_common(titles),
        f"{first.head}, {unit}; --format csv or --layout wide has every period",
    )


def _spark(values: Sequence[float], width: int = 24) -> str:
    if not values:
        return ""
    step = max(1, len(values) // width)
    picked = list(values)[::-1][::step][:width][::-1]
    low, high = min(picked), max(picked)
    return "".join("▁▂▃▄▅▆▇█"[int((v - low) / (high - low or 1) * 7)] for v in picked)


def amount(value: float | None) -> str:
    """An amount of a series; one that was taken back says so."""
    if value is None:
        return f"{DIM}withdrawn{END}"
    return short(value) if abs(value) >= 1e6 else f"{value:,.2f}"
