"""Collect from a source into the ledger: one batch for the companies and lists,
then one for each company.

A company's filings go in together or not at all, and a filing that the ledger has is not asked for
again: a collection that was cut off at any point is finished by running it again. Companies are
asked for ahead, several at once, and stored one after the other in the order of their keys; those
that are at hand go to the disk together.
"""

import logging
import time
from collections import deque
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from itertools import islice
from typing import Any, NamedTuple, TypeVar

from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.errors import BadInput, LedgerError, Problem
from wise_ledger.core.records.checking import in_words
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import CompanyRecord
from wise_ledger.core.time.periods import day
from wise_ledger.sources.aside import reading_aside
from wise_ledger.sources.errors import (
    SourceBusy,
    SourceDamaged,
    SourceError,
    SourceRefused,
    SourceStopped,
    bad_figure,
    damaged,
)
from wise_ledger.sources.protocol import CompaniesFound, FilingRecord, FilingsFound, Source, offers
from wise_ledger.store import listreading, operations, reading
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import Asked, Outcome
from wise_ledger.store.packing import Packed, pack
from wise_ledger.words import counted
from wise_ledger.work import lists
from wise_ledger.work.collectparts import PARTS, Part
from wise_ledger.work.quality import examine_new

log = logging.getLogger(__name__)
T = TypeVar("T")
Report = Callable[[list[Outcome], int], None]
_AHEAD = 2  # companies asked for ahead, for each request allowed at once
# under this name, and those of the parts, the source's marks are remembered
_COMPANIES = "companies"
_TOGETHER = 0.5  # seconds until what came of several companies is on the disk
_SKEW = timedelta(days=1)  # a clock may be that far ahead of ours


