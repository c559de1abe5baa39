"""wise-ledger series"""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import SERIES, SHEET
from wise_ledger.cli.figures import REASONS, counted, distinct_parts, in_common
from wise_ledger.cli.files import OutputFile
from wise_ledger.cli.output import Heading, console, draw, layout_options, output_options, short, write
from wise_ledger.cli.viewpoint import viewpoint_options

if TYPE_CHECKING:
    from wise_ledger.wire.series import (
        ComparisonAnswer,
        SeriesAnswer,
        SeriesDescription,
        SeriesFound,
        SeriesLine,
        SheetChanges,
        SheetInfo,
        VintagesAnswer,
    )

then_option = click.option(
    "--then", "transforms", multiple=True, metavar="STEP",
    help="A transform, such as 'quarterly mean' or 'growth on a year ago'; several apply in the order given.",
)  # fmt: skip
from_option = click.option("--from", "start", metavar="PERIOD", help="The first period or day, included.")
to_option = click.option("--to", "end", metavar="PERIOD", help="The last period or day, included.")
plot_option = click.option("--plot", type=OutputFile(), metavar="FILE", help="Draw it: FILE.png or FILE.svg.")


@click.group()
def series() -> None:
    """Economic series, as they stood on any day."""


@series.command("find")
@click.argument("words", nargs=-1)
@click.option("--key", metavar="KEY", help="A key with wildcards: HOUSE_PRICES/M.*.NSA.")
@click.option("--subject", help="Such as Housing.")
@click.option("--area", help="Such as Aldmoor.")
@click.option("--frequency", type=click.Choice(("daily", "weekly", "monthly", "quarterly", "yearly")))
@click.option("--adjustment", help="Such as 'seasonally adjusted'.")
@click.option("--family", help="Such as 'House prices'.")
@click.option("--where", multiple=True, metavar="DIM=CODE", help="A code of a dimension: REGION=R01+R02.")
@click.option("--limit", type=click.IntRange(1, 1000), default=25, show_default=True)
@viewpoint_options
@output_options
def find(
    words: tuple[str, ...], limit: int, known_on: str | None, format_: str, output: Path | None, seen: dict[str, Any],
    **filters: Any,
) -> None:  # fmt: skip
    """Series by WORDS (slips allowed), subject, area, frequency, or a key with wildcards.

    \b
    wise-ledger series find house prices
    wise-ledger series find --subject Prices --area Aldmoor
    """
    with asking() as ledger:
        found = ledger.find_series(" ".join(words), known_on, limit=limit, **filters, **seen)
    write(found.rows(), format_, output, table=lambda: _found(found), whole=found.model_dump(mode="json"))


def _found(found: "SeriesFound") -> None:
    terminal = console()
    if not found.series:
        terminal.print("No series is found so: try fewer words, or series find alone.")
        return
    heads = [Heading("Key", whole=True), Heading("Title"), Heading("Unit"), Heading("Frequency", optional=True),
             Heading("From"), Heading("To"), Heading("Released", optional=True)]  # fmt: skip
    rows = [
        [s.key, s.title, " ".join(filter(None, (s.unit, s.base))), s.frequency, s.first_period or "",
         s.last_period or "", f"{s.last_release:%Y-%m-%d}" if s.last_release else ""]
        for s in found.series
    ]  # fmt: skip
    more = f"{len(found.series)} of {counted(found.total, 'series').replace('seriess', 'series')}"
    draw(heads, rows, caption=f"{more}, known on {found.known_on:%d %B %Y}, batch {found.batch}")
    for name, values in found.filters.items():
        if 1 < len(values) <= 12 and found.total > len(found.series):
            shown = ", ".join(f"{v} ({n})" for v, n in values.items())
            terminal.print(f"[dim]--{name}:[/] {shown}")
    for facet in found.dimensions:
        if len(facet.codes) > 1:
            codes = ", ".join(f"{c.code} {c.name}" for c in facet.codes[:12])
            terminal.print(f"[dim]--where {facet.id}=:[/] {codes}{' …' if len(facet.codes) > 12 else ''}")


