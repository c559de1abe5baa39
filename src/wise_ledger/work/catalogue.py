"""What an expression may name, how often it is filled, and how to find it."""

from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from wise_ledger.core.answers.cells import Cell
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.finder import Entry, Finder, Found, neighbours
from wise_ledger.core.catalogue.items import ALL_TEMPLATES, Item
from wise_ledger.core.errors import BadInput, Problem
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.language.vocabulary import FIELDS, MARKET
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.nearest import check_name, mend_for
from wise_ledger.core.quality import coverage
from wise_ledger.core.quality.coverage import Coverage
from wise_ledger.core.screening.figures import figures
from wise_ledger.core.time.instants import micros
from wise_ledger.core.time.periods import as_date
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.work import NotFound
from wise_ledger.work.desk import Desk
from wise_ledger.work.series import series_entries

KINDS = ("item", "attribute", "market", "function", "series", "measure")
_EVER = 1_000_000  # days
_FILLED = 12.0  # what an item filled for everybody is worth in a search, in points of a score
STATEMENTS = ("income", "balance", "cash_flow", "per_share", "share_count", "other")


@dataclass(frozen=True)
class Names:
    """Items, attributes, and functions with their meaning by how they are called."""

    items: tuple[Item, ...]
    attributes: tuple[str, ...]
    functions: dict[str, str]


def names(snapshots: Snapshots) -> Names:
    """Everything the measure language knows."""
    items = tuple(snapshots.at().view.items.values())
    return Names(items, tuple(FIELDS), {f.call: f.meaning for f in FUNCTIONS.values()})


@dataclass(frozen=True)
class Shown:
    """An entry that was found, how often it is filled,
    and its value for the company asked about.
    """

    found: Found
    coverage: Coverage | None
    share: float | None  # of the companies whose template has the line
    cell: Cell | None


@dataclass(frozen=True)
class Search:
    """What a search gave; `company` is the name of the one whose values stand beside."""

    entries: tuple[Shown, ...]
    total: int
    company: str | None
    batch: int


def search(
    desk: Desk,
    text: str = "",
    *,
    kinds: tuple[str, ...] = (),
    statement: str | None = None,
    template: str | None = None,
    least: float = 0.0,
    company: str | None = None,
    limit: int = 50,
    skip: int = 0,
) -> Search:
    """Search the catalogue; `least` is the share of companies that must have it.

    Raises `BadInput`, `NotFound`.
    """
    for at, value, known in (("kind", k, KINDS) for k in kinds):
        check_name(at, value, known)
    if statement is not None:
        check_name("statement", statement, STATEMENTS)
    if template is not None:
        check_name("template", template, tuple(sorted(ALL_TEMPLATES)))
    snapshot = desk.snapshots.at()
    finder = desk.snapshots.once("finder", lambda: Finder(_entries(snapshot)))
    filled = covered(desk)
    templates = _templates(snapshot, micros(desk.ledger.now()))
    found = finder.find(
        text, kinds=kinds, statement=statement, template=template, limit=len(finder.entries)
    )
    number = None if company is None else snapshot.number(company)
    out = []
    for hit in found:
        of = filled.get(hit.entry.name)
        share = _share(hit.entry, of, templates, template) if hit.entry.kind == "item" else None
        if share is None or share >= least:
            out.append(Shown(hit, of, share, None))
    if text.strip():  # of names that fit about as well, what the ledger has goes first
        out.sort(key=lambda s: -(s.found.score + _FILLED * (s.share or 0.0)))
    total, out = len(out), out[skip : skip + limit]
    if number is not None:
        now = micros(desk.ledger.now())
        out = [_with_value(snapshot, s, number, now) for s in out]
    return Search(
        tuple(out), total, None if number is None else snapshot.newest_name(number), snapshot.batch
    )


def _with_value(snapshot: Snapshot, shown: Shown, number: int, now: int) -> Shown:
    if shown.found.entry.kind in ("function", "series"):
        return shown
    # The last figure there is, however old: the reader sees its period.
    found = figures(
        snapshot.view, [shown.found.entry.name], [number], Viewpoint.at(now), stale_after=_EVER
    )
    return replace(shown, cell=found.rows[0][0])


def _share(
    entry: Entry, of: Coverage | None, templates: list[str | None], template: str | None
) -> float:
    may = sum(
        1 for t in templates if t is not None and t in entry.templates and template in (None, t)
    )
    return 0.0 if of is None or not may else min(1.0, of.companies / may)


def covered(desk: Desk) -> dict[str, Coverage]:
    """How often each item is filled, until the next batch."""

    def read() -> dict[str, Coverage]:
        view = desk.snapshots.at().view
        found = {i.code: coverage.of_item(view.facts(i)) for i in view.items.values()}
        return {code: of for code, of in found.items() if of is not None}

    return desk.snapshots.once("coverage", read)


