"""Match terms to companies as of a date: one outcome for each term, in order, none dropped."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from wise_ledger.core.identity.schemes import (
    Reading,
    one_slip_away,
    read_identifier,
    zeros_restored,
)
from wise_ledger.core.identity.symbols import SymbolReading, read_symbol
from wise_ledger.core.identity.universe import (
    IdentifierSpan,
    Listing,
    NameSpan,
    Universe,
    of_company,
)
from wise_ledger.core.time.periods import as_date

# A name is taken when it is at least this like, and so much more than the next company's; tuned on
# made-up slips of other seeds than those that the benchmark reports.
THRESHOLD, MARGIN = 0.86, 0.035
_SAME_WORDS = 0.999  # what `NameIndex` gives for the same words in another dress
_SOMEWHAT = 0.3  # less like than this is nothing to show
_LIKELY = 0.7  # a person would see at once that one of these may be meant: theirs to settle
_SHOWN = 5  # candidates of an ambiguous term
_NEAREST = 3
_LONGEST = 400  # characters of a term that are looked at


class Outcome(StrEnum):
    """What became of a term."""

    MATCHED = "matched"
    AMBIGUOUS = "ambiguous"
    RENAMED = "renamed"  # named so before; goes by another name or symbol on the day
    INACTIVE = "inactive"  # found, but no longer active on the day
    INVALID = "invalid"  # cannot be an identifier as it stands
    NOT_FOUND = "not_found"


ORDINARY = frozenset({"ordinary"})


@dataclass(frozen=True)
class Policy:
    """What counts: security types, all listings or the primary one,
    and whether companies active ever or on the day.
    """

    types: frozenset[str] = ORDINARY
    all_listings: bool = False
    ever: bool = False


@dataclass(frozen=True)
class Candidate:
    """A company that a term may mean: how likely, why, and its listings on the day."""

    company: int
    score: float
    why: str
    listings: tuple[Listing, ...] = ()
    security: int | None = None  # the one that the term named, where it named one


@dataclass(frozen=True)
class Matched:
    """What became of one term; `chosen` where it is settled, else the
    candidates; `notes` for the reader.
    """

    term: str
    scheme: str
    outcome: Outcome
    chosen: Candidate | None
    candidates: tuple[Candidate, ...] = ()
    notes: tuple[str, ...] = ()
    repair: tuple[str, ...] = ()


@dataclass(frozen=True)
class Hint:
    """What was given beside a term: a venue (MIC) or a country."""

    venue: str | None = None
    country: str | None = None


@dataclass(frozen=True)
class Matcher:
    """Matches against a universe on a day (days since 1970);
    `own` are the sources whose keys are schemes.
    """

    universe: Universe
    day: int
    policy: Policy = Policy()
    own: Collection[str] = ()

    def match_all(
        self,
        terms: Sequence[str],
        hints: Sequence[Hint] | None = None,
        step: Callable[[int], None] = lambda done: None,
    ) -> list[Matched]:
        """One outcome for each term, in order; a term that came before says so.

        `step` hears how many are done.
        """
        seen: dict[tuple[str, Hint], int] = {}
        out: list[Matched] = []
        for row, term in enumerate(terms):
            hint = hints[row] if hints else Hint()
            key = (term.strip().casefold(), hint)
            found = replace(out[seen[key]], term=term) if key in seen else self.match(term, hint)
            if key in seen:
                found = replace(
                    found, notes=(*out[seen[key]].notes, f"the same as row {seen[key] + 1}")
                )
            else:
                seen[key] = row
            out.append(found)
            step(len(out))
        return out

    def match(self, term: str, hint: Hint | None = None) -> Matched:
        """What one term means."""
        hint = hint or Hint()
        text = term.strip()
        if not text:
            return Matched(term, "none", Outcome.INVALID, None, notes=("the cell is empty",))
        if len(text) > _LONGEST:
            return Matched(
                term[:80],
                "none",
                Outcome.INVALID,
                None,
                notes=(f"the cell has {len(text)} characters",),
            )
        if text[0] in "=+-@" and len(text) > 1 and not text[1:2].isspace():
            return Matched(
                term, "none", Outcome.INVALID, None, notes=("this is a formula, not a value",)
            )
        reading = read_identifier(text, self.own)
        if reading is not None:
            if reading.problem is None:
                found = self._by_identifier(term, reading)
                if found.outcome is not Outcome.NOT_FOUND or len(text) > 9:
                    return found
            # a few letters and digits can be a symbol or a name too
            elif reading.scheme not in ("sedol", "cusip"):
                return self._invalid(term, reading)
        if other := self._symbol_or_name(term, hint):
            return other
        if restored := [
            r for r in zeros_restored(text) if (r.scheme, r.value) in self.universe.by_value
        ]:
            repairs = tuple(f"{r.scheme}:{r.value}" for r in restored)
            note = "a spreadsheet took leading zeros away"
            return Matched(
                term, restored[0].scheme, Outcome.INVALID, None, notes=(note,), repair=repairs
            )
        if keyed := self._by_bare_key(term, text):
            return keyed
        if reading is not None:
            return (
                self._invalid(term, reading)
                if reading.problem
                else self._by_identifier(term, reading)
            )
        named = self._by_name(term, hint)
        return (self._unknown_place(term) or named) if named.outcome is Outcome.NOT_FOUND else named

    def _by_bare_key(self, term: str, text: str) -> Matched | None:
        """The key of a source or of a file, given without whose it is; None where nobody has it."""
        found = [
            self._by_identifier(term, Reading(own, text))
            for own in self.own
            if (own, text) in self.universe.by_value
        ]
        chosen = {m.chosen.company: m for m in found if m.chosen is not None}
        if len(chosen) > 1:
            candidates = tuple(m.chosen for m in chosen.values() if m.chosen is not None)
            return Matched(term, "key", Outcome.AMBIGUOUS, None, candidates)
        return next(iter(chosen.values()), found[0] if found else None)

    def _invalid(self, term: str, reading: Reading) -> Matched:
        known = self.universe.by_value
        repair = (
            [v for v in one_slip_away(reading.value) if (reading.scheme, v) in known]
            if reading.scheme != "number"
            else []
        )
        candidates = tuple(
            self.candidate(known[reading.scheme, v][0].company, f"one slip away: {v}", 0.0)
            for v in repair[:_SHOWN]
        )
        repairs = tuple(f"{reading.scheme}:{v}" for v in repair[:_SHOWN])
        mend = "take the value from the file that the spreadsheet was made of"
        notes = (reading.problem or "", *((mend,) if reading.scheme == "number" else ()))
        return Matched(term, reading.scheme, Outcome.INVALID, None, candidates, notes, repairs)

    def _by_identifier(self, term: str, reading: Reading) -> Matched:
        spans = self.universe.by_value.get((reading.scheme, reading.value), [])
        if not spans:
            nobody = (f"no company is known by this {reading.scheme}",)
            return Matched(term, reading.scheme, Outcome.NOT_FOUND, None, notes=nobody)
        now = [s for s in spans if s.span.holds(self.day)]
        notes = tuple(self._other_holder(s, s.company) for s in spans if s not in now)
        if not now:
            earlier = [s for s in spans if s.span.until < self.day]
            if not earlier:
                return Matched(term, reading.scheme, Outcome.NOT_FOUND, None, notes=notes)
            return self._former(
                term, reading.scheme, max(earlier, key=lambda s: s.span.until), notes
            )
        companies = {s.company for s in now}
        if len(companies) > 1:
            candidates = tuple(
                self.candidate(c, f"{reading.scheme} {reading.value}") for c in sorted(companies)
            )
            return Matched(term, reading.scheme, Outcome.AMBIGUOUS, None, candidates, notes)
        chosen = self._of_security(
            self.candidate(now[0].company, f"{reading.scheme} {reading.value}"), now[0].security
        )
        return self._settled(term, reading.scheme, chosen, notes)

    def _former(
        self, term: str, scheme: str, span: IdentifierSpan, notes: tuple[str, ...]
    ) -> Matched:
        """Only an earlier holder is known: it goes by something else now, or is no more."""
        why = f"{scheme} {span.value} until {_date(span.span.until)}"
        chosen = self._of_security(self.candidate(span.company, why), span.security)
        outcome = Outcome.RENAMED if self._active(span.company) else Outcome.INACTIVE
        if self.policy.ever:
            outcome = Outcome.MATCHED
        return Matched(term, scheme, outcome, chosen, notes=(*notes, *self._end(span.company)))

    def _symbol_or_name(self, term: str, hint: Hint) -> Matched | None:
        """As a symbol if one is spelled so, as a name if one is exactly so; None if neither."""
        exact = (
            [f for f in self.universe.name_index.best(term, 1) if f.score >= 0.999]
            if any(c.islower() for c in term)
            else []
        )
        if exact:
            return self._by_name(term, hint)
        for reading in read_symbol(term, self.universe.places):
            listings = self.universe.by_symbol.get(reading.key, [])
            if reading.unknown is not None:
                continue
            place = reading.place or self.universe.place(hint.venue or hint.country)
            if place:
                listings = [
                    x
                    for x in listings
                    if place in (x.mic, self.universe.venue_countries.get(x.mic))
                ]
            if listings:
                return self._by_symbol(term, listings)
        return None

    def _unknown_place(self, term: str) -> Matched | None:
        """A symbol with a word behind it that no venue is called by:
        who has the symbol is for a person to say.
        """
        for reading in read_symbol(term, self.universe.places):
            listings = self.universe.by_symbol.get(reading.key, [])
            if reading.unknown is not None and listings:
                return self._of_unknown_place(term, reading, listings)
        return None

    def _of_unknown_place(
        self, term: str, reading: SymbolReading, listings: list[Listing]
    ) -> Matched:
        companies = dict.fromkeys(
            self.universe.company_of(x) for x in listings if x.span.holds(self.day)
        )
        held = {c: [x for x in listings if self.universe.company_of(x) == c] for c in companies}
        candidates = tuple(
            self.candidate(c, ", ".join(f"{x.symbol}@{x.mic}" for x in own))
            for c, own in held.items()
        )
        note = f"no venue is called {reading.unknown}; what venues are called can be taught (venues alias)"
        outcome = Outcome.AMBIGUOUS if candidates else Outcome.NOT_FOUND
        return Matched(term, "symbol", outcome, None, candidates, (note,))

    def _by_symbol(self, term: str, listings: list[Listing]) -> Matched:
        now = [x for x in listings if x.span.holds(self.day)]
        notes = tuple(self._other_listing(x) for x in listings if x not in now)
        if not now:
            earlier = [x for x in listings if x.span.until < self.day]
            if not earlier:
                return Matched(term, "symbol", Outcome.NOT_FOUND, None, notes=notes)
            last = max(earlier, key=lambda x: x.span.until)
            company = self.universe.company_of(last)
            why = f"{last.symbol}@{last.mic} until {_date(last.span.until)}"
            chosen = replace(self.candidate(company, why), security=last.security)
            outcome = Outcome.RENAMED if self._active(company) else Outcome.INACTIVE
            if self.policy.ever:
                outcome = Outcome.MATCHED
            return Matched(term, "symbol", outcome, chosen, notes=(*notes, *self._end(company)))
        companies = list(dict.fromkeys(self.universe.company_of(x) for x in now))
        candidates = [
            replace(
                self.candidate(c, ""),
                listings=tuple(x for x in now if self.universe.company_of(x) == c),
            )
            for c in companies
        ]
        candidates = [
            replace(c, why=", ".join(f"{x.symbol}@{x.mic}" for x in c.listings)) for c in candidates
        ]
        if len(candidates) > 1:
            return Matched(term, "symbol", Outcome.AMBIGUOUS, None, tuple(candidates), notes)
        only = {x.security for x in candidates[0].listings}
        chosen = replace(candidates[0], security=only.pop() if len(only) == 1 else None)
        return self._settled(term, "symbol", chosen, notes)

    def _by_name(self, term: str, hint: Hint) -> Matched:
        best: dict[int, tuple[float, NameSpan]] = {}
        covering = set()
        for found in self.universe.name_index.best(term, 12):
            if found.score < _SOMEWHAT:
                continue
            span = self.universe.names[found.place]
            score = found.score
            if self.universe.name_index.covers(term, found.place):
                covering.add(span.company)
            if hint.country and self.universe.activity[span.company].country not in (
                None,
                hint.country,
            ):
                score *= 0.8
            if score > best.get(span.company, (0.0, span))[0]:
                best[span.company] = (score, span)
        ranked = sorted(best.items(), key=lambda b: (-b[1][0], not self._active(b[0]), b[0]))
        every = [self._named(c, s, span) for c, (s, span) in ranked]
        candidates = tuple(every[:_SHOWN])
        if not candidates:
            return Matched(term, "name", Outcome.NOT_FOUND, None, notes=("no name is near it",))
        first, rest = candidates[0], candidates[1:]
        if first.score < THRESHOLD:
            likely = [c for c in every if c.score >= _LIKELY or c.company in covering]
            if likely:
                return Matched(term, "name", Outcome.AMBIGUOUS, None, tuple(likely[:_SHOWN]))
            return Matched(term, "name", Outcome.NOT_FOUND, None, candidates[:_NEAREST])
        rivals = [c for c in rest if first.score - c.score < MARGIN]
        # One whose words are exactly these wins over any that is only like
        # them; who those are is said.
        exact = first.score >= _SAME_WORDS and all(c.score < _SAME_WORDS for c in rivals)
        near = tuple(f"nearly the same name: {c.why}" for c in rivals) if exact else ()
        if rivals and not exact and not (first.score == 1.0 and all(c.score < 1.0 for c in rivals)):
            living = [c for c in (first, *rivals) if self._active(c.company)]
            if len(living) != 1 or self.policy.ever:
                return Matched(term, "name", Outcome.AMBIGUOUS, None, candidates)
            first = living[0]
        span = next(s for c, (_, s) in ranked if c == first.company)
        notes: tuple[str, ...] = ()
        if not span.span.holds(self.day) and self._active(first.company):
            now = self.universe.name(first.company, self.day)
            if span.span.until < self.day:
                notes = (f"called {span.name} until {_date(span.span.until)}, now {now}",)
                if now != span.name:
                    return Matched(term, "name", Outcome.RENAMED, first, notes=notes)
            elif now != span.name:
                notes = (f"named so from {_date(span.span.since)}, {now} before",)
        return self._settled(term, "name", first, (*notes, *near))

    def _named(self, company: int, score: float, span: NameSpan) -> Candidate:
        return self.candidate(company, span.name, round(score, 4))

    def candidate(self, company: int, why: str, score: float = 1.0) -> Candidate:
        """A company with its listings on the day, as the policy asks."""
        listings = of_company(self.universe, company, self.day, self.policy.types)
        return Candidate(
            company, score, why, tuple(listings if self.policy.all_listings else listings[:1])
        )

    def near(self, term: str, count: int = 10) -> list[Candidate]:
        """The companies whose names are somewhat like a term, the likest first,
        for a person to choose from.
        """
        out: dict[int, Candidate] = {}
        best: list[tuple[bool, int, Candidate]] = []
        for found in self.universe.name_index.best(term, count):
            if found.score < _SOMEWHAT:
                continue
            span = self.universe.names[found.place]
            covers = self.universe.name_index.covers(term, found.place)
            best.append((not covers, len(best), self._named(span.company, found.score, span)))
        # names with all the words of the term come first
        for *_, candidate in sorted(best, key=lambda b: b[:2]):
            out.setdefault(candidate.company, candidate)
        return list(out.values())

    def _active(self, company: int) -> bool:
        return self.universe.activity[company].ending(self.day) is None

    def _settled(
        self, term: str, scheme: str, chosen: Candidate, notes: tuple[str, ...]
    ) -> Matched:
        if not self._active(chosen.company) and not self.policy.ever:
            return Matched(
                term, scheme, Outcome.INACTIVE, chosen, notes=(*notes, *self._end(chosen.company))
            )
        return Matched(
            term, scheme, Outcome.MATCHED, chosen, notes=(*notes, *self._not_yet(chosen.company))
        )

    def _not_yet(self, company: int) -> tuple[str, ...]:
        """A note where the company had no listing yet on the day."""
        of = [
            x
            for s in self.universe.securities_of.get(company, [])
            for x in self.universe.listings_of.get(s.number, [])
        ]
        first = min((x.span.since for x in of), default=self.day)
        return (f"not listed before {_date(first)}",) if first > self.day else ()

    def _of_security(self, chosen: Candidate, security: int | None) -> Candidate:
        """The candidate as one security of it: of its listings only those of that."""
        if security is None:
            return chosen
        traded = self.universe.listings_of.get(security, [])
        of = sorted(
            (x for x in traded if x.span.holds(self.day)), key=lambda x: (not x.primary, x.number)
        )
        shown = tuple(of if self.policy.all_listings else of[:1]) or chosen.listings
        return replace(chosen, security=security, listings=shown)

    def _end(self, company: int) -> tuple[str, ...]:
        ending = self.universe.activity[company].ending(self.day)
        if ending is None:
            return ()
        cause = f": {ending.cause}" if ending.cause else ""
        return (f"not active after {_date(ending.span.since - 1)}{cause}",)

    def _other_holder(self, span: IdentifierSpan, company: int) -> str:
        return self._holder(
            f"{span.scheme} {span.value}", company, span.span.since, span.span.until
        )

    def _other_listing(self, listing: Listing) -> str:
        company = self.universe.company_of(listing)
        return self._holder(
            f"{listing.symbol}@{listing.mic}", company, listing.span.since, listing.span.until
        )

    def _holder(self, what: str, company: int, since: int, until: int) -> str:
        if since > self.day:
            return f"{what} is of {self.universe.name(company, since)} from {_date(since)}"
        return f"{what} was of {self.universe.name(company, until)} until {_date(until)}"


def _date(days: int) -> str:
    return str(as_date(days))
