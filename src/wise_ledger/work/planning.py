"""What a collection will take, before it runs."""

from dataclasses import dataclass

from wise_ledger.sources.protocol import GivesMarket, Source
from wise_ledger.store import operations, reading
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import Asked
from wise_ledger.work.collect import Collection

_SECONDS_A_CALL = 0.05  # where the source does not say how fast it may be asked


@dataclass(frozen=True)
class Plan:
    """Companies to ask for and those known to be unchanged, calls,
    seconds at the source's pace, the day's quota.
    """

    companies: int
    unchanged: int
    filings: int
    calls: int
    seconds: float
    used_today: int
    per_day: int | None
    needs_confirmation: bool
    confirm_above: int


def plan(ledger: Ledger, source: Source, asked: Asked, confirm_above: int) -> Plan:
    """What `asked` will take; costs the calls of the source's list of companies."""
    collection = Collection(ledger, source, asked, lambda *_: None)
    found, known = collection.look()
    chosen = collection.chosen(found, known)
    calls, filings = source.requests + 1, 0
    if "market" in asked.what and isinstance(source, GivesMarket):
        with ledger.database.read() as connection:
            mark = operations.remembered(connection, source.name, "market") if asked.whole else None
        calls += source.market_calls(mark)
    if "statements" in asked.what:
        with ledger.database.read() as connection:
            kept = reading.documents_by_company(connection, source.name)
        for company in chosen:
            number = known.get(company.key, (-1, ""))[0]
            new = max(0, found.filings.get(company.key, 0) - kept.get(number, 0))
            filings += new
            calls += source.calls(new)
    pace = source.budget.pace
    rate = pace.per_second if pace.per_second is not None else pace.at_once / _SECONDS_A_CALL
    unchanged = collection.passed_over(found, known)
    return Plan(
        len(chosen),
        max(0, unchanged),
        filings,
        calls,
        round(calls / rate, 1),
        source.budget.used_today,
        pace.per_day,
        calls > confirm_above,
        confirm_above,
    )
