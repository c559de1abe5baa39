"""wise-ledger estimates"""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking, partly
from wise_ledger.cli.choosing import (
    EVERYBODY,
    Columns,
    columns_option,
    companies_and_days,
    frequency_option,
    measure_option,
)
from wise_ledger.cli.completion import COMPANY
from wise_ledger.cli.groups import Group
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
from wise_ledger.wire.columns import ANNOUNCED, CALENDAR, EXPECTED
from wise_ledger.words import counted

if TYPE_CHECKING:
    from wise_ledger.wire.estimates import (
        Announcement,
        AnnouncementsAnswer,
        CalendarAnswer,
        CalendarEntry,
        EstimateHistoryAnswer,
        EstimatesAnswer,
    )

_STANDARD = "name,period,announced_at,actual,mean,median,high,low,count,surprise_relative,currency"
_HEADS = {
    "announced_at": "Announced",
    "surprise_relative": "Surprise",
    "surprise_deviations": "In stdevs",
    "count": "N",
    "name": "Company",
    "at": "On",
}
_WORDS = {"date", "at", "announced_at", "name", "symbol", "company", "period", "state", "reason"}


_SHOWN = "at,name,period,state,mean,count,actual,surprise_relative,currency"
max_age_option = click.option(
    "--max-age", type=click.IntRange(1, 3650), metavar="DAYS",
    help="How long a contribution stands at most.  [default: as the limit is set]",
)  # fmt: skip


@click.group(cls=Group)
def estimates() -> None:
    """What analysts expected of companies, and what was announced."""


