"""Economic series: found and described, with how they are released."""

import json
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.finder import Entry, Finder
from wise_ledger.core.errors import bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.series.keys import family_of, is_wildcard, matching
from wise_ledger.core.series.lines import Line
from wise_ledger.core.series.periods import Frequency, label, last_day
from wise_ledger.core.time.instants import DAY
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.work.desk import Desk

FILTERS = ("subject", "area", "frequency", "adjustment", "family")


@dataclass(frozen=True)
class Described:
    """A series: what is said of it, its span and releases as known at a cut-off."""

    key: str
    title: str
    unit: str
    frequency: str
    area: str
    subject: str
    adjustment: str
    family: str
    base: str
    first_period: str | None
    last_period: str | None
    last_release: int | None  # instants
    dimensions: Mapping[str, Sequence[str]]  # by id: title, code, name


@dataclass(frozen=True)
class Facets:
    """How many of the series found have each value, by filter and by dimension of a family."""

    filters: Mapping[str, Mapping[str, int]]
    # by id: title; by code: name and count
    dimensions: Mapping[str, tuple[str, Mapping[str, tuple[str, int]]]]


@dataclass(frozen=True)
class SeriesSearch:
    """The series found, the best first, how many there are, and what they could be narrowed by."""

    series: tuple[Described, ...]
    total: int
    facets: Facets
    batch: int


def find_series(
    desk: Desk,
    viewpoint: Viewpoint,
    text: str = "",
    filters: Mapping[str, str | None] | None = None,
    *,
    key: str | None = None,
    where: Sequence[str] = (),
    limit: int = 50,
    skip: int = 0,
) -> SeriesSearch:
    """Series by words (slips allowed), filters, a key with wildcards,
    and codes of dimensions (`REGION=R01`).
    """
    snapshot = desk.snapshots.of(viewpoint)
    book = snapshot.view.series
    asked = {name: value for name, value in (filters or {}).items() if value}
    codes = dict(_dimension(w) for w in where)
    cutoff = viewpoint.cutoff
    known = [n for n in range(len(book.keys)) if book.vintages.begun(n, cutoff)]
    if key is not None:
        own = set(matching(key, [book.keys[n] for n in known]))
        known = [n for n in known if book.keys[n] in own]
    if text.strip():
        finder = desk.snapshots.once(
            "series finder", lambda: Finder(series_entries(desk.snapshots.at().view.series))
        )
        scored = [found.entry.name for found in finder.find(text, limit=len(book.keys))]
        order = {k: place for place, k in enumerate(scored)}
        known = sorted(
            (n for n in known if book.keys[n] in order), key=lambda n: order[book.keys[n]]
        )
    for name, value in asked.items():
        there = {_filter(book, n, name, cutoff) for n in range(len(book.keys))}
        if value not in there:
            raise bad_input(name, value, "no series has this", mend_for(value, there - {""}))
    fits = [
        n
        for n in known
        if all(_filter(book, n, a, cutoff) == v for a, v in asked.items())
        and all(_codes(book, n, cutoff).get(d, ("", "", ""))[1] in c for d, c in codes.items())
    ]
    facets = _facets(book, known, asked, codes, fits, cutoff)
    shown = tuple(describe(book, n, cutoff) for n in fits[skip : skip + limit])
    return SeriesSearch(shown, len(fits), facets, snapshot.batch)


def _dimension(text: str) -> tuple[str, frozenset[str]]:
    name, equals, codes = text.partition("=")
    if not equals or not codes.strip():
        raise bad_input(
            "where",
            text,
            "this names no dimension",
            "write one such as REGION=R01, or REGION=R01+R02",
        )
    return name.strip().upper(), frozenset(codes.strip().split("+"))


def _filter(book: SeriesBook, number: int, name: str, cutoff: int) -> str:
    if name == "frequency":
        frequency = book.frequency(number)
        return "" if frequency is None else frequency.adverb
    said = book.text(number, name, cutoff)
    return said or (family_of(book.keys[number]) if name == "family" else "")