@series.command("show")
@click.argument("key", type=SERIES)
@click.option("--vintages", is_flag=True, help="The triangle of vintages: periods down, releases across.")
@click.option("--period", metavar="PERIOD", help="Every release of one period.")
@from_option
@to_option
@click.option("--most", type=click.IntRange(1, 400), default=8, show_default=True, help="Releases across.")
@viewpoint_options
@output_options
def show(
    key: str, vintages: bool, period: str | None, start: str | None, end: str | None, most: int, known_on: str | None,
    format_: str, output: Path | None, seen: dict[str, Any],
) -> None:  # fmt: skip
    """What KEY is, how late it comes and how much it is revised; its vintages; the revisions of a period.

    \b
    wise-ledger series show OUTPUT/Q.XA.TOTAL.VOLUME --known-on 2020-06-30
    wise-ledger series show OUTPUT/Q.XA.TOTAL.VOLUME --vintages --from 2018
    wise-ledger series show OUTPUT/Q.XA.TOTAL.VOLUME --period 2019Q2
    """
    with asking() as ledger:
        if period is not None:
            revisions = ledger.revisions(key, period, known_on, **seen)
            rows = [[f"{r.released_at:%Y-%m-%d %H:%M}", _amount(r.value), r.base, "assumed" if r.assumed else ""]
                    for r in revisions.revisions]  # fmt: skip
            heads = [Heading("Released"), Heading("Value", right=True), Heading("Base"), Heading("")]
            title = f"[bold]{revisions.title}[/], {revisions.period}, {revisions.unit}"
            write(revisions.rows(), format_, output, table=lambda: draw(heads, rows, title),
                  whole=revisions.model_dump(mode="json"))  # fmt: skip
        elif vintages:
            triangle = ledger.vintages(key, start, end, known_on, most=most, **seen)
            write(triangle.rows(), format_, output, table=lambda: _triangle(triangle),
                  whole=triangle.model_dump(mode="json"))  # fmt: skip
        else:
            series = ledger.describe_series(key, known_on, **seen)
            recent = ledger.vintages(key, None, None, known_on, most=1, **seen)
            whole = series.model_dump(mode="json")
            rows_of = [{"name": n, "value": v} for n, v in whole.items() if not isinstance(v, list | dict)]
            from wise_ledger.wire.rows import Rows

            write(Rows(("name", "value"), rows_of), format_, output, table=lambda: _described(series, recent),
                  whole=whole)  # fmt: skip


def _described(series: "SeriesDescription", recent: "VintagesAnswer") -> None:
    terminal = console()
    terminal.print(
        f"[bold]{series.title}[/]\n[dim]{series.key}; known on {series.known_on:%d %B %Y}, batch {series.batch}[/]\n"
    )
    base = f", {series.base}" if series.base else ""
    late = "" if series.days_late is None else f"{counted(series.days_late, 'day')} after its period"
    revised = "never" if not series.revised else f"{series.revised:.0%} of its periods"
    moved = "" if series.revision is None else f", by {series.revision:.2%} in the middle case"
    coming = (
        f"{series.next_period}, about {series.next_release:%d %B %Y}" if series.next_period else "nothing: it has ended"
    )
    lines = {
        "What": f"{series.frequency}, {series.unit}{base}" + (f", {series.adjustment}" if series.adjustment else ""),
        "Subject": " · ".join(filter(None, (series.subject, series.family, series.area))),
        "Span": f"{series.first_period} to {series.last_period}",
        "Kept": f"{series.observations:,} observations of {counted(series.releases, 'release')}",
        "Comes": late, "Revised": revised + moved, "Next": coming,
        "Bases": ", ".join(f"{b.base} since {b.since:%Y-%m-%d}" for b in series.bases), "Notes": series.notes,
    }  # fmt: skip
    for name, value in lines.items():
        if value:
            terminal.print(f"[dim]{name:<8}[/] {value}")
    last = [(p, row[-1]) for p, row in zip(recent.periods, recent.values, strict=True) if row[-1] is not None][-12:]
    draw([Heading(p, right=True) for p, _ in last[-8:]], [[_amount(v) for _, v in last[-8:]]])


