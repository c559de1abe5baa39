"""Load figures from a file: one row a fact, all in one batch,
the file itself kept as their document.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from decimal import Decimal
from math import isfinite

from wise_ledger.core.catalogue.items import Item, Nature, unit_fits
from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.fiscal.calendar import year_end_month
from wise_ledger.core.fiscal.labels import Period, implied_end
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records.checking import all_pass, of_fact
from wise_ledger.core.records.fields import of_instant, of_text
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import DocumentRecord, FactRecord
from wise_ledger.core.time.instants import (
    assumed_publication,
    day_alone,
    end_of_day,
    read_cutoff,
    read_date,
)
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.ledger import Ledger
from wise_ledger.words import counted, decimal_number
from wise_ledger.work import NotFound
from wise_ledger.work.loading import FILES, BadRow, Loaded, source_problem
from wise_ledger.work.quality import examine_new
from wise_ledger.work.tablefile import Line

COLUMNS = (
    "company", "item", "period_start", "period_end", "value", "unit", "published_at", "basis", "fiscal_period",
    "share_basis_date", "document", "source",
)  # fmt: skip


_Row = tuple[Line, int, FactRecord]  # with the company


@dataclass
class _Reading:
    """What rows have in common is read once: companies, dates, instants."""

    snapshot: Snapshot
    now: datetime
    companies: dict[str, int] = field(default_factory=dict)
    year_ends: dict[int, int] = field(default_factory=dict)
    days: dict[str, date] = field(default_factory=dict)
    instants: dict[str, datetime] = field(default_factory=dict)
    spans: dict[tuple[date | None, date], int] = field(default_factory=dict)
    sources: set[str] = field(default_factory=set)

    def company(self, text: str) -> int:
        if text not in self.companies:
            self.companies[text] = self.snapshot.number(text)
        return self.companies[text]

    def year_end(self, company: int) -> int:
        if company not in self.year_ends:
            stated = self.snapshot.attributes.by_company("fiscal_year_end").get(company, [])
            months = [month for a in stated if (month := year_end_month(a.value)) is not None]
            self.year_ends[company] = months[-1] if months else 12
        return self.year_ends[company]

    def day(self, text: str, at: str) -> date:
        if text not in self.days:
            self.days[text] = read_date(text, at)
        return self.days[text]

    def instant(self, text: str) -> datetime:
        if text not in self.instants:
            self.instants[text] = read_cutoff(text, "published_at")
        return self.instants[text]

    def span(self, start: date | None, end: date) -> int:
        if (start, end) not in self.spans:
            self.spans[start, end] = Period(start, end).span
        return self.spans[start, end]

    def source(self, text: str) -> str:
        if text not in self.sources:
            if problem := source_problem(text):
                raise BadInput(problem)
            self.sources.add(text)
        return text

    def fact(self, line: Line) -> tuple[int, FactRecord]:
        """A row as a fact; raises `BadInput` and `NotFound`."""
        cells = line.cells
        for name in ("company", "item", "period_end", "unit"):
            if name not in cells:
                raise bad_input(name, "", "the cell is empty", "every row needs it")
        company = self.company(cells["company"])
        items = self.snapshot.view.items
        item = items.get(cells["item"])
        if item is None:
            raise bad_input(
                "item",
                cells["item"],
                "there is no item of this code",
                mend_for(cells["item"], items),
            )
        end = self.day(cells["period_end"], "period_end")
        start = self.day(cells["period_start"], "period_start") if "period_start" in cells else None
        _check_period(item, start, end)
        if not unit_fits(item, cells["unit"]):
            mend = {
                "money": "write a currency such as EUR",
                "money_per_share": "write such as EUR/shares",
            }
            problem = f"{item.code} is {item.unit}, which this unit is not"
            raise bad_input(
                "unit", cells["unit"], problem, mend.get(item.unit, f"write {item.unit}")
            )
        year_end, span = self.year_end(company), self.span(start, end)
        assumed = "published_at" not in cells and item.nature is not Nature.OBSERVATION
        if "published_at" in cells:
            published = self.instant(cells["published_at"])
        elif len(seen := day_alone(cells.get("observed_at", ""))) > 10:
            published = read_cutoff(seen, "observed_at")
        elif assumed:
            published = assumed_publication(end, span, end.month == year_end)
        else:
            published = end_of_day(end)  # T9: seen on that day, known at its end
        told = ("published_at", "observed_at", "period_end")
        said = next(name for name in told if name in cells)
        for problem in of_instant(said, published, None if assumed else self.now):
            raise BadInput(problem)
        for problem in of_text("document", cells.get("document", ""), empty=True):
            raise BadInput(problem)
        if published.date() < end:
            raise bad_input(
                "published_at",
                cells["published_at"],
                "it is before the period ends",
                "swap or mend them",
            )
        scale = int(cells.get("scale", "0"))
        declared = (
            implied_end(cells["fiscal_period"], year_end) if "fiscal_period" in cells else None
        )
        return company, FactRecord(
            item=item.code,
            period_start=start,
            period_end=end,
            value=_value(cells.get("value"), scale),
            reported=cells.get("value", ""),
            scale=scale,
            unit=cells["unit"],
            published_at=published,
            place=f"line {line.number}" + (f", {cells['document']}" if "document" in cells else ""),
            assumed=assumed,
            basis=cells.get("basis", "consolidated"),
            fiscal_period=cells.get("fiscal_period"),
            declared_end=declared,
            share_basis_date=self.share_basis(item, cells),
        )

    def share_basis(self, item: Item, cells: Mapping[str, str]) -> date | None:
        """On whose shares a figure is stated, where the row states it (M3)."""
        if "share_basis_date" not in cells:
            return None
        if item.unit not in ("money_per_share", "shares"):
            problem = f"{item.code} is {item.unit}, which no split moves"
            raise bad_input(
                "share_basis_date", cells["share_basis_date"], problem, "leave the cell empty"
            )
        return self.day(cells["share_basis_date"], "share_basis_date")


def observation_lines(
    lines: list[Line], items: Mapping[str, Item]
) -> tuple[list[Line], list[tuple[int, Problem]]]:
    """Rows of observations (F14) as rows of facts, and those that are none.

    An instant in `observed_at` is also when it became known, unless `published_at` says otherwise.
    """
    good, bad = [], []
    for line in lines:
        cells = dict(line.cells)
        try:
            item, seen = items.get(cells.get("item", "")), day_alone(cells.get("observed_at", ""))
            if item is not None and item.nature is not Nature.OBSERVATION:
                raise bad_input(
                    "item", item.code, f"it is a {item.nature.value}", "load it with the kind facts"
                )
            if not seen:
                raise bad_input("observed_at", "", "the cell is empty", "every row needs it")
            if len(seen) > 10:
                seen = read_cutoff(seen, "observed_at").date().isoformat()
            if item is not None and "money" not in item.unit:
                cells.setdefault("unit", item.unit)
        except BadInput as error:
            bad.append((line.number, error.problems[0]))
            continue
        good.append(Line(line.number, {**cells, "period_end": seen}))
    return good, bad


def load_facts(
    ledger: Ledger,
    snapshots: Snapshots,
    lines: list[Line],
    content: bytes,
    *,
    name: str,
    bad_before: list[tuple[int, Problem]],
    accept_good: bool,
) -> Loaded:
    """Rows as facts in one batch; with a bad row nothing is written,
    unless `accept_good` takes the others.
    """
    reading = _Reading(snapshots.at(), ledger.now())
    bad = [BadRow.of(number, problem, {}) for number, problem in bad_before]
    given: dict[str, list[_Row]] = {}
    figures: dict[tuple[object, ...], tuple[float | None, int]] = {}
    for line in lines:
        try:
            company, fact = reading.fact(line)
            source = reading.source(line.cells.get("source", FILES[0]))
            same = (
                source,
                company,
                fact.item,
                fact.basis,
                fact.period_start,
                fact.period_end,
                fact.published_at,
            )
            value, first = figures.setdefault(same, (fact.value, line.number))
            if value != fact.value:
                said = "nothing" if value is None else f"{value:.15g}"
                problem = f"line {first} says {said} for the same item, period and publication"
                raise bad_input(
                    "value",
                    fact.value,
                    problem,
                    "leave one out, or give them different publications",
                )
        except (BadInput, NotFound) as error:
            bad.append(_bad_row(line, error.problems[0]))
            continue
        given.setdefault(source, []).append((line, company, fact))
    good: dict[str, tuple[list[int], Figures]] = {}
    for source, own in given.items():
        passing, wrong = _passing(own, reading.now)
        bad += [_bad_row(line, problem) for line, problem in wrong]
        if len(passing[1]):
            good[source] = passing
    rows = sum(len(own) for _, own in good.values())
    bad.sort(key=lambda b: b.line)
    if not good or (bad and not accept_good):
        return Loaded("facts", 0, None, tuple(bad))
    added = 0
    with ledger.batch("load", f"{counted(rows, 'fact')} from {name}") as batch:
        for source, (companies, own_figures) in good.items():
            title = FILES[1] if source == FILES[0] else source.capitalize()
            number = batch.source(source, title)
            document = batch.document(
                number, DocumentRecord(name, name, "file", "text/csv", content, None)
            )
            documents = [document] * len(own_figures)
            added += batch.add_figures(number, companies, documents, own_figures)
        touched = {company for companies, _ in good.values() for company in companies}
        examine_new(batch, sorted(touched), reading.snapshot.view.items)
    return Loaded("facts", rows, batch.number if batch.anything_new else None, tuple(bad), added)


def _bad_row(line: Line, problem: Problem) -> BadRow:
    """A row that is refused; an observation's period ends on the day it was observed."""
    if problem.at == "period_end" and "observed_at" in line.cells:
        problem = replace(problem, at="observed_at")
    return BadRow.of(line.number, problem, line.cells)