def _codes(book: SeriesBook, number: int, cutoff: int) -> Mapping[str, Sequence[str]]:
    """By dimension its title, the code and its name;
    of a series nobody described the parts of its key.
    """
    text = book.text(number, "dimensions", cutoff)
    return _read_dimensions(text) if text else {}


@lru_cache(4096)
def _read_dimensions(text: str) -> Mapping[str, Sequence[str]]:
    try:
        found = json.loads(text)
    except ValueError:
        return {}
    good = isinstance(found, dict) and all(
        isinstance(v, list) and len(v) == 3 for v in found.values()
    )
    return {str(k): [str(x) for x in v] for k, v in found.items()} if good else {}


def _facets(
    book: SeriesBook,
    known: Sequence[int],
    asked: Mapping[str, str],
    codes: Mapping[str, frozenset[str]],
    fits: Sequence[int],
    cutoff: int,
) -> Facets:
    """Of each filter the values there are when it is taken away, so that another can be chosen."""
    filters = {}
    for name in FILTERS:
        others = {a: v for a, v in asked.items() if a != name}
        counts = Counter(
            _filter(book, n, name, cutoff)
            for n in known
            if all(_filter(book, n, a, cutoff) == v for a, v in others.items())
        )
        filters[name] = {value: count for value, count in sorted(counts.items()) if value}
    families = {family_of(book.keys[n]) for n in fits}
    dimensions: dict[str, tuple[str, Mapping[str, tuple[str, int]]]] = {}
    if len(families) == 1:
        own = [n for n in known if family_of(book.keys[n]) in families]
        own = [n for n in own if all(_filter(book, n, a, cutoff) == v for a, v in asked.items())]
        for id_ in {d: None for n in own for d in _codes(book, n, cutoff)}:
            rest = {d: c for d, c in codes.items() if d != id_}
            passing = [
                n
                for n in own
                if all(
                    _codes(book, n, cutoff).get(d, ("", "", ""))[1] in c for d, c in rest.items()
                )
            ]
            counted = Counter(
                tuple(_codes(book, n, cutoff)[id_])
                for n in passing
                if id_ in _codes(book, n, cutoff)
            )
            if counted:
                title = next(iter(counted))[0]
                dimensions[id_] = (
                    title,
                    {code: (name, c) for (_, code, name), c in sorted(counted.items())},
                )
    return Facets(filters, dimensions)


def series_entries(book: SeriesBook) -> list[Entry]:
    """Series as entries of the finder."""
    out = []
    for n, key in enumerate(book.keys):
        if book.frequency(n) is None:
            continue
        texts = {
            name: book.text(n, name)
            for name in ("title", "unit", "area", "subject", "family", "notes")
        }
        frequency = book.frequency(n)
        meaning = ", ".join(
            filter(None, (frequency.adverb if frequency else "", texts["unit"], texts["subject"]))
        )
        words = tuple(w for w in (texts["area"], texts["subject"], texts["family"]) if w)
        title = texts["title"] or key
        out.append(
            Entry(
                "series",
                key,
                title,
                f"{meaning}.",
                f'series("{key}")',
                texts["unit"],
                synonyms=words,
            )
        )
    return out


def describe(book: SeriesBook, number: int, cutoff: int, line: Line | None = None) -> Described:
    """What is said of a series, its span and releases as known at a cut-off;
    `line` where it is read already.
    """
    line = book.vintages.line(number, cutoff) if line is None else line
    there = np.flatnonzero(line.there)
    key = book.keys[number]
    base = int(line.base[there[-1]]) if len(there) else -1
    frequency = book.frequency(number) or Frequency.M
    return Described(
        key,
        book.text(number, "title", cutoff) or key,
        book.text(number, "unit", cutoff),
        frequency.adverb,
        book.text(number, "area", cutoff),
        book.text(number, "subject", cutoff),
        book.text(number, "adjustment", cutoff),
        book.text(number, "family", cutoff) or family_of(key),
        book.base(base),
        label(frequency, int(line.period[there[0]])) if len(there) else None,
        label(frequency, int(line.period[there[-1]])) if len(there) else None,
        int(line.known[there].max()) if len(there) else None,
        _codes(book, number, cutoff),
    )


