"""Match a file of terms to companies as of a date; keep what people decide,
and use it next time.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date

from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.identity.matching import Candidate, Hint, Matched, Matcher, Outcome, Policy
from wise_ledger.core.identity.schemes import CHECKED
from wise_ledger.core.identity.universe import FOREVER, Stretch
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import as_date, day
from wise_ledger.engine.identity import ANY_TYPE
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.naming import Decision
from wise_ledger.work import NotFound, industries
from wise_ledger.work.longwork import Step, unwatched

MOST_TERMS = 20_000


@dataclass(frozen=True)
class Term:
    """A term as typed, with what was given beside it."""

    text: str
    venue: str | None = None
    country: str | None = None


@dataclass(frozen=True)
class ListingShown:
    """Where and how a security trades."""

    id: str
    symbol: str
    mic: str
    currency: str
    security: str
    security_type: str
    valid_from: date | None
    valid_to: date | None
    primary: bool


@dataclass(frozen=True)
class CompanyShown:
    """What a person needs to see by eye whether it is the right company."""

    id: str
    name: str
    country: str | None
    seat: str | None
    industry: str | None
    industry_title: str | None
    website: str | None
    description: str | None
    active: bool
    score: float
    why: str
    listings: tuple[ListingShown, ...]


@dataclass(frozen=True)
class MatchRow:
    """What became of one term; `codes` are the schemes asked for,
    of the company that was chosen.
    """

    term: str
    scheme: str
    outcome: str
    company: CompanyShown | None
    candidates: tuple[CompanyShown, ...]
    notes: tuple[str, ...]
    repair: tuple[str, ...]
    decided: str | None
    codes: tuple[str | None, ...]


@dataclass(frozen=True)
class MatchAnswer:
    """One row for each term, in the order given."""

    on: date
    batch: int
    to: tuple[str, ...]
    rows: tuple[MatchRow, ...]


def match_terms(
    snapshots: Snapshots,
    terms: Sequence[Term],
    on: date,
    *,
    types: frozenset[str] = frozenset({"ordinary"}),
    all_listings: bool = False,
    ever: bool = False,
    to: Sequence[str] = (),
    recorded_by: int | None = None,
    step: Step = unwatched,
) -> MatchAnswer:
    """What each term means on a date; earlier decisions of people go before the matcher's own."""
    check(snapshots, terms, types=types, to=to, recorded_by=recorded_by)
    snapshot = snapshots.at(recorded_by)
    matcher = Matcher(
        snapshot.universe, day(on), Policy(types, all_listings, ever), snapshot.source_names
    )
    decided = standing_decisions(snapshot.decisions)
    hints = [Hint(t.venue, t.country) for t in terms]
    found = matcher.match_all([t.text for t in terms], hints, lambda done: step(done, len(terms)))
    rows = [_row(snapshot, matcher, m, decided.get(_key(m.term)), to, day(on)) for m in found]
    return MatchAnswer(on, snapshot.batch, tuple(to), tuple(rows))


def check(
    snapshots: Snapshots,
    terms: Sequence[Term],
    *,
    types: frozenset[str],
    to: Sequence[str],
    recorded_by: int | None,
) -> None:
    """Refuse what cannot be matched; raises `BadInput`."""
    if not terms:
        raise bad_input(
            "terms", "", "there is nothing to match", "give at least one name, symbol or identifier"
        )
    if len(terms) > MOST_TERMS:
        raise bad_input(
            "terms", len(terms), f"at most {MOST_TERMS} terms are taken at once", "split the file"
        )
    if unknown := sorted(types - ANY_TYPE):
        raise bad_input(
            "types",
            unknown[0],
            "there is no such security type",
            f"write {', '.join(sorted(ANY_TYPE))}",
        )
    snapshot = snapshots.at(recorded_by)
    schemes = {
        *CHECKED,
        "company",
        "symbol",
        *snapshot.source_names,
        *(s for s, _ in snapshot.universe.by_value),
    }
    for scheme in to:
        if scheme not in schemes:
            raise bad_input("to", scheme, "there is no such scheme", mend_for(scheme, schemes))


def standing_decisions(decisions: Sequence[Decision]) -> dict[str, Decision]:
    """The last word on each term, those taken back left out."""
    last = {_key(d.term): d for d in decisions}
    return {k: d for k, d in last.items() if d.company is not None}


