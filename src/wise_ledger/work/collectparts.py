"""What a collection takes beside companies and their filings, each a part of its own:
asked for, and written.

A new kind of data is a protocol in `sources/protocol.py`, a part here, and the adapters that give
it.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from wise_ledger.core.errors import Problem
from wise_ledger.core.records import kinds
from wise_ledger.sources.errors import SourceDamaged
from wise_ledger.sources.protocol import ListsFound, RatesFound, VenuesFound
from wise_ledger.store.batch import BatchWriter
from wise_ledger.work.collectmarket import write_estimates, write_market
from wise_ledger.work.collectseries import write_series


@dataclass(frozen=True)
class Part:
    """`ask(source, mark)` what there is since a mark, `write(batch, source
    number, found, companies by key)`.

    What is found has the `mark` to ask from next time. It is asked of sources that have the
    `offer`.
    """

    offer: str
    ask: Callable[[Any, str | None], Any]
    write: Callable[[BatchWriter, int, Any, Mapping[str, int]], None]


def _write_lists(
    batch: BatchWriter, source: int, found: ListsFound, numbers: Mapping[str, int]
) -> None:
    strange: list[Problem] = []
    for entry in found.lists or ():
        strangers = [m.company_key for m in entry.members if m.company_key not in numbers]
        if strangers:
            problem = "a member is no company of the source"
            mend = "collect again; if it stays so, report it to the source"
            strange.append(Problem(f"list {entry.name}", strangers[0], problem, mend))
        else:
            batch.add_list(source, entry, dict(numbers))
    if strange:
        raise SourceDamaged(*strange)


def _write_rates(batch: BatchWriter, source: int, found: RatesFound, _: Mapping[str, int]) -> None:
    batch.add_rates(source, found.rates)


def _write_venues(
    batch: BatchWriter, source: int, found: VenuesFound, _: Mapping[str, int]
) -> None:
    batch.add(kinds.VENUES, found.venues or (), source=source)


PARTS = (
    Part("lists", lambda source, mark: source.lists(mark), _write_lists),
    Part("rates", lambda source, mark: source.rates(mark), _write_rates),
    Part("venues", lambda source, mark: source.venues(mark), _write_venues),
    Part("estimates", lambda source, mark: source.estimates(mark), write_estimates),
    Part("series", lambda source, mark: source.series(mark), write_series),
    Part("market", lambda source, mark: source.market(mark), write_market),
)