@dataclass(frozen=True)
class Habits:
    """How a series is released: how late, how often revised and by how much;
    what comes next, and when.
    """

    observations: int
    releases: int
    late: int | None  # days from a period's end to its first release, the median
    revised: float | None  # the share of periods that were ever revised
    # the median of how far a revised period moved from first to last, as a fraction
    revision: float | None
    next_period: str | None
    next_release: int | None  # a day, expected by the median lateness
    bases: tuple[tuple[str, int], ...]  # what it was 100 for, and since which instant
    state: str  # current, or discontinued
    notes: str


def habits(book: SeriesBook, number: int, cutoff: int) -> Habits:
    """How a series was released up to a cut-off."""
    vintages = book.vintages
    own = vintages.rows_of(number)
    known = vintages.known[own] <= cutoff
    frequency = book.frequency(number) or Frequency.M
    first, last = vintages.line(number, cutoff, "first"), vintages.line(number, cutoff)
    both = first.there & last.there if len(first) == len(last) else np.zeros(0, np.bool_)
    text = book.text(number, "notes", cutoff) or book.text(number, "source_note", cutoff)
    if not len(both):
        return Habits(int(known.sum()), 0, None, None, None, None, None, (), "current", text)
    ends = last_day(frequency, first.period)
    plain = both & ~first.assumed
    lags = (first.known // DAY - ends)[plain]
    late = int(np.median(lags[-60:])) if len(lags) else None
    same = both & (first.base == last.base)
    moved = same & (first.value != last.value) & (first.value != 0)
    away = np.abs(last.value[moved] / first.value[moved] - 1)
    newest = int(last.period[np.flatnonzero(last.there)[-1]])
    following = newest + 1 if frequency is not Frequency.D else _next_weekday(newest)
    due = None if late is None else int(last_day(frequency, np.array([following]))[0]) + late
    bases = {}
    for row in np.flatnonzero(known)[
        np.argsort(vintages.known[own][known], kind="stable")
    ].tolist():
        bases.setdefault(int(vintages.base[own][row]), int(vintages.known[own][row]))
    silent = cutoff // DAY - (due or cutoff // DAY)
    ended = (
        silent
        > 3
        * {Frequency.A: 366, Frequency.Q: 92, Frequency.M: 31, Frequency.W: 14, Frequency.D: 14}[
            frequency
        ]
    )
    return Habits(
        int(known.sum()),
        len(vintages.releases(number, cutoff)),
        late,
        float((same & (first.value != last.value)).sum() / same.sum()) if same.any() else None,
        float(np.median(away)) if len(away) else None,
        None if ended else label(frequency, following),
        None if ended else due,
        tuple((book.bases[b], at) for b, at in bases.items() if b >= 0),
        "discontinued" if ended else "current",
        text,
    )


def _next_weekday(day: int) -> int:
    return next(d for d in range(day + 1, day + 4) if (d + 3) % 7 < 5)


def one_series(snapshot: Snapshot, key: str) -> int:
    """The number of a single series; raises `BadInput`."""
    if is_wildcard(key):
        count = len(matching(key, known_keys(snapshot)))
        raise bad_input("key", key, f"it stands for {count} series", "name one of them")
    return snapshot.view.series.of(key)


def read_description(desk: Desk, viewpoint: Viewpoint, key: str) -> tuple[Described, Habits, int]:
    """A series and how it is released, as known at the cut-off."""
    snapshot = desk.snapshots.of(viewpoint)
    number = one_series(snapshot, key)
    book = snapshot.view.series
    return (
        describe(book, number, viewpoint.cutoff),
        habits(book, number, viewpoint.cutoff),
        snapshot.batch,
    )


def known_keys(snapshot: Snapshot) -> list[str]:
    """The keys of the series of which anything was observed."""
    book = snapshot.view.series
    return [k for n, k in enumerate(book.keys) if book.frequency(n) is not None]