def decide(
    ledger: Ledger, snapshots: Snapshots, term: str, company: str | None, who: str, why: str
) -> int:
    """Keep what a person says a term means (None takes an earlier word back); returns the batch."""
    if not term.strip() or not who.strip():
        at = "term" if not term.strip() else "who"
        raise bad_input(at, "", "it is empty", "say which term was decided, and who decided it")
    snapshot = snapshots.at()
    number = None if company is None else snapshot.number(company)
    if number is None and _key(term) not in standing_decisions(snapshot.decisions):
        raise NotFound(
            Problem("term", term, "nobody decided this term", "see the decisions that stand")
        )
    with ledger.batch("decision", f"{term!r} decided by {who}") as batch:
        batch.add_decision(term.strip(), number, who.strip(), why.strip())
    return ledger.last_batch()


def shown(snapshot: Snapshot, candidate: Candidate, today: int) -> CompanyShown:
    """A candidate as a person sees it."""
    number, cutoff = candidate.company, (today + 1) * DAY - 1

    def attribute(name: str) -> str | None:
        return snapshot.attributes.of(number, name, cutoff)

    return CompanyShown(
        id=snapshot.ids[number],
        name=snapshot.universe.name(number, today) or snapshot.ids[number],
        country=attribute("country"),
        seat=attribute("seat"),
        industry=attribute("industry"),
        industry_title=industries.title(attribute("industry")),
        website=attribute("website"),
        description=attribute("description"),
        active=snapshot.universe.activity[number].ending(today) is None,
        score=candidate.score,
        why=candidate.why,
        listings=tuple(listing_shown(snapshot, x.number, today) for x in candidate.listings),
    )


def listing_shown(snapshot: Snapshot, number: int, today: int = FOREVER) -> ListingShown:
    """A listing as a person sees it on a day: an end after that is not known yet (T9)."""
    listing = snapshot.listing[number]
    security = snapshot.universe.security[listing.security]
    since, until = dates(listing.span, today)
    return ListingShown(
        snapshot.listing_ids[number],
        listing.symbol,
        listing.mic,
        listing.currency,
        snapshot.security_ids[security.number],
        security.type,
        since,
        until,
        listing.primary,
    )


def dates(span: Stretch, today: int = FOREVER) -> tuple[date | None, date | None]:
    """A stretch as dates; None where it is open, or does not end by a day (T9)."""
    return (
        None if span.since == -FOREVER else as_date(span.since),
        None if span.until == FOREVER or span.until > today else as_date(span.until),
    )


def _key(term: str) -> str:
    return " ".join(term.casefold().split())


def _row(
    snapshot: Snapshot,
    matcher: Matcher,
    found: Matched,
    decided: Decision | None,
    to: Sequence[str],
    today: int,
) -> MatchRow:
    word = None
    if decided is not None and decided.company is not None:
        chosen = matcher.candidate(decided.company, "decided by a person")
        notes = tuple(n for n in found.notes if n.startswith("the same as"))
        found = replace(
            found, outcome=Outcome.MATCHED, chosen=chosen, candidates=(), notes=notes, repair=()
        )
        word = f"{decided.who}{f': {decided.why}' if decided.why else ''}"
    company = None if found.chosen is None else shown(snapshot, found.chosen, today)
    codes = [_code(snapshot, found.chosen, scheme, today) for scheme in to]
    lacks = tuple(note for _, note in codes if note)
    return MatchRow(
        term=found.term,
        scheme=found.scheme,
        outcome=found.outcome.value,
        company=company,
        candidates=tuple(shown(snapshot, c, today) for c in found.candidates),
        notes=(*found.notes, *lacks),
        repair=found.repair,
        decided=word,
        codes=tuple(code for code, _ in codes),
    )


def _code(
    snapshot: Snapshot, chosen: Candidate | None, scheme: str, today: int
) -> tuple[str | None, str]:
    """The code in a scheme on a day, of the security that is meant or of the
    company itself; and why there is none.

    It is never that of another security: the code of the ordinary share is none for its receipt.
    """
    if chosen is None:
        return None, ""
    if scheme == "company":
        return snapshot.ids[chosen.company], ""
    if scheme == "symbol":
        return ", ".join(f"{x.symbol}@{x.mic}" for x in chosen.listings) or None, ""
    universe = snapshot.universe
    spans = [s for s in universe.identifiers_of.get(chosen.company, []) if s.scheme == scheme]
    holding = [s for s in spans if s.span.holds(today)]
    security = chosen.security
    if security is None:
        of = [
            s.number for s in universe.securities_of.get(chosen.company, []) if s.type == "ordinary"
        ]
        security = chosen.listings[0].security if chosen.listings else min(of, default=None)
    own = [s for s in holding if s.security == security] + [
        s for s in holding if s.security is None
    ]
    if own:
        return own[0].value, ""
    if not holding or security is None:
        return None, f"it has no {scheme} on that day" if spans else ""
    kind = universe.security[security].type.replace("_", " ")
    return None, f"this {kind} has no {scheme}; another security of the company has"