def _entries(snapshot: Snapshot) -> list[Entry]:
    items = [
        Entry(
            "item",
            i.code,
            i.title,
            i.definition,
            i.code,
            i.unit,
            i.statement,
            i.nature.value,
            i.templates,
            i.synonyms,
        )
        for i in snapshot.view.items.values()
    ]
    attributes = [
        Entry(
            "market" if name in MARKET else "attribute",
            name,
            a.title,
            a.meaning,
            name,
            a.unit.name,
            synonyms=a.synonyms,
        )
        for name, a in FIELDS.items()
    ]
    functions = [
        Entry("function", f.name, f.name.replace("_", " ").capitalize(), f"{f.meaning}.", f.call)
        for f in FUNCTIONS.values()
    ]
    return (
        items
        + attributes
        + _measure_entries(snapshot)
        + functions
        + series_entries(snapshot.view.series)
    )


def _measure_entries(snapshot: Snapshot) -> list[Entry]:
    """Measures that can be used, with their units."""
    words, out = snapshot.view.vocabulary, []
    for m in words.measures.values():
        try:
            unit = plan(m.name, words).unit.plain().name
        except BadInput:
            continue
        out.append(
            Entry(
                "measure",
                m.name,
                m.title,
                m.meaning or m.formula,
                m.name,
                unit,
                m.subject,
                "",
                m.templates,
                m.synonyms,
            )
        )
    return out


@dataclass(frozen=True)
class Spread:
    """How the current values of an item lie, in one currency or unit: least,
    quartiles, greatest, and a histogram.
    """

    currency: str | None
    companies: int
    least: float
    lower: float
    median: float
    upper: float
    greatest: float
    bins: tuple[int, ...]


@dataclass(frozen=True)
class ItemPage:
    """All there is to know about an item."""

    item: Item
    coverage: Coverage | None
    share: float
    years: tuple[tuple[int, int], ...]  # year and companies with a period that ends in it
    tags: tuple[tuple[str, str, str | None], ...]  # source, tag, template
    subtotals: tuple[tuple[str, int], ...]  # what it adds to, and how
    lines: tuple[tuple[str, int], ...]  # what adds to it
    neighbours: tuple[Entry, ...]
    spreads: tuple[Spread, ...]
    batch: int


def item_page(desk: Desk, code: str) -> ItemPage:
    """An item with its coverage over time, tags,
    neighbours and the spread of its values now; raises `NotFound`.
    """
    snapshot = desk.snapshots.at()
    items = snapshot.view.items
    if code not in items:
        raise NotFound(
            Problem("item", code, "there is no item of this code", mend_for(code, items))
        )
    item = items[code]
    finder = desk.snapshots.once("finder", lambda: Finder(_entries(snapshot)))
    entry = next(e for e in finder.entries if e.name == code)
    of = covered(desk).get(code)
    years = tuple(coverage.by_year(snapshot.view.facts(item)).items())
    templates = _templates(snapshot, micros(desk.ledger.now()))
    tags = tuple(
        (name, rule.tag, rule.template)
        for name in sorted(desk.runs.sources)
        for rule in _rules(desk, name)
        if rule.item == code
    )
    return ItemPage(
        item,
        of,
        _share(entry, of, templates, None),
        years,
        tags,
        tuple(dict.fromkeys((p.into, p.sign) for p in item.parts_of)),  # of each template its own
        tuple((i.code, p.sign) for i in items.values() for p in i.parts_of if p.into == code),
        tuple(neighbours(entry, finder.entries)),
        _spreads(snapshot, item, micros(desk.ledger.now())),
        snapshot.batch,
    )


def _templates(snapshot: Snapshot, now: int) -> list[str | None]:
    """The template of each company by number, as known now."""
    found = snapshot.attributes.read(
        "template", np.arange(len(snapshot.ids)), np.array([now], np.int64)
    )
    return [word or None for word in found.value[:, 0].tolist()]


def _rules(desk: Desk, name: str):  # type: ignore[no-untyped-def]
    source = desk.runs.open(name)
    try:
        return source.mapping.all()
    finally:
        source.close()


def _spreads(snapshot: Snapshot, item: Item, now: int) -> tuple[Spread, ...]:
    everybody = np.arange(len(snapshot.ids))
    step = plan(item.code, snapshot.view.vocabulary)
    values, _ = Evaluation(
        snapshot.view, everybody, np.array([now], np.int64), stale_after=_EVER
    ).run(step)
    there, value, currency = (
        values.there[:, 0],
        values.value[:, 0].astype(np.float64),
        values.currency[:, 0],
    )
    out = []
    for code in np.unique(currency[there]).tolist():
        of = np.sort(value[there & (currency == code)])
        low, middle, high = np.quantile(of, (0.25, 0.5, 0.75)).tolist()
        # Most figures of a few large companies would fill one bin: the
        # histogram is of the middle nine tenths.
        bins, _ = np.histogram(of, 12, (np.quantile(of, 0.05), np.quantile(of, 0.95) or 1.0))
        out.append(
            Spread(
                currency_name(code),
                len(of),
                float(of[0]),
                low,
                middle,
                high,
                float(of[-1]),
                tuple(int(b) for b in bins),
            )
        )
    return tuple(sorted(out, key=lambda s: -s.companies))


def dates_of(of: Coverage) -> tuple[date, date]:
    """The first and the last period end that an item is filled for."""
    return as_date(of.first), as_date(of.last)
