"""Plots of series in the look of the console: lines with direct labels, small multiples,
a matrix.
"""

from collections.abc import Sequence
from io import BytesIO
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.figures import distinct_parts, in_common
from wise_ledger.cli.files import write_file

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

    from wise_ledger.wire.series import ComparisonAnswer, SeriesAnswer, SeriesLine

PAPER, INK, SOFT, RULE = "#F7F5EF", "#1D2733", "#5B6775", "#DDD8CB"
SPRUCE, PLUM, BRICK, OCHRE = "#1F6F5C", "#6B3F6E", "#A63D2F", "#B07A1E"
_LINES = (SPRUCE, PLUM, OCHRE, "#3C5A8C", BRICK, "#146E78", "#7A6A3A", "#8A4F6A")
_TOGETHER = len(_LINES)  # more lines than these stand in small multiples
_APART = 0.045  # of the height, that labels keep from each other


def plot_series(found: "SeriesAnswer", path: Path) -> None:
    """The series of a sheet as lines by date; many of them as small multiples.

    PNG or SVG, by the file's name.
    """
    lines = [s for s in found.series if any(o.value is not None for o in s.observations)]
    if not lines:
        raise click.UsageError("there is nothing to plot: no value in this range")
    figure = _lines(lines) if len(lines) <= _TOGETHER else _multiples(lines)
    _stamp(
        figure, f"known on {found.known_on:%d %B %Y}, {_WHICH[found.which]}; batch {found.batch}"
    )
    _save(figure, path)


_WHICH = {"known": "as known then", "first": "as first released", "last": "as last revised"}


def plot_comparison(found: "ComparisonAnswer", path: Path) -> None:
    """The matrix of correlations beside who leads and who lags."""
    plt = _pyplot()
    series = sorted(found.series, key=lambda s: -(s.lead if s.lead is not None else -999))
    order = [found.series.index(s) for s in series]
    count = len(series)
    size = max(5.2, 0.17 * count + 2.2)
    figure, (left, right) = plt.subplots(
        1, 2, figsize=(12.8, size), gridspec_kw={"width_ratios": (1.25, 1)}
    )
    grid = [[_number(found.correlation[a][b]) for b in order] for a in order]
    from matplotlib.colors import LinearSegmentedColormap

    colours = LinearSegmentedColormap.from_list("correlation", [BRICK, PAPER, SPRUCE])
    shown = left.imshow(grid, cmap=colours, vmin=-1, vmax=1, aspect="auto")
    names = [_short(name) for name in distinct_parts([s.title for s in series])]
    left.set_yticks(range(count), names, fontsize=_small(count))
    left.set_xticks([])
    about = in_common([s.title for s in series])
    left.set_title(f"{about}: correlation of {found.changes}", loc="left", fontsize=10, color=INK)
    bar = figure.colorbar(shown, ax=left, fraction=0.035, pad=0.02)
    bar.outline.set_visible(False)
    bar.ax.tick_params(length=0, labelsize=8, labelcolor=SOFT)
    leads = [0.0 if s.lead is None else s.lead for s in series]
    right.barh(range(count), leads, color=[SPRUCE if x > 0 else PLUM for x in leads], height=0.6)
    right.axvline(0, color=INK, linewidth=0.8)
    right.set_yticks(range(count), [""] * count)
    right.set_ylim(count - 0.5, -0.5)  # row by row beside the matrix
    right.xaxis.get_major_locator().set_params(integer=True)
    right.set_title(
        f"Leads the others, {_NOUNS[found.frequency]}", loc="left", fontsize=10, color=INK
    )
    right.grid(axis="x", color=RULE, linewidth=0.6)
    right.set_axisbelow(True)
    _bare(left)
    _bare(right)
    _stamp(
        figure,
        f"{found.periods[0]} to {found.periods[-1]}, known on {found.known_on:%d %B %Y}; batch {found.batch}",
    )
    _save(figure, path)


_NOUNS = {
    "monthly": "months",
    "quarterly": "quarters",
    "yearly": "years",
    "weekly": "weeks",
    "daily": "days",
}


def _lines(lines: "Sequence[SeriesLine]") -> "Figure":
    plt = _pyplot()
    figure, axes = plt.subplots(figsize=(12.8, 6.4))
    labels = []
    several = len({s.head for s in lines}) > 1
    for line, colour, name in zip(
        lines, _LINES, distinct_parts([s.title for s in lines]), strict=False
    ):
        dates, values = _points(line)
        axes.plot(dates, values, color=colour, linewidth=1.6)
        last = next(v for v in reversed(values) if v == v)
        labels.append((last, _short(f"{name}, {line.head}" if several else name, 34), colour))
    _axes(axes, lines)
    low, high = axes.get_ylim()
    at = None
    for value, text, colour in sorted(labels):  # from below, none over another
        place = value if at is None else max(value, at + _APART * (high - low))
        at = place
        axes.annotate(
            text,
            (1.008, place),
            xycoords=("axes fraction", "data"),
            color=colour,
            fontsize=9,
            va="center",
        )
    title = (
        lines[0].head
        if len({s.head for s in lines}) == 1
        else "Series, each after its own transforms"
    )
    whole = ": ".join(filter(None, (in_common([s.title for s in lines]), title)))
    axes.set_title(_sentence(whole), loc="left", fontsize=12, color=INK)
    return figure


