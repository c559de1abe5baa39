"""wise-ledger series"""

from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import SERIES
from wise_ledger.cli.figures import distinct_parts
from wise_ledger.cli.groups import Group
from wise_ledger.cli.ink import BOLD, DIM, END, YELLOW
from wise_ledger.cli.output import Heading, console, draw, layout_options, output_options, write
from wise_ledger.cli.seriessheets import sheets
from wise_ledger.cli.seriestable import (
    amount,
    from_option,
    plot_option,
    read_keys,
    show_series,
    then_option,
    to_option,
)
from wise_ledger.cli.viewpoint import plain_viewpoint_options
from wise_ledger.words import counted

if TYPE_CHECKING:
    from wise_ledger.wire.releases import ReleasesAnswer
    from wise_ledger.wire.series import (
        ComparisonAnswer,
        SeriesDescription,
        SeriesFound,
        VintagesAnswer,
    )


@click.group(cls=Group)
def series() -> None:
    """Economic series, as they stood on any day."""


@series.command("find")
@click.argument("words", nargs=-1)
@click.option("--key", metavar="KEY", help="A key with wildcards: HOUSE_PRICES/M.*.NSA.")
@click.option("--subject", help="Such as Housing.")
@click.option("--area", help="Such as Aldmoor.")
@click.option(
    "--frequency", type=click.Choice(("daily", "weekly", "monthly", "quarterly", "yearly"))
)
@click.option("--adjustment", help="Such as 'seasonally adjusted'.")
@click.option("--family", help="Such as 'House prices'.")
@click.option(
    "--where", multiple=True, metavar="DIM=CODE", help="A code of a dimension: REGION=R01+R02."
)
@click.option("--limit", type=click.IntRange(1, 1000), default=25, show_default=True)
@plain_viewpoint_options
@output_options
def find(
    words: tuple[str, ...],
    limit: int,
    known_on: str | None,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
    **filters: Any,
) -> None:
    """Series by WORDS (slips allowed), subject, area, frequency, or a key with wildcards.

    \b
    wise-ledger series find house prices
    wise-ledger series find --subject Prices --area Aldmoor
    """
    with asking() as ledger:
        found = ledger.find_series(" ".join(words), known_on, limit=limit, **filters, **seen)
    write(
        found.rows(),
        format_,
        output,
        table=lambda: _found(found),
        whole=found.model_dump(mode="json"),
    )


def _found(found: "SeriesFound") -> None:
    terminal = console()
    if not found.series:
        terminal.print("No series is found so: try fewer words, or series find alone.")
        return
    heads = [
        Heading("Key", whole=True),
        Heading("Title"),
        Heading("Unit"),
        Heading("Frequency", optional=True),
        Heading("From"),
        Heading("To"),
        Heading("Released", optional=True),
    ]
    rows = [
        [
            s.key,
            s.title,
            " ".join(filter(None, (s.unit, s.base))),
            s.frequency,
            s.first_period or "",
            s.last_period or "",
            f"{s.last_release:%Y-%m-%d}" if s.last_release else "",
        ]
        for s in found.series
    ]
    more = f"{len(found.series)} of {counted(found.total, 'series')}"
    draw(heads, rows, caption=f"{more}, known on {found.known_on:%d %B %Y}, batch {found.batch}")
    for name, values in found.filters.items():
        if 1 < len(values) <= 12 and found.total > len(found.series):
            shown = ", ".join(f"{v} ({n})" for v, n in values.items())
            terminal.print(f"{DIM}--{name}:{END} {shown}")
    for facet in found.dimensions:
        if len(facet.codes) > 1:
            codes = ", ".join(f"{c.code} {c.name}" for c in facet.codes[:12])
            terminal.print(
                f"{DIM}--where {facet.id}=:{END} {codes}{' …' if len(facet.codes) > 12 else ''}"
            )


_RELEASE = [Heading("Released"), Heading("Value", right=True), Heading("Base"), Heading("")]


def _release(at: datetime, value: float | None, base: str, assumed: bool) -> list[str]:
    shown = f"{DIM}taken back{END}" if value is None else amount(value)
    return [f"{at:%Y-%m-%d %H:%M}", shown, base, "assumed" if assumed else ""]