@dataclass
class Collection:
    """One collection; `report` hears outcomes and how many companies there are,
    `stopped` is asked between them.
    """

    ledger: Ledger
    source: Source
    asked: Asked
    report: Report
    stopped: Callable[[], bool] = lambda: False
    run_id: int | None = None  # what is kept notes its outcome in this run, in the same transaction
    _wanted: frozenset[str] = field(init=False)
    _refused: Mapping[int | None, Sequence[Problem]] = field(init=False, default_factory=dict)
    _broken: list[SourceError] = field(init=False, default_factory=list)

    def __post_init__(self) -> None:
        self._wanted = frozenset(self.asked.what)

    def run(self, done: set[str]) -> None:
        """Collect; subjects in `done` had their outcome before.

        Raises what ends it; and at the end, when all that is good is stored, `SourceDamaged` with
        the parts (lists, rates, prices, …) that could not be had.
        """
        self._run(done)
        if self._broken and not self.stopped():
            raise SourceDamaged(*(p for error in self._broken for p in error.problems))

    def _run(self, done: set[str]) -> None:
        whole = self.asked.whole
        found, _ = self.look()
        self._describe(found.companies)
        known = self._known()
        chosen = self.chosen(found, known)
        mark = found.since
        wanted = self._wanted_keys(known)
        quiet = [
            Outcome(key, name, "unchanged", "", 0, 0)
            for key, (_, name) in known.items()
            if mark and (wanted is None or key in wanted)
        ]
        changed = {c.key for c in chosen}
        quiet = [o for o in quiet if o.subject not in changed | done]
        total = len(chosen) + len(quiet) + (len(done - changed) if mark else 0)
        self.report(quiet, total)
        if "statements" not in self._wanted:
            unchanged = [
                Outcome(c.key, c.name, "unchanged", "", 0, 0) for c in chosen if c.key not in done
            ]
            self.report(unchanged, total)
            return
        numbers = {key: number for key, (number, _) in known.items()}
        clean = self._each([c for c in chosen if c.key not in done], numbers, found.filings, total)
        if whole and clean and found.mark is not None and not self.stopped():
            self._remember({_COMPANIES: found.mark})

    def look(self) -> tuple[CompaniesFound, dict[str, tuple[int, str]]]:
        """What the source has, or what changed since last time;
        and whom the ledger knows from it.
        """
        mark = self._remembered(_COMPANIES) if self.asked.everything_of_some else None
        return self._answer("companies", lambda: self.source.companies(mark)), self._known()

    def passed_over(self, found: CompaniesFound, known: dict[str, tuple[int, str]]) -> int:
        """How many that were asked for need not be asked about: they are as they were."""
        wanted = self._wanted_keys(known)
        asked = set(known) if wanted is None else wanted & set(known)
        return len(asked - {c.key for c in self.chosen(found, known)}) if found.since else 0

    def _each(
        self,
        companies: list[CompanyRecord],
        numbers: dict[str, int],
        filings: Mapping[str, int],
        total: int,
    ) -> bool:
        """Fetch ahead, store in order; whether none failed.

        `filings` says how many the source has of each.
        """
        with self.ledger.database.read() as connection:
            kept = reading.known_documents(connection, self.source.name)
        at_once = self.source.budget.pace.at_once
        ahead: Ahead = deque()
        waiting, clean = iter(companies), True
        coming = sum(filings.get(c.key, 0) for c in companies) - len(kept)
        with (
            reading_aside(self.source, coming),
            ThreadPoolExecutor(at_once, thread_name_prefix="fetch") as pool,
        ):

            def ask(most: int) -> None:
                for company in islice(waiting, most):
                    ahead.append((company, pool.submit(self._fetch, company, kept)))

            try:
                ask(_AHEAD * at_once)
                while ahead:
                    if self.stopped():
                        return False
                    outcomes, ended = self._together(ahead, numbers, lambda: ask(1))
                    clean = clean and all(o.state != "failed" for o in outcomes)
                    self.report(outcomes, total)
                    if ended:
                        raise ended
            finally:
                for _, future in ahead:
                    future.cancel()
        return clean

    def _together(
        self, ahead: "Ahead", numbers: dict[str, int], ask_next: Callable[[], None]
    ) -> tuple[list[Outcome], SourceError | None]:
        """The next company, once its answer is there, and those after it that are at hand: each a
        batch of its own, whatever becomes of the others. With them what ends the collection.
        """
        outcomes: list[Outcome] = []
        wait([ahead[0][1]])
        with self.ledger.database.together():
            upto = time.monotonic() + _TOGETHER
            while ahead and ahead[0][1].done() and time.monotonic() < upto:
                if self.stopped():  # while the answer was waited for
                    break
                company, future = ahead.popleft()
                ask_next()
                try:
                    outcomes.append(self._company(company, numbers[company.key], future))
                except SourceError as error:
                    return outcomes, error
                if self.ledger.database.awaited:
                    break
        return outcomes, None

    def _fetch(self, company: CompanyRecord, kept: set[str]) -> "_Fetched":
        """In a thread of its own, with all that can be done before it is stored."""
        before = self.source.tries
        mark = None if self.asked.since else self._remembered(f"filings {company.key}")
        try:
            what = f"filings of {company.key}"
            found = self._answer(
                what, lambda: self.source.filings(company, kept, mark, self.asked.since)
            )
        except SourceError as error:
            error.tries = self.source.tries - before
            raise
        documents = [f.document for f in found.filings or ()]
        for document in documents:
            _ = document.sha256  # kept with it
        return _Fetched(found, [pack(d.content) for d in documents], self.source.tries - before)

    def _company(self, company: CompanyRecord, number: int, future: "Future[_Fetched]") -> Outcome:
        try:
            found, packed, tries = future.result()
        except (SourceRefused, SourceBusy, SourceStopped):
            raise  # this holds for every company: the run ends, and says so once
        except SourceError as error:
            return Outcome(
                company.key, company.name, "failed", in_one_sentence(error), 0, error.tries
            )
        filings = found.filings or []
        unmapped = sorted({tag for filing in filings for tag in filing.unmapped})
        reason = f"tags without an item: {', '.join(unmapped)}" if unmapped else ""
        if refused := self._refused.get(number):
            reason = "; ".join(filter(None, (reason, in_words(refused))))
        outcome = Outcome(company.key, company.name, "unchanged", reason, 0, tries)
        try:
            for filing in filings:
                check_filing(filing, self.ledger.now())
            if filings:
                outcome = self._store(company, number, found, packed, outcome)
        except (SourceError, BadInput) as error:
            return Outcome(company.key, company.name, "failed", in_one_sentence(error), 0, tries)
        except (ValueError, TypeError, ArithmeticError, LookupError) as error:
            log.exception("filings of %s", company.key)
            refusal = damaged(
                f"{self.source.title} filings of {company.key}",
                error,
                "what it gives cannot be kept",
            )
            return Outcome(company.key, company.name, "failed", in_one_sentence(refusal), 0, tries)
        if not filings and (marks := self._marks(company, found)):
            self._remember(marks)
        return outcome

    def _answer(self, what: str, ask: Callable[[], T]) -> T:
        """What the adapter makes of the source's answer;
        whatever it stumbles over is damaged, and named as such.
        """
        try:
            return ask()
        except LedgerError:
            raise
        except Exception as error:
            log.exception("%s of %s", what, self.source.name)
            raise damaged(
                f"{self.source.title} {what}"[:200], error, "what it gives cannot be read"
            ) from error

    def _describe(self, companies: list[CompanyRecord]) -> None:
        """Companies, attributes and identifiers, and the other parts that the
        source gives, in one batch.
        """
        whole, given = self.asked.whole, offers(self.source)
        parts = [p for p in PARTS if p.offer in given and p.offer in self._wanted]
        marks = {p.offer: self._remembered(p.offer) if whole else None for p in parts}
        asked = [(p, self._part(lambda p=p: self._asked(p, marks[p.offer]))) for p in parts]
        with self.ledger.batch(
            "collection", f"companies and lists of {self.source.title}"
        ) as batch:
            source = batch.source(self.source.name, self.source.title)
            for record in companies:
                since = min((day(a.valid_from) for a in record.attributes), default=0)
                lei = next((i.value for i in record.identifiers if i.scheme == "lei"), None)
                new = batch.known_company(source, self.source.name, record.key, lei) is None
                number = batch.company(source, self.source.name, record.key, since, lei)
                # A source that offers no attributes only names companies that nobody else has.
                if "attributes" in self._wanted and (new or "attributes" in given):
                    batch.add_attributes(number, source, record.attributes)
                if "identifiers" in self._wanted and (new or "attributes" in given):
                    batch.add_securities(number, source, record.securities)
                    batch.add_identifiers(number, source, record.identifiers)
            numbers = batch.companies_of(source, self.source.name)
            found: dict[str, Any] = {}
            for part, what in asked:
                if what is not None and self._part(
                    lambda p=part, w=what: p.write(batch, source, w, numbers) or True
                ):
                    found[part.offer] = what
                    self._broken += getattr(what, "missing", ())
            self._refused = batch.refused
            if self.run_id is not None:
                batch.describes(self.run_id)
        if whole:
            self._remember({offer: f.mark for offer, f in found.items() if f.mark is not None})

    def _asked(self, part: Part, mark: str | None) -> Any:
        return self._answer(part.offer, lambda: part.ask(self.source, mark))

    def _part(self, take: Callable[[], T]) -> T | None:
        """What is asked for or written of a part; None where it is broken: it keeps nothing else
        back, and is asked for again by the next collection.
        """
        try:
            return take()
        except (SourceRefused, SourceBusy, SourceStopped):
            raise  # this holds for every part and company
        except SourceError as error:
            self._broken.append(error)
            return None

    def chosen(
        self, found: CompaniesFound, known: dict[str, tuple[int, str]]
    ) -> list[CompanyRecord]:
        """Those of the list (everybody who ever stood on it:
        a study of the past needs them all), or those named.
        """
        wanted = self._wanted_keys(known)
        return [c for c in found.companies if wanted is None or c.key in wanted]

    def _wanted_keys(self, known: dict[str, tuple[int, str]]) -> set[str] | None:
        """The source's keys of the companies that were asked for; None for all."""
        if self.asked.subjects:
            return set(self.asked.subjects)
        if self.asked.list is None:
            return None
        lists.find_list(self.ledger, self.asked.list)
        with self.ledger.database.read() as connection:
            stays = listreading.stays(connection, self.asked.list, self.ledger.last_batch())
        ever = {s.company for s in stays}
        return {key for key, (number, _) in known.items() if number in ever}

    def _known(self) -> dict[str, tuple[int, str]]:
        """Number and name of every company that the ledger has from the
        source, by its key, in order.
        """
        with self.ledger.database.read() as connection:
            return reading.companies_of_source(connection, self.source.name)

    def _store(
        self,
        company: CompanyRecord,
        number: int,
        found: FilingsFound,
        packed: list[Packed],
        outcome: Outcome,
    ) -> Outcome:
        with self.ledger.batch(
            "collection", f"filings of {company.name} from {self.source.title}"
        ) as batch:
            filings = found.filings or []
            source = batch.source(self.source.name, self.source.title)
            documents = batch.documents(source, [f.document for f in filings], packed)
            pairs = list(zip(documents, filings, strict=True))
            batch.add_unmapped(number, [(d, f.unmapped) for d, f in pairs])
            figures = Figures.joined([f.facts for f in filings])
            of_each = [d for d, f in pairs for _ in range(len(f.facts))]
            added = batch.add_figures(source, [number] * len(figures), of_each, figures)
            whole = added == len(figures)
            examine_new(batch, [number], ITEMS, found.beforehand if whole else None)
            if added:
                outcome = replace(outcome, state="stored", facts=added)
            if refused := batch.refused.get(number):
                outcome = replace(
                    outcome, reason="; ".join(filter(None, (outcome.reason, in_words(refused))))
                )
            if batch.anything_new:
                outcome = replace(outcome, batch=batch.number)
            if self.run_id is not None:
                batch.note_outcome(self.run_id, outcome, self.ledger.now())
            if marks := self._marks(company, found):
                batch.remember(self.source.name, marks)
        return outcome

    def _marks(self, company: CompanyRecord, found: FilingsFound) -> dict[str, str]:
        """Up to where the source was asked for the filings of a company."""
        return {f"filings {company.key}": found.mark} if found.mark and not self.asked.since else {}

    def _remembered(self, name: str) -> str | None:
        with self.ledger.database.read() as connection:
            return operations.remembered(connection, self.source.name, name)

    def _remember(self, marks: dict[str, str]) -> None:
        with self.ledger.database.write() as connection:
            operations.remember(connection, self.source.name, marks)


class _Fetched(NamedTuple):
    """A company's filings, their bytes as they will be kept, and how many requests it took."""

    found: FilingsFound
    packed: list[Packed]
    tries: int


Ahead = deque[tuple[CompanyRecord, "Future[_Fetched]"]]
"""Companies that were asked for, and their answers, in the order in which they are stored."""


def check_filing(filing: FilingRecord, now: datetime) -> None:
    """Refuse a filing from the future: what is wrong with single figures,
    checks find when they are kept (Q1).
    """
    published = filing.document.published_at
    if published is not None and published > now + _SKEW:
        problem = "it says it is published in the future: the source's clock or ours is wrong"
        raise bad_figure(filing.document.title, f"{published:%Y-%m-%d %H:%M}", problem)


def in_one_sentence(error: LedgerError) -> str:
    """An error as the reason of an outcome: its first problem, and how many more there are."""
    problem, *more = error.problems
    first = f"{problem.problem}: {problem.value} ({problem.at}); {problem.mend}"
    return f"{first}; and {counted(len(more), 'problem')} more" if more else first