@estimates.command("show")
@click.argument("company", type=COMPANY)
@viewpoint_options
@measure_option
@click.option(
    "--period",
    metavar="LABEL",
    help="FY2024 or FY2024Q2: whose contributions.  [default: the next one]",
)
@max_age_option
@output_options
def show(
    company: str,
    known_on: str | None,
    measure: str,
    period: str | None,
    max_age: int | None,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """The consensus of COMPANY by period, who is in it, who is not and why.

    \b
    wise-ledger estimates show AGK@ZALD --known-on 2024-06-30
    wise-ledger estimates show AGK@ZALD --measure revenue --period FY2023
    """
    with asking() as ledger:
        found = ledger.estimates(
            company, known_on, measure=measure, period=period, max_age=max_age, **seen
        )
    write(
        found.rows(),
        format_,
        output,
        table=lambda: _draw(found),
        whole=found.model_dump(mode="json"),
    )


def _draw(found: "EstimatesAnswer") -> None:
    terminal = console()
    currency = found.estimate_currency or ""
    terminal.print(
        f"{BOLD}{found.name}{END} {found.symbol or found.company}: {found.measure}, {currency}"
    )
    terminal.print(
        f"{DIM}as known on {found.known_on:%d %B %Y}, batch {found.batch}; contributions of at most "
        f"{counted(found.max_age, 'day')}{END}"
    )
    if not found.periods:
        terminal.print("Nobody had contributed by then: try a later date, or another measure.")
        return
    headings = [Heading("Period", whole=True)] + [
        Heading(h, right=True, whole=True)
        for h in ("Mean", "Median", "High", "Low", "N", "Raised", "Cut", "Actual", "Surprise")
    ]
    rows = []
    for p in found.periods[:16]:
        c, announced = p.consensus, p.announced
        numbers = [_amount(v, found.unit) for v in (c.mean, c.median, c.high, c.low)]
        if c.reason:
            numbers = [_why(c.reason), "", "", ""]
        counts = ["" if v is None else f"{v:.0f}" for v in (c.count, c.raised, c.cut)]
        actual = "" if announced is None else _amount(announced.actual, found.unit)
        surprise = "" if announced is None else _cell("surprise_relative", announced, "")
        label = f"{BOLD}{p.period}{END}" if p.period == found.period else p.period
        rows.append([label, *numbers, *counts, actual, surprise])
    left = len(found.periods) - len(rows)
    draw(
        headings,
        rows,
        caption=f"and {left} earlier periods; --format csv has them all" if left > 0 else "",
    )
    terminal.print(
        f"\n{BOLD}{found.period or 'Of all periods'}{END}: the last contribution of each house"
    )
    about = [
        Heading("Contributor"),
        Heading("Value", right=True, whole=True),
        Heading("Published", whole=True),
        Heading(""),
    ]
    last = [
        [c.contributor, _amount(c.value, found.unit), f"{c.published_at:%Y-%m-%d %H:%M}",
         "" if c.state == "in" else f"{DIM}not counted: {c.state}{END}"]
        for c in found.contributions
        if c.state != "replaced"
    ]  # fmt: skip
    draw(about, last)
    for s in found.supplied:
        amounts = f"mean {_amount(s.mean, found.unit)}, {_amount(s.low, found.unit)} to {_amount(s.high, found.unit)}"
        count = "" if s.count is None else f", {s.count:.0f} contributors"
        terminal.print(
            f"{DIM}as {s.source} supplied it on {s.published_at:%d %B %Y}:{END} {amounts}{count}"
        )


def _amount(value: float | None, unit: str) -> str:
    if value is None:
        return f"{DIM}–{END}"
    return f"{value:,.3f}" if unit == "money_per_share" else short(value)


@estimates.command("announcements")
@companies_and_days(without=EVERYBODY)
@measure_option
@max_age_option
@columns_option(ANNOUNCED, _STANDARD)
@layout_options
@output_options
def announcements(
    companies: tuple[str, ...],
    list_: str | None,
    start: str | None,
    end: str | None,
    known_on: str | None,
    measure: str,
    max_age: int | None,
    columns: Columns,
    sort: str,
    layout: str,
    header: bool,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """What COMPANIES announced from a day to a day, both included,
    beside what was expected the instant before.

    \b
    wise-ledger estimates announcements AGK@ZALD --from 2023-01-01 --to 2024-06-30
    wise-ledger estimates announcements --list first-look --layout wide --columns surprise_relative
    """
    with asking() as ledger:
        found = ledger.announcements(
            companies, start, end, known_on, list=list_, measure=measure, max_age=max_age, **seen
        )
    names = columns.of(format_)
    draws = (lambda: _announced(found, names, sort)) if layout == "tidy" else None
    write(
        found.rows(names, layout, sort), format_, output, table=draws,  # type: ignore[arg-type]
        whole=found.model_dump(mode="json"), header=header,
    )  # fmt: skip
    partly(found.failed)


@estimates.command("history")
@companies_and_days()
@measure_option
@click.option(
    "--horizon",
    type=click.Choice(("q1", "q2", "fy1", "fy2", "fy3", "ntm")),
    default="fy1",
    show_default=True,
)
@frequency_option("month")
@columns_option(EXPECTED, "date,symbol,period,mean,high,low,count,raised,cut")
@layout_options
@output_options
def history(
    companies: tuple[str, ...],
    list_: str | None,
    start: str | None,
    end: str | None,
    known_on: str | None,
    measure: str,
    horizon: str,
    frequency: str,
    columns: Columns,
    sort: str,
    layout: str,
    header: bool,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """The consensus of COMPANIES from a day to a day, both included, each as known on its own day.

    \b
    wise-ledger estimates history AGK@ZALD --from 2022-01-01 --to 2024-06-28 --horizon ntm --columns date,mean
    wise-ledger estimates history --list first-look --frequency quarter --layout wide --columns mean
    """
    if bool(companies) == bool(list_):
        raise click.UsageError("name companies, such as AGK@ZALD, or a list by --list")
    with asking() as ledger:
        found = ledger.estimate_history(
            companies,
            start,
            end,
            known_on,
            list=list_,
            measure=measure,
            horizon=horizon,  # type: ignore[arg-type]
            frequency=frequency,
            **seen,  # type: ignore[arg-type]
        )
    names = columns.of(format_)
    draws = (lambda: _history(found, names, sort)) if layout == "tidy" else None
    rows = found.rows(names, layout, sort)  # type: ignore[arg-type]
    write(rows, format_, output, table=draws, whole=found.model_dump(mode="json"), header=header)
    partly(found.failed)


def _history(found: "EstimateHistoryAnswer", columns: Sequence[str], sort: str) -> None:
    heads = _heads(columns)
    rows = [
        [_shown(c, row[c], found.measure) for c in columns]
        for row in found.rows(columns, sort=sort)
    ]
    about = f"{found.start} to {found.end}, both included, by {found.frequency}, each as known on its own day"
    late = [
        f"{h.name} from {h.since} on" for h in found.histories if h.since and h.since > found.start
    ]
    late += [f"{h.name}: nobody had contributed" for h in found.histories if h.since is None]
    few = f"; and {len(late) - 4} more" if len(late) > 4 else ""
    caption = f"there are estimates of {'; '.join(late[:4])}{few}" if late else ""
    draw(
        heads,
        rows,
        title=f"{DIM}{found.measure} {found.horizon}, {about}; batch {found.batch}{END}",
        caption=caption,
    )


@estimates.command("calendar")
@companies_and_days(without=EVERYBODY, first="30 days back", last="60 days ahead")
@measure_option
@columns_option(CALENDAR, _SHOWN)
@output_options
def calendar(
    companies: tuple[str, ...],
    list_: str | None,
    start: str | None,
    end: str | None,
    known_on: str | None,
    measure: str,
    columns: Columns,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """What COMPANIES announced and are expected to announce, from a day to a day, both included.

    \b
    wise-ledger estimates calendar --list first-look
    wise-ledger estimates calendar AGK@ZALD --from 2024-06-01 --to 2024-12-31 --known-on 2024-06-28
    """
    with asking() as ledger:
        found = ledger.calendar(
            companies, start, end, known_on, list=list_, measure=measure, **seen
        )
    whole, names = found.model_dump(mode="json"), columns.of(format_)
    draws = lambda: _calendar(found, names)  # noqa: E731
    write(found.rows(names), format_, output, table=draws, whole=whole)
    partly(found.failed)


def _calendar(found: "CalendarAnswer", columns: Sequence[str]) -> None:
    heads = _heads(columns)
    rows = [[_cell(c, e, found.measure) for c in columns] for e in found.entries]
    about = f"{found.start} to {found.end}, both included, known on {found.known_on:%d %B %Y}, batch {found.batch}"
    if not rows:
        console().print(f"{DIM}{about}{END}")
        console().print(
            "Nothing was announced in this time, and nothing is expected: ask for more days."
        )
        return
    caption = "assumed: no source says when; 364 days after the same period of the year before"
    draw(heads, rows, title=f"{DIM}{about}{END}", caption=caption)


def _announced(found: "AnnouncementsAnswer", columns: Sequence[str], sort: str) -> None:
    heads = _heads(columns)
    shown = found.announcements if sort == "oldest" else found.announcements[::-1]
    rows = [[_cell(c, a, found.measure) for c in columns] for a in shown]
    span = f"{found.start} to {found.end}, both included"
    title = f"{DIM}{span}, known on {found.known_on:%d %B %Y}, batch {found.batch}{END}"
    if not rows:
        console().print(title)
        console().print("Nothing was announced in this time of what anybody had expected.")
        return
    draw(heads, rows, title=title, caption="expected: the consensus the instant before")


def _heads(columns: Sequence[str]) -> list[Heading]:
    return [
        Heading(
            _HEADS.get(c, c.replace("_", " ").capitalize()),
            right=c not in _WORDS,
            whole=c != "name",
        )
        for c in columns
    ]


def _why(reason: str) -> str:
    from wise_ledger.cli.figures import REASONS

    return f"{DIM}{REASONS[reason]}{END}"


def _cell(name: str, of: "Announcement | CalendarEntry", measure: str) -> str:
    """A cell of what was announced or is expected to be; in the place of what lacks first why."""
    value = getattr(of, name)
    first = ("mean",) if of.mean is None else ("surprise", "surprise_relative")
    if value is None and name in first and of.reason:
        return _why(of.reason)
    return _shown(name, value, measure)


def _shown(name: str, value: Any, measure: str) -> str:
    if value is None:
        return f"{DIM}–{END}"
    if name in ("announced_at", "at"):
        return f"{value:%Y-%m-%d %H:%M}"
    if name == "surprise_relative":
        return f"{value * 100:+.1f} %"
    if name == "count":
        return f"{value:.0f}"
    if isinstance(value, float):
        return f"{value:,.3f}" if measure == "eps" or abs(value) < 1000 else short(value)
    return str(value)