@series.command("show")
@click.argument("key", type=SERIES)
@click.option(
    "--vintages", is_flag=True, help="The triangle of vintages: periods down, releases across."
)
@click.option("--period", metavar="PERIOD", help="Every release of one period.")
@from_option
@to_option
@click.option(
    "--most", type=click.IntRange(1, 400), default=8, show_default=True, help="Releases across."
)
@plain_viewpoint_options
@output_options
def show(
    key: str,
    vintages: bool,
    period: str | None,
    start: str | None,
    end: str | None,
    most: int,
    known_on: str | None,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """What KEY is, how late it comes and how much it is revised; its vintages;
    the revisions of a period.

    \b
    wise-ledger series show OUTPUT/Q.XA.TOTAL.VOLUME --known-on 2020-06-30
    wise-ledger series show OUTPUT/Q.XA.TOTAL.VOLUME --vintages --from 2018
    wise-ledger series show OUTPUT/Q.XA.TOTAL.VOLUME --period 2019Q2
    """
    with asking() as ledger:
        if period is not None:
            revisions = ledger.revisions(key, period, known_on, **seen)
            rows = [
                _release(r.released_at, r.value, r.base, r.assumed) for r in revisions.revisions
            ]
            title = f"{BOLD}{revisions.title}{END}, {revisions.period}, {revisions.unit}"
            write(revisions.rows(), format_, output, table=lambda: draw(_RELEASE, rows, title),
                  whole=revisions.model_dump(mode="json"))  # fmt: skip
        elif vintages:
            triangle = ledger.vintages(key, start, end, known_on, most=most, **seen)
            write(triangle.rows(), format_, output, table=lambda: _triangle(triangle),
                  whole=triangle.model_dump(mode="json"))  # fmt: skip
        else:
            series = ledger.describe_series(key, known_on, **seen)
            recent = ledger.vintages(key, None, None, known_on, most=1, **seen)
            whole = series.model_dump(mode="json")
            rows_of = [
                {"name": n, "value": v} for n, v in whole.items() if not isinstance(v, list | dict)
            ]
            from wise_ledger.wire.rows import Rows

            write(
                Rows(("name", "value"), rows_of),
                format_,
                output,
                table=lambda: _described(series, recent),
                whole=whole,
            )


def _described(series: "SeriesDescription", recent: "VintagesAnswer") -> None:
    terminal = console()
    terminal.print(
        f"{BOLD}{series.title}{END}\n"
        f"{DIM}{series.key}; known on {series.known_on:%d %B %Y}, batch {series.batch}{END}\n"
    )
    base = f", {series.base}" if series.base else ""
    late = (
        "" if series.days_late is None else f"{counted(series.days_late, 'day')} after its period"
    )
    revised = "never" if not series.revised else f"{series.revised:.0%} of its periods"
    moved = "" if series.revision is None else f", by {series.revision:.2%} in the middle case"
    about = f", about {series.next_release:%d %B %Y}" if series.next_release else ""
    coming = f"{series.next_period}{about}" if series.next_period else "nothing: it has ended"
    span = [p for p in (series.first_period, series.last_period) if p]
    lines = {
        "What": f"{series.frequency}, {series.unit}{base}" + (f", {series.adjustment}" if series.adjustment else ""),
        "Subject": " · ".join(filter(None, (series.subject, series.family, series.area))),
        "Span": " to ".join(span) or "no value yet",
        "Kept": f"{counted(series.observations, 'observation')} of {counted(series.releases, 'release')}",
        "Comes": late, "Revised": revised + moved, "Next": coming,
        "Bases": ", ".join(f"{b.base} since {b.since:%Y-%m-%d}" for b in series.bases), "Notes": series.notes,
    }  # fmt: skip
    for name, value in lines.items():
        if value:
            terminal.print(f"{DIM}{name:<8}{END} {value}")
    last = [
        (p, row[-1])
        for p, row in zip(recent.periods, recent.values, strict=True)
        if row[-1] is not None
    ][-12:]
    draw([Heading(p, right=True) for p, _ in last[-8:]], [[amount(v) for _, v in last[-8:]]])


def _triangle(found: "VintagesAnswer") -> None:
    heads = [Heading("Period", whole=True)] + [
        Heading(f"{r.at:%d %b %Y}", right=True) for r in found.releases
    ]
    rows = []
    for period, values in list(zip(found.periods, found.values, strict=True))[-40:]:
        cells, before = [], None
        for value in values:
            text = "" if value is None else f"{value:,.10g}"
            cells.append(f"{YELLOW}{text}{END}" if before is not None and value != before else text)
            before = value
        rows.append([period, *cells])
    rows.append([f"{DIM}new{END}", *(f"{DIM}{r.new}{END}" for r in found.releases)])
    rows.append([f"{DIM}revised{END}", *(f"{DIM}{r.revised}{END}" for r in found.releases)])
    draw(
        heads,
        rows,
        f"{BOLD}{found.title}{END}, {found.unit}",
        "what a release changed stands in ochre",
    )


@series.command("releases")
@click.argument("keys", nargs=-1, required=True, type=SERIES)
@from_option
@to_option
@plain_viewpoint_options
@partial(output_options, more=("sdmx",))
def releases(
    keys: tuple[str, ...],
    start: str | None,
    end: str | None,
    known_on: str | None,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """Every release of series of KEYS by the date: what was said of each period, and when.

    The columns are those that load series reads; --format sdmx is SDMX-CSV, of one flow at a time.
    A row without a value took the period back.

    \b
    wise-ledger series releases OUTPUT/Q.XA.TOTAL.VOLUME --from 2023 --known-on 2024-06-30
    wise-ledger series releases 'CONSUMER_PRICES/M.*.00' --format sdmx --output prices.csv
    """
    with asking() as ledger:
        found = ledger.releases(keys, start, end, known_on, **seen)
    write(
        found.rows(),
        format_,
        output,
        table=lambda: _released(found),
        whole=found.model_dump(mode="json"),
        more={"sdmx": found.sdmx_csv},
    )


def _released(found: "ReleasesAnswer") -> None:
    heads = [Heading("Period", whole=True), *_RELEASE]
    for series in found.series:
        rows, before = [], ""
        for period, at, value, base, assumed in zip(
            series.periods, series.released_at, series.values, series.bases, series.assumed,
            strict=True,
        ):  # fmt: skip
            first = period if period != before else ""
            rows.append([first, *_release(at, value, base, assumed)])
            before = period
        draw(heads, rows, f"{BOLD}{series.title}{END}, {series.unit}", series.key)
    total = counted(found.observations, "observation")
    console().print(f"{DIM}{total}, known on {found.known_on:%d %B %Y}, batch {found.batch}{END}")


@series.command("get")
@click.argument("keys", nargs=-1, required=True, type=SERIES)
@then_option
@from_option
@to_option
@click.option(
    "--which",
    type=click.Choice(("known", "first", "last")),
    default="known",
    show_default=True,
    help="As known on the date, as first released, or as last revised.",
)
@plain_viewpoint_options
@layout_options
@output_options
@plot_option
def get(
    keys: tuple[str, ...],
    transforms: tuple[str, ...],
    start: str | None,
    end: str | None,
    which: Any,
    known_on: str | None,
    sort: str,
    layout: str,
    header: bool,
    format_: str,
    output: Path | None,
    plot: Path | None,
    seen: dict[str, Any],
) -> None:
    """Series of KEYS side by side, both ends of the range included; a key may have wildcards.

    A key may have transforms of its own behind a colon: 'CONSUMER_PRICES/M.XA.00: growth on a year
    ago'.

    \b
    wise-ledger series get 'HOUSE_PRICES/M.*.SA' --then 'rebased to 2015' --from 2015 --plot houses.png
    wise-ledger series get CONSUMER_PRICES/M.XA.00 --then 'growth on a year ago' --known-on 2020-01-31
    """
    with asking() as ledger:
        asked = read_keys(keys, transforms)
        found = ledger.series(
            asked, start, end, known_on, transforms=transforms, which=which, **seen
        )
    show_series(found, layout, sort, header, format_, output, plot)


@series.command("compare")
@click.argument("keys", nargs=-1, required=True, type=SERIES)
@then_option
@click.option(
    "--changes", metavar="STEP", help="Of what correlations and leads are.  [default: log growth]"
)
@click.option("--spread-to", metavar="KEY", help="A key that is taken from all.")
@from_option
@to_option
@click.option(
    "--lags",
    type=click.IntRange(0, 36),
    default=12,
    show_default=True,
    help="Periods to look for leads in.",
)
@plain_viewpoint_options
@output_options
@plot_option
def compare(
    keys: tuple[str, ...],
    transforms: tuple[str, ...],
    changes: str | None,
    spread_to: str | None,
    start: str | None,
    end: str | None,
    lags: int,
    known_on: str | None,
    format_: str,
    output: Path | None,
    plot: Path | None,
    seen: dict[str, Any],
) -> None:
    """How series of KEYS move together, how far each is from their mean, who leads and who lags.

    \b
    wise-ledger series compare 'HOUSE_PRICES/M.*.SA' --from 2010 --then log --plot regions.png
    """
    with asking() as ledger:
        found = ledger.compare_series(
            list(keys),
            start,
            end,
            known_on,
            transforms=transforms,
            changes=changes,
            spread_to=spread_to,
            lags=lags,
            **seen,
        )
    if plot is not None:
        from wise_ledger.cli.plots import plot_comparison

        plot_comparison(found, plot)
        if output is None:
            return
    write(
        found.rows(),
        format_,
        output,
        table=lambda: _compared(found),
        whole=found.model_dump(mode="json"),
    )


def _compared(found: "ComparisonAnswer") -> None:
    terminal = console()
    terminal.print(
        f"{DIM}{found.periods[0]} to {found.periods[-1]}, {found.frequency}, {found.head}; correlations of: "
        f"{found.changes}; known on {found.known_on:%d %B %Y}, batch {found.batch}{END}"
    )
    figures = ("Last", "From mean", "Half-life", "Leads by", "Correlation there", "With others")
    heads = [
        Heading("Key", whole=True),
        Heading("Title"),
        *(Heading(f, right=True) for f in figures),
    ]
    scale = 100 if found.percent else 1
    series = sorted(found.series, key=lambda s: -(s.lead if s.lead is not None else -999))
    titles = distinct_parts([s.title for s in series])
    rows = [
        [
            s.key,
            title,
            _plain(s.last, scale),
            _plain(s.distance, scale),
            _plain(s.half_life, 1, 1),
            "" if s.lead is None else f"{s.lead:+.0f}",
            _plain(s.lead_correlation),
            _plain(s.mean_correlation),
        ]
        for s, title in zip(series, titles, strict=True)
    ]
    draw(
        heads,
        rows,
        caption=f"leads and half-lives in periods ({found.frequency}); those that lead stand first",
    )


def _plain(value: float | None, scale: float = 1, decimals: int = 2) -> str:
    return f"{DIM}n/a{END}" if value is None else f"{value * scale:,.{decimals}f}"


series.add_command(sheets)