def _triangle(found: "VintagesAnswer") -> None:
    heads = [Heading("Period", whole=True)] + [Heading(f"{r.at:%d %b %Y}", right=True) for r in found.releases]
    rows = []
    for period, values in list(zip(found.periods, found.values, strict=True))[-40:]:
        cells, before = [], None
        for value in values:
            text = "" if value is None else f"{value:,.10g}"
            cells.append(f"[yellow]{text}[/]" if before is not None and value != before else text)
            before = value
        rows.append([period, *cells])
    rows.append(["[dim]new[/]", *(f"[dim]{r.new}[/]" for r in found.releases)])
    rows.append(["[dim]revised[/]", *(f"[dim]{r.revised}[/]" for r in found.releases)])
    draw(heads, rows, f"[bold]{found.title}[/], {found.unit}", "what a release changed stands in ochre")


@series.command("get")
@click.argument("keys", nargs=-1, required=True, type=SERIES)
@then_option
@from_option
@to_option
@click.option("--which", type=click.Choice(("known", "first", "last")), default="known", show_default=True,
              help="As known on the date, as first released, or as last revised.")  # fmt: skip
@viewpoint_options
@layout_options
@output_options
@plot_option
def get(
    keys: tuple[str, ...], transforms: tuple[str, ...], start: str | None, end: str | None, which: Any,
    known_on: str | None, sort: str, layout: str, header: bool, format_: str, output: Path | None, plot: Path | None,
    seen: dict[str, Any],
) -> None:  # fmt: skip
    """Series of KEYS side by side, both ends of the range included; a key may have wildcards.

    A key may have transforms of its own behind a colon: 'CONSUMER_PRICES/M.XA.00: growth on a year ago'.

    \b
    wise-ledger series get 'HOUSE_PRICES/M.*.SA' --then 'rebased to 2015' --from 2015 --plot houses.png
    wise-ledger series get CONSUMER_PRICES/M.XA.00 --then 'growth on a year ago' --known-on 2020-01-31
    """
    from wise_ledger.wire.series import SeriesAsked

    asked: list[Any] = []
    for text in keys:
        key, colon, own = text.partition(": ")
        steps = [s.strip() for s in own.split(",") if s.strip()]
        asked.append(SeriesAsked(key=key.strip(), transforms=steps) if colon else text)
    with asking() as ledger:
        found = ledger.series(asked, start, end, known_on, transforms=transforms, which=which, **seen)
    _shown(found, layout, sort, header, format_, output, plot)


def _shown(
    found: "SeriesAnswer", layout: Any, sort: Any, header: bool, format_: str, output: Path | None, plot: Path | None
) -> None:
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
    which = {"known": "as known", "first": "as first released by", "last": "as last revised, of periods known"}
    terminal.print(f"[dim]{span}; {which[found.which]} on {found.known_on:%d %B %Y}, batch {found.batch}[/]")
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
        return f"[dim]{line.frequency}[/]"
    if seen.value is None:
        return f"[dim]{REASONS[seen.reason]}[/]"
    return f"{seen.value * 100:,.2f}" if line.percent else _amount(seen.value)


def _sparks(found: "SeriesAnswer") -> None:
    """Many series: one row each, with its course."""
    heads = [Heading("Key", whole=True), Heading("Title"), Heading("From"), Heading("To"), Heading("First", right=True),
             Heading("Last", right=True), Heading("Course", whole=True)]  # fmt: skip
    rows = []
    titles = [s.title for s in found.series]
    for s, title in zip(found.series, distinct_parts(titles), strict=True):
        seen = [o for o in s.observations if o.value is not None]
        values = [o.value for o in seen if o.value is not None]
        scale = 100 if s.percent else 1
        ends = [f"{v * scale:,.2f}" for v in (values[0], values[-1])] if values else ["", ""]
        rows.append(
            [s.key, title, seen[0].period if seen else "", seen[-1].period if seen else "", *ends, _spark(values)]
        )
    first = found.series[0]
    unit = "%" if first.percent else first.unit
    draw(heads, rows, in_common(titles), f"{first.head}, {unit}; --format csv or --layout wide has every period")


