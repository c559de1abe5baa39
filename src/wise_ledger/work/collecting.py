"""The sources as people see them, and what their tags mean."""

from dataclasses import dataclass
from datetime import datetime

from wise_ledger.sources.protocol import offers
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import COLLECTION
from wise_ledger.work import mappings
from wise_ledger.work.runs import Asked, Runs


@dataclass(frozen=True)
class SourceShown:
    """A source: what it gives, its pace, what was used today, its last run."""

    name: str
    title: str
    offers: list[str]
    per_second: float | None
    per_day: int | None
    at_once: int
    used_today: int
    left_alone_until: datetime | None
    last_run: int | None
    last_ended: datetime | None


def sources(runs: Runs) -> list[SourceShown]:
    """Every source by name."""
    out = []
    newest = runs.newest(100)
    for name in sorted(runs.sources):
        source = runs.open(name)
        last = next((r for r in newest if r.source == name and r.kind == COLLECTION), None)
        budget = source.budget
        out.append(
            SourceShown(
                name,
                source.title,
                list(offers(source)),
                budget.pace.per_second,
                budget.pace.per_day,
                budget.pace.at_once,
                budget.used_today,
                budget.left_alone_until,
                last.id if last else None,
                last.ended_at if last else None,
            )
        )
        source.close()
    return out


def resume(runs: Runs, name: str) -> SourceShown:
    """Have a source asked again that was to be left alone for a while; raises `NotFound`."""
    runs.check(Asked(name))
    source = runs.open(name)
    try:
        source.budget.resume()
    finally:
        source.close()
    return next(s for s in sources(runs) if s.name == name)


def tags(ledger: Ledger, runs: Runs, source: str) -> mappings.Mapped:
    """What a source's tags mean, and those without an item; raises `NotFound`."""
    opened = runs.opener(source)()
    try:
        return mappings.mapped(ledger, opened)
    finally:
        opened.close()