def _passing(
    rows: list[_Row], now: datetime
) -> tuple[tuple[list[int], Figures], list[tuple[Line, Problem]]]:
    """The companies and figures that may be kept; of the others what is wrong, by line."""
    figures = Figures.of([fact for *_, fact in rows])
    if all_pass(figures, now):
        return ([company for _, company, _ in rows], figures), []
    wrong = [(line, next(of_fact(fact, now), None)) for line, _, fact in rows]
    bad = [(line, problem) for line, problem in wrong if problem]
    passes = [problem is None for _, problem in wrong]
    companies = [company for (_, company, _), kept in zip(rows, passes, strict=True) if kept]
    return (companies, figures.where(passes)), bad


def _check_period(item: Item, start: date | None, end: date) -> None:
    if start is not None and start > end:
        raise bad_input(
            "period_start",
            start,
            "the period runs backwards",
            f"it ends on {end}: swap or mend them",
        )
    if item.nature is Nature.FLOW and start is None:
        raise bad_input("period_start", "", f"{item.code} is over a period", "say when it begins")
    if item.nature is not Nature.FLOW and start is not None:
        what = "a balance at a date" if item.nature is Nature.STOCK else "dated by when it was seen"
        raise bad_input("period_start", start, f"{item.code} is {what}", "leave the cell empty")


def _value(text: str | None, scale: int) -> float | None:
    """In units; a row without a value withdraws (T6)."""
    if text is None:
        return None
    plain = decimal_number(text)
    if plain is None:
        raise bad_input("value", text, "this is no number", "write digits and a point: 1234.5")
    value = float(Decimal(plain).scaleb(scale))
    if not isfinite(value):
        raise bad_input("value", text, "this is no figure", "leave the cell empty to withdraw")
    return value