def _spark(values: Sequence[float], width: int = 24) -> str:
    if not values:
        return ""
    step = max(1, len(values) // width)
    picked = list(values)[::-1][::step][:width][::-1]
    low, high = min(picked), max(picked)
    return "".join("▁▂▃▄▅▆▇█"[int((v - low) / (high - low or 1) * 7)] for v in picked)


@series.command("compare")
@click.argument("keys", nargs=-1, required=True, type=SERIES)
@then_option
@click.option("--changes", metavar="STEP", help="Of what correlations and leads are.  [default: log growth]")
@click.option("--spread-to", metavar="KEY", help="A key that is taken from all.")
@from_option
@to_option
@click.option("--lags", type=click.IntRange(0, 36), default=12, show_default=True, help="Periods to look for leads in.")
@viewpoint_options
@output_options
@plot_option
def compare(
    keys: tuple[str, ...], transforms: tuple[str, ...], changes: str | None, spread_to: str | None, start: str | None,
    end: str | None, lags: int, known_on: str | None, format_: str, output: Path | None, plot: Path | None,
    seen: dict[str, Any],
) -> None:  # fmt: skip
    """How series of KEYS move together, how far each is from their mean, who leads and who lags.

    \b
    wise-ledger series compare 'HOUSE_PRICES/M.*.SA' --from 2010 --then log --plot regions.png
    """
    with asking() as ledger:
        found = ledger.compare_series(
            list(keys), start, end, known_on, transforms=transforms, changes=changes, spread_to=spread_to, lags=lags,
            **seen,
        )  # fmt: skip
    if plot is not None:
        from wise_ledger.cli.plots import plot_comparison

        plot_comparison(found, plot)
        if output is None:
            return
    write(found.rows(), format_, output, table=lambda: _compared(found), whole=found.model_dump(mode="json"))


def _compared(found: "ComparisonAnswer") -> None:
    terminal = console()
    terminal.print(
        f"[dim]{found.periods[0]} to {found.periods[-1]}, {found.frequency}, {found.head}; correlations of: "
        f"{found.changes}; known on {found.known_on:%d %B %Y}, batch {found.batch}[/]"
    )
    figures = ("Last", "From mean", "Half-life", "Leads by", "Correlation there", "With others")
    heads = [Heading("Key", whole=True), Heading("Title"), *(Heading(f, right=True) for f in figures)]
    scale = 100 if found.percent else 1
    series = sorted(found.series, key=lambda s: -(s.lead if s.lead is not None else -999))
    titles = distinct_parts([s.title for s in series])
    rows = [
        [s.key, title, _plain(s.last, scale), _plain(s.distance, scale), _plain(s.half_life, 1, 1),
         "" if s.lead is None else f"{s.lead:+.0f}", _plain(s.lead_correlation), _plain(s.mean_correlation)]
        for s, title in zip(series, titles, strict=True)
    ]  # fmt: skip
    draw(heads, rows, caption=f"leads and half-lives in periods ({found.frequency}); those that lead stand first")


def _plain(value: float | None, scale: float = 1, decimals: int = 2) -> str:
    return "[dim]n/a[/]" if value is None else f"{value * scale:,.{decimals}f}"


def _amount(value: float | None) -> str:
    if value is None:
        return "[dim]withdrawn[/]"
    return short(value) if abs(value) >= 1e6 else f"{value:,.2f}"


@series.group("sheets")
def sheets() -> None:
    """Kept sets of series with their transforms."""


@sheets.command("list")
@click.option("--archived", is_flag=True, help="Archived ones too.")
@output_options
def list_(archived: bool, format_: str, output: Path | None) -> None:
    """Every kept sheet."""
    with asking() as ledger:
        found = ledger.sheets(archived=archived)
    write(found.rows(), format_, output, table=lambda: _sheets(found.sheets), whole=found.model_dump(mode="json"))


def _sheets(found: "Sequence[SheetInfo]") -> None:
    if not found:
        console().print("No sheet is kept yet: wise-ledger series sheets keep NAME KEY … --who YOU")
        return
    heads = [Heading("Name", whole=True), Heading("Title"), Heading("Series"), Heading("Version", right=True),
             Heading("Kept by"), Heading("At")]  # fmt: skip
    rows = [
        [s.name, s.title + (" [dim](archived)[/]" if s.archived else ""), "; ".join(x.key for x in s.series),
         str(s.version), s.who, f"{s.kept_at:%Y-%m-%d %H:%M}"]
        for s in found
    ]  # fmt: skip
    draw(heads, rows)


@sheets.command("keep")
@click.argument("name")
@click.argument("keys", nargs=-1, required=True, type=SERIES)
@click.option("--title", default="")
@click.option("--description", default="")
@then_option
@from_option
@click.option("--who", required=True, help="Who keeps it.")
def keep(
    name: str, keys: tuple[str, ...], title: str, description: str, transforms: tuple[str, ...], start: str | None,
    who: str,
) -> None:  # fmt: skip
    """Keep KEYS as the sheet NAME: new, or another version.

    A key may have transforms of its own behind a colon; the others have those of --then.
    """
    from wise_ledger.wire.series import SeriesAsked

    asked = []
    for text in keys:
        key, colon, own = text.partition(": ")
        steps = [s.strip() for s in own.split(",") if s.strip()] if colon else [*transforms]
        asked.append(SeriesAsked(key=key.strip(), transforms=steps))
    with asking() as ledger:
        kept = ledger.keep_sheet(name, asked, who, title=title, description=description, start=start)
    click.echo(f"{kept.name}, version {kept.version}, batch {kept.batch}")


@sheets.command("show")
@click.argument("name", type=SHEET)
@click.option("--version", type=int, help="An earlier version.")
@viewpoint_options
@layout_options
@output_options
@plot_option
def show_sheet(
    name: str, version: int | None, known_on: str | None, sort: str, layout: str, header: bool, format_: str,
    output: Path | None, plot: Path | None, seen: dict[str, Any],
) -> None:  # fmt: skip
    """The series of the sheet NAME as known on a date."""
    with asking() as ledger:
        found = ledger.read_sheet(name, known_on, version=version, **seen)
    _shown(found, layout, sort, header, format_, output, plot)


@sheets.command("refresh")
@click.argument("name", type=SHEET)
@click.option("--since", required=True, metavar="DATE", help="What is new against what was known then.")
@viewpoint_options
@output_options
def refresh(
    name: str, since: str, known_on: str | None, format_: str, output: Path | None, seen: dict[str, Any]
) -> None:
    """What the sheet NAME shows that it did not show on an earlier date: new periods, revised ones, by how much."""
    with asking() as ledger:
        found = ledger.sheet_changes(name, since, known_on, **seen)
    write(found.rows(), format_, output, table=lambda: _changed(found), whole=found.model_dump(mode="json"))


def _changed(found: "SheetChanges") -> None:
    terminal = console()
    terminal.print(f"[dim]{found.name}: {found.since:%d %B %Y} to {found.known_on:%d %B %Y}, batch {found.batch}[/]")
    if not found.changes:
        terminal.print("Nothing changed.")
        return
    heads = [Heading("Key", whole=True), Heading("Period"), Heading("What"), Heading("Before", right=True),
             Heading("After", right=True), Heading("By", right=True)]  # fmt: skip
    rows = [
        [c.key, c.period, c.kind, _sheet_value(c.before, c.percent), _sheet_value(c.after, c.percent),
         "" if c.before is None or c.after is None else f"{(c.after - c.before) * (100 if c.percent else 1):+,.4g}"]
        for c in found.changes[-60:]
    ]  # fmt: skip
    new = sum(c.kind == "new" for c in found.changes)
    draw(heads, rows, caption=f"{new} new, {len(found.changes) - new} that read otherwise")


def _sheet_value(value: float | None, percent: bool) -> str:
    return "" if value is None else f"{value * 100:,.3f} %" if percent else f"{value:,.6g}"


@sheets.command("versions")
@click.argument("name", type=SHEET)
@output_options
def versions(name: str, format_: str, output: Path | None) -> None:
    """Every version of the sheet NAME, the newest first."""
    with asking() as ledger:
        found = ledger.sheet_versions(name)
    write(found.rows(), format_, output, table=lambda: _sheets(found.sheets), whole=found.model_dump(mode="json"))


@sheets.command("archive")
@click.argument("name", type=SHEET)
@click.option("--back", is_flag=True, help="Bring it back.")
@click.option("--who", required=True, help="Who puts it away.")
def archive(name: str, back: bool, who: str) -> None:
    """Put the sheet NAME away; its versions stay."""
    with asking() as ledger:
        kept = ledger.archive_sheet(name, who, archived=not back)
    click.echo(f"{kept.name} is {'archived' if kept.archived else 'back'}")