def _multiples(lines: "Sequence[SeriesLine]") -> "Figure":
    plt = _pyplot()
    across = 4 if len(lines) <= 12 else 5 if len(lines) <= 30 else 8
    down = -(-len(lines) // across)
    figure, grid = plt.subplots(
        down, across, figsize=(12.8, 1.35 * down + 1.1), sharex=True, sharey=True, squeeze=False
    )
    means, names = _mean(lines), distinct_parts([s.title for s in lines])
    for n, axes in enumerate(grid.ravel()):
        if n >= len(lines):
            axes.set_visible(False)
            continue
        dates, values = _points(lines[n])
        axes.plot(*means, color="#B9B4A6", linewidth=1.0)
        axes.plot(dates, values, color=SPRUCE, linewidth=1.1)
        axes.set_title(
            _short(names[n], 26 if across < 8 else 20), loc="left", fontsize=7.5, color=INK, pad=2
        )
        _axes(axes, lines[n : n + 1], small=True)
    about = ": ".join(filter(None, (in_common([s.title for s in lines]), lines[0].head)))
    figure.suptitle(
        f"{_sentence(about)}; the grey line is their mean",
        x=0.01,
        ha="left",
        fontsize=11,
        color=INK,
    )
    return figure


def _mean(lines: "Sequence[SeriesLine]") -> tuple[list[Any], list[float]]:
    by_date: dict[Any, list[float]] = {}
    for line in lines:
        for seen in line.observations:
            if seen.value is not None:
                by_date.setdefault(seen.date, []).append(seen.value * (100 if line.percent else 1))
    dates = sorted(by_date)
    return dates, [sum(by_date[d]) / len(by_date[d]) for d in dates]


def _points(line: "SeriesLine") -> tuple[list[Any], list[float]]:
    scale = 100 if line.percent else 1
    return [o.date for o in line.observations], [
        _number(o.value) * scale for o in line.observations
    ]


def _axes(axes: "Axes", lines: "Sequence[SeriesLine]", *, small: bool = False) -> None:
    units = {"%" if s.percent else s.unit for s in lines}
    axes.grid(axis="y", color=RULE, linewidth=0.6)
    axes.set_axisbelow(True)
    if axes.get_ylim()[0] < 0 < axes.get_ylim()[1]:
        axes.axhline(0, color=SOFT, linewidth=0.8)
    axes.tick_params(labelsize=6.5 if small else 9)
    _bare(axes)
    if not small:
        base = {s.base for s in lines if s.base}
        unit = units.pop() if len(units) == 1 else "several units"
        axes.set_ylabel(
            ", ".join([unit, *(base if len(base) == 1 and unit == "index" else ())]),
            color=SOFT,
            fontsize=9,
        )
    else:
        from matplotlib.dates import AutoDateLocator, ConciseDateFormatter

        where = AutoDateLocator(minticks=2, maxticks=4)
        axes.xaxis.set_major_locator(where)
        axes.xaxis.set_major_formatter(ConciseDateFormatter(where))


def _bare(axes: "Axes") -> None:
    """No frame, no ticks, soft figures."""
    for side in axes.spines.values():
        side.set_visible(False)
    axes.tick_params(length=0, labelcolor=SOFT)
    axes.set_facecolor(PAPER)


def _stamp(figure: "Figure", words: str) -> None:
    figure.text(0.99, 0.005, words, ha="right", va="bottom", fontsize=8, color=PLUM)


def _save(figure: "Figure", path: Path) -> None:
    figure.set_facecolor(PAPER)
    figure.tight_layout(rect=(0, 0.02, 1, 0.99))
    drawn = BytesIO()
    figure.savefig(drawn, dpi=110, format=path.suffix[1:].lower())
    write_file(path, drawn.getvalue())
    click.echo(str(path), err=True)


def _pyplot() -> Any:
    import matplotlib

    matplotlib.use("Agg")
    from matplotlib import pyplot

    # The $ of a name begins no formula.
    own = {"svg.fonttype": "none", "text.color": INK, "text.parse_math": False}
    pyplot.rcParams.update({"font.family": "DejaVu Sans", **own})
    return pyplot


def _short(title: str, most: int = 30) -> str:
    return title if len(title) <= most else title[: most - 1] + "…"


def _small(count: int) -> float:
    return 9 if count <= 20 else 6.5


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:]


def _number(value: float | None) -> float:
    return float("nan") if value is None else value
