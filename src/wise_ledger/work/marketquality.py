"""Quality of market data: prices, levels and rates that cannot be, what looks odd,
what people said of it (Q1, Q2).
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.quality.doubts import Doubt
from wise_ledger.core.quality.marketflags import market_flags
from wise_ledger.core.records import kinds
from wise_ledger.core.records.records import MarketVerdictRecord
from wise_ledger.core.time.periods import as_date
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import listreading, ratereading
from wise_ledger.store.ledger import Ledger
from wise_ledger.work import NotFound
from wise_ledger.work.quality import STATES, check_filters

CHECKS = {
    "scale": "about a hundred or a thousand times the one before it, as when pence are taken for pounds",
    "inverted": "a rate upside down",
    "jump": "a jump that a split would explain, and none is known",
    "split": "a split that prices do not follow",
    "dividend": "a dividend above the price before it",
    "hole": "more than ten days without a price",
}


@dataclass(frozen=True)
class MarketFinding:
    """Something that cannot be (state quarantined, accepted,
    rejected) or looks odd (flagged) on a day.
    """

    kind: str  # prices, levels, rates, splits, dividends
    subject: str  # SYMBOL@MIC, a list, a pair of currencies
    company: str | None
    name: str | None
    date: date
    state: str
    check: str
    detail: str
    value: float
    beside: float
    beside_date: date | None
    source: str | None
    who: str | None = None
    why: str | None = None


@dataclass(frozen=True)
class MarketQuality:
    """Findings, those in quarantine first, the newest first;
    counted before filters took any away.
    """

    findings: tuple[MarketFinding, ...]
    total: int
    by_check: dict[str, int]
    by_state: dict[str, int]
    batch: int


_KINDS = {"jump": "prices", "hole": "prices", "split": "splits", "dividend": "dividends"}


def market_overview(
    ledger: Ledger,
    snapshots: Snapshots,
    *,
    check: str | None = None,
    state: str | None = None,
    company: str | None = None,
    limit: int = 200,
    skip: int = 0,
) -> MarketQuality:
    """What checks found among prices, levels, rates, splits and dividends.

    Raises `BadInput`, `NotFound`.
    """
    check_filters(check, CHECKS, state)
    snapshot = snapshots.at()
    own = None if company is None else snapshot.ids[snapshot.number(company)]
    found = _findings(ledger, snapshots)
    kept = [
        f
        for f in found
        if check in (None, f.check) and state in (None, f.state) and own in (None, f.company)
    ]
    return MarketQuality(
        tuple(kept[skip : skip + limit]),
        len(kept),
        dict(Counter(f.check for f in found).most_common()),
        dict(Counter(f.state for f in found)),
        snapshot.batch,
    )


def _findings(ledger: Ledger, snapshots: Snapshots) -> list[MarketFinding]:
    """All of now, made once for every batch."""

    def make() -> list[MarketFinding]:
        snapshot = snapshots.at()
        market = snapshot.view.market
        with ledger.database.read() as connection:
            verdicts = ratereading.market_verdicts(connection, snapshot.batch)
            lists = {n: name for name, n in listreading.list_numbers(connection).items()}
        found = [_of_doubt(snapshot, d, verdicts, lists) for d in _doubts(ledger, snapshot)]
        for f in market_flags(market):
            subject, company, name = _listing(snapshot, f.listing)
            source = snapshot.source_names[f.source] if f.source >= 0 else None
            found.append(
                MarketFinding(
                    _KINDS[f.check],
                    subject,
                    company,
                    name,
                    as_date(f.day),
                    "flagged",
                    f.check,
                    f.detail,
                    f.value,
                    f.beside,
                    None,
                    source,
                )
            )
        found.sort(key=lambda f: (f.date, f.subject), reverse=True)
        return sorted(found, key=lambda f: STATES.index(f.state))

    return snapshots.once("market findings", make)


def _listing(snapshot: Snapshot, number: int) -> tuple[str, str | None, str | None]:
    listing = snapshot.listing[number]
    company = snapshot.universe.security[listing.security].company
    return f"{listing.symbol}@{listing.mic}", snapshot.ids[company], snapshot.newest_name(company)


def _subject(snapshot: Snapshot, d: Doubt, lists: dict[int, str]) -> str:
    """As it is kept in a verdict."""
    if isinstance(d.owner, tuple):
        return "/".join(currency_name(code) or "" for code in d.owner)
    return lists[d.owner] if d.kind == "levels" else snapshot.listing_ids[d.owner]


def _of_doubt(
    snapshot: Snapshot,
    d: Doubt,
    verdicts: dict[tuple[str, str, int], tuple[bool, str, str]],
    lists: dict[int, str],
) -> MarketFinding:
    subject = _subject(snapshot, d, lists)
    verdict = verdicts.get((d.kind, subject, d.row.day))
    state = "quarantined" if verdict is None else "accepted" if verdict[0] else "rejected"
    company = name = None
    if d.kind == "prices" and isinstance(d.owner, int):
        subject, company, name = _listing(snapshot, d.owner)
    who, why = (None, None) if verdict is None else verdict[1:]
    return MarketFinding(
        d.kind,
        subject,
        company,
        name,
        as_date(d.row.day),
        state,
        d.check,
        f"{d.detail} the one before it",
        d.row.value,
        d.beside.value,
        as_date(d.beside.day),
        snapshot.source_names[d.row.source],
        who,
        why,
    )


def quarantined_of(ledger: Ledger, snapshots: Snapshots, batch: int) -> int:
    """How many rows that a batch brought are in quarantine."""
    return sum(d.row.batch == batch for d in _doubts(ledger, snapshots.at()))


def _doubts(ledger: Ledger, snapshot: Snapshot) -> list[Doubt]:
    with ledger.database.read() as connection:
        rates = ratereading.rate_doubts(connection, snapshot.batch)
    return [*snapshot.view.market.doubts, *rates]


def decide_market(
    ledger: Ledger,
    snapshots: Snapshots,
    named: Sequence[tuple[str, str, date]],
    accept: bool,
    who: str,
    why: str,
) -> tuple[int, int]:
    """Accept or reject rows in quarantine, each by kind, subject and date, in one batch:
    how many, and the batch.

    Raises `BadInput`, `NotFound`.
    """
    for at, value in (("who", who), ("why", why)):
        if not value.strip():
            raise bad_input(
                at,
                "",
                "it is empty",
                "say who decides" if at == "who" else "say what was looked at",
            )
    if not named:
        raise bad_input(
            "rows", "", "none is named", "name rows in quarantine by kind, subject and date"
        )
    snapshot = snapshots.at()
    with ledger.database.read() as connection:
        lists = {n: name for name, n in listreading.list_numbers(connection).items()}
    known: dict[tuple[str, str, date], str] = {}
    for d in _doubts(ledger, snapshot):
        kept = _subject(snapshot, d, lists)
        for text in {kept, _listing(snapshot, d.owner)[0]} if d.kind == "prices" else {kept}:  # type: ignore[arg-type]
            known[d.kind, text, as_date(d.row.day)] = kept
    records = []
    for kind, subject, on in named:
        if (kind, subject, on) not in known:
            there = sorted({text for k, text, _ in known if k == kind})
            problem = f"none of {kind} in quarantine is of this subject on {on}"
            raise NotFound(Problem("subject", subject, problem, mend_for(subject, there)))
        records.append(
            MarketVerdictRecord(
                kind, known[kind, subject, on], on, accept, who.strip(), why.strip()
            )
        )
    word = "accepted" if accept else "rejected"
    with ledger.batch("quarantine", f"{len(records)} market rows {word} by {who.strip()}") as batch:
        batch.add(kinds.MARKET_VERDICTS, records)
    return len(records), ledger.last_batch()
