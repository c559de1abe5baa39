"""Long work: queued in the ledger's file, done by a few threads, taken up again after a crash.

Collections of one source go on side by side and share its budget; one can be paused, resumed and
cancelled, and what it stored stays. When one ends, `ended` is called. Other long work is done by a
thread of its own (`longwork`), each kind by what `work` has for it: it can be cancelled, and begins
again where the service was stopped.
"""

import json
import logging
import threading
import time
from collections import deque
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from wise_ledger.core.errors import LedgerError, Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.sources.errors import SourceStopped
from wise_ledger.sources.protocol import OFFERS, OpenSource, Source
from wise_ledger.store import digestreading, operations, reading
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import COLLECTION, Asked, Outcome, Run, Tally
from wise_ledger.words import counted
from wise_ledger.work import NotFound, lists, mappings
from wise_ledger.work.collect import Collection, in_one_sentence
from wise_ledger.work.longwork import Answers, Halted, Work
from wise_ledger.work.planning import Plan, plan

log = logging.getLogger(__name__)
CONFIRM_ABOVE = 2_000  # calls
_WORKERS = 3
_SECONDS = 0.5  # between two notes of how far a run is, where nothing else is to be noted


@dataclass(frozen=True)
class RunReport:
    """A run, its outcomes counted, and until when its source is left alone if it is."""

    run: Run
    tally: Tally
    waits_until: datetime | None = None
    done: int = 0
    total: int | None = None
    records: dict[str, int] = field(default_factory=dict)  # other than facts, by kind in words


class Runs:
    """Queues collections and works them off; `sources` opens each source by its name."""

    def __init__(
        self, ledger: Ledger, sources: Mapping[str, OpenSource], confirm_above: int = CONFIRM_ABOVE
    ) -> None:
        self._ledger = ledger
        self.sources = sources
        self.confirm_above = confirm_above
        self.ended: Callable[[int], None] = lambda run: None
        self.work: Mapping[str, Work] = {}
        self._answers = Answers(ledger.database.path.parent / "answers", ledger.now)
        self._steps: dict[int, tuple[int, int]] = {}
        self._records: dict[int, dict[str, int]] = {}  # by batch, which never changes
        self._without_digest = deque[int]()
        self._wake = threading.Condition()
        self._stop = threading.Event()
        self._halted: set[int] = set()  # to be left after the company at hand
        self._taken: dict[int, Source | None] = {}
        kinds = [*[(COLLECTION, True)] * _WORKERS, (COLLECTION, False)]
        self._threads = [
            threading.Thread(target=self._work, args=which, name=f"runs-{n}", daemon=True)
            for n, which in enumerate(kinds)
        ]

    def start(self) -> None:
        """Begin with what an earlier process left: runs that ended without a digest,
        then those not at their end.
        """
        with self._ledger.database.read() as connection:
            self._without_digest.extend(operations.runs_without_digest(connection))
        for thread in self._threads:
            thread.start()

    def stop(self) -> None:
        """End after the company at hand; what is left goes on at the next start."""
        self._stop.set()
        with self._wake:
            self._wake.notify_all()
            asked = [source for source in self._taken.values() if source is not None]
        for source in asked:
            # A source that answers for ever, or one byte a second, does not keep us.
            getattr(source, "abandon", lambda: None)()
        for thread in self._threads:
            if thread.is_alive():
                thread.join()

    def plan(self, asked: Asked) -> Plan:
        """What a collection will take; raises what `collect` does, and `SourceError`."""
        self.check(asked)
        source = self.open(asked.source)
        try:
            return plan(self._ledger, source, asked, self.confirm_above)
        finally:
            self._close(source)

    def collect(
        self,
        asked: Asked,
        *,
        request_key: str | None = None,
        confirmed: bool = True,
        schedule: int | None = None,
    ) -> Run:
        """Queue a collection, once for each `request_key`; raises `NotFound`, or `BadInput`.

        Unless `confirmed`, one that takes more calls than `confirm_above` is refused.
        """
        self.check(asked)
        if not confirmed and (found := self.plan(asked)).needs_confirmation:
            problem = f"it takes {found.calls:,} calls, about {found.seconds:,.0f} s"
            raise bad_input("confirmed", False, problem, "confirm it (--yes), or collect for fewer")
        with self._ledger.database.write() as connection:
            now = self._ledger.now()
            run = operations.add_run(
                connection, asked, now, request_key=request_key, schedule=schedule
            )
        self._notify()
        return self.report(run).run

    def queue(
        self, kind: str, title: str, given: Mapping[str, Any], *, request_key: str | None = None
    ) -> Run:
        """Queue long work of a kind that `work` has, once for each `request_key`;
        `title` is what people see.
        """
        with self._ledger.database.write() as connection:
            now, text = self._ledger.now(), json.dumps(given, default=str)
            run = operations.add_work(connection, kind, title, text, now, request_key)
        self._notify()
        return self.report(run).run

    def answer(self, run: int) -> tuple[str, Mapping[str, Any]]:
        """The kind of long work and what it answered; raises what the work
        raised, and `NotFound`.
        """
        found = self.report(run).run
        return found.kind, self._answers.find(found.id)

    def again(self, run: int, *, request_key: str | None = None) -> Run:
        """Queue what failed in a run: the companies alone, or where a part broke, or it ended
        before its time, all of it: what the ledger has already is not asked for again.
        """
        report = self.report(run)
        before = report.run
        if before.problem and before.problem != _failures(report.tally):
            return self.collect(before.asked, request_key=request_key)
        failed = tuple(o.subject for o in self.outcomes(run) if o.state == "failed")
        if not failed:
            raise bad_input("run", run, "no company failed in it", "collect again instead")
        return self.collect(
            replace(before.asked, list=None, subjects=failed, failed_of=run),
            request_key=request_key,
        )

    def pause(self, run: int) -> Run:
        """Hold a collection after the company at hand."""
        if self.report(run).run.kind != COLLECTION:
            raise bad_input(
                "run", run, "only a collection can be held", "cancel it, and ask again later"
            )
        return self._turn(run, ("queued", "running"), "paused")

    def resume(self, run: int) -> Run:
        """Go on with a paused run."""
        return self._turn(run, ("paused",), "queued")

    def cancel(self, run: int) -> Run:
        """End a run; what it stored stays."""
        return self._turn(run, ("queued", "running", "paused"), "cancelled")

    def subjects(
        self, source: str, companies: tuple[str, ...], number: Callable[[str], int]
    ) -> tuple[str, ...]:
        """The source's own keys of companies named by any identifier; raises `NotFound`."""
        with self._ledger.database.read() as connection:
            keys = {
                n: key for key, (n, _) in reading.companies_of_source(connection, source).items()
            }
        out = []
        for company in companies:
            found = number(company)
            if found not in keys:
                raise NotFound(
                    Problem("companies", company, f"{source} has no such company", "name another")
                )
            out.append(keys[found])
        return tuple(out)

    def report(self, run: int) -> RunReport:
        """A run with its outcomes counted; raises `NotFound`."""
        with self._ledger.database.read() as connection:
            found = operations.find_run(connection, run)
            if found is None:
                raise NotFound(
                    Problem("run", str(run), "there is no run of this number", "list the runs")
                )
            source = self._taken.get(run)
            until = source.budget.left_alone_until if source is not None else None
            tally = operations.tally(connection, run)
            if found.batch and found.batch not in self._records:
                self._records[found.batch] = digestreading.new_records(connection, [found.batch])
        if found.kind == COLLECTION:
            records = self._records.get(found.batch or 0, {})
            return RunReport(found, tally, until, tally.done, found.total, records)
        done, total = self._steps.get(run) or (found.done, found.total)
        return RunReport(found, tally, until, done, total)

    def outcomes(self, run: int) -> list[Outcome]:
        """The outcome of each company of a run so far."""
        with self._ledger.database.read() as connection:
            return operations.outcomes_of(connection, run)

    def newest(
        self, limit: int, schedule: int | None = None, *, before: int | None = None
    ) -> list[Run]:
        """The newest runs first, those before one of them."""
        with self._ledger.database.read() as connection:
            return operations.newest_runs(connection, limit, schedule, before=before)

    def opener(self, source: str) -> OpenSource:
        """What opens a source; raises `NotFound`."""
        if source not in self.sources:
            mend = mend_for(source, self.sources)
            raise NotFound(Problem("source", source, "there is no source of this name", mend))
        return self.sources[source]

    def check(self, asked: Asked) -> None:
        """Refuse what cannot be collected; raises `NotFound` and `BadInput`."""
        self.opener(asked.source)
        for what in asked.what:
            if what not in OFFERS:
                raise bad_input("what", what, "no source gives this", mend_for(what, OFFERS))
        if not asked.what:
            raise bad_input("what", "", "nothing is asked for", f"name some of {', '.join(OFFERS)}")
        if asked.list is not None and lists.find_list(self._ledger, asked.list).rule is not None:
            mend = "collect for everybody, or for a list of named companies"
            raise bad_input(
                "list", asked.list, "a list kept by a rule names nobody to collect for", mend
            )

    def _turn(self, run: int, states: tuple[str, ...], to: str) -> Run:
        with self._wake:
            now = self.report(run).run
            if now.state not in states:
                raise bad_input(
                    "run",
                    run,
                    f"it is {now.state.replace('_', ' ')}",
                    f"only {' or '.join(states)} can",
                )
            ended = {"ended_at": self._ledger.now()} if to == "cancelled" else {}
            if to == "queued":
                self._halted.discard(run)
            # first: it may hold the write transaction that the next line waits for
            elif run in self._taken:
                self._halted.add(run)
            self._set(run, state=to, **ended)
        self._notify()
        return self.report(run).run

    def _notify(self) -> None:
        with self._wake:
            self._wake.notify_all()

    def _work(self, kind: str, of_it: bool) -> None:
        while True:
            with self._wake:
                run, without_digest = (
                    None,
                    self._without_digest.popleft() if of_it and self._without_digest else None,
                )
                while (
                    without_digest is None
                    and not self._stop.is_set()
                    and (run := self._next(kind, of_it)) is None
                ):
                    self._wake.wait(1.0)
                if self._stop.is_set():
                    return
                if run is not None:
                    self._taken[run.id] = None
                    self._halted.discard(run.id)
            if run is None:
                self._quietly(self.ended, without_digest)
                continue
            try:
                if self._begun(run):
                    self._collect(run) if of_it else self._answered(run)
            except Exception as error:
                log.exception("run %s failed", run.id)
                self._quietly(self._end, run.id, "failed", str(error))
            finally:
                with self._wake:
                    self._taken.pop(run.id, None)
            if (
                of_it
                and not self._stop.is_set()
                and self._state(run.id) in ("finished", "partly_finished", "failed")
            ):
                self._quietly(self.ended, run.id)

    def _begun(self, run: Run) -> bool:
        """Whether it is still to be done: who cancels it while it is taken has the last word."""
        with self._ledger.database.write() as connection:
            return operations.begin_run(connection, run.id)

    def _next(self, kind: str, of_it: bool) -> Run | None:
        """The oldest that is not taken yet, of a kind or of all others."""
        try:
            with self._ledger.database.read() as connection:
                waiting = (r for r in operations.open_runs(connection) if (r.kind == kind) is of_it)
                return next((r for r in waiting if r.id not in self._taken), None)
        except LedgerError:  # the file is locked or full: try again
            return None
        except Exception:  # nor does anything else end the thread
            log.exception("runs")
            return None

    def _answered(self, run: Run) -> None:
        def step(done: int, total: int) -> None:
            if self._stop.is_set() or run.id in self._halted:
                raise Halted
            if total:
                self._steps[run.id] = (done, total)

        try:
            step(0, 0)
            self._answers.keep(run.id, self.work[run.kind](json.loads(run.given), step))
        except Halted:
            return
        except LedgerError as error:
            self._answers.keep_error(run.id, error)
            self._end(run.id, "failed", in_one_sentence(error))
        else:
            total = self._steps.get(run.id, (0, 1))[1]
            self._set(run.id, done=total, total=total)
            self._end(run.id, "finished", None)
        finally:
            self._steps.pop(run.id, None)

    def _collect(self, run: Run) -> None:
        before = self.outcomes(run.id)
        if run.source not in self.sources:
            self._end(run.id, "failed", f"the source {run.source} is not in the settings any more")
            return
        source = self.open(run.source)
        self._taken[run.id] = source
        noted, noted_at = [0, 0], -_SECONDS

        def note(outcomes: list[Outcome], total: int) -> None:
            nonlocal noted_at
            if (
                outcomes
                and all(o.batch for o in outcomes)
                and time.monotonic() < noted_at + _SECONDS
            ):
                # they stand there since their batches do, and the traffic is counted the next time
                return
            noted_at = time.monotonic()
            asked, came = source.requests - noted[0], source.bytes - noted[1]
            noted[:] = [source.requests, source.bytes]
            with self._ledger.database.write() as connection:
                operations.add_outcomes(connection, run.id, outcomes, self._ledger.now())
                operations.count_traffic(connection, run.id, asked, came)
                operations.set_run(connection, run.id, total=total)

        def stopped() -> bool:
            return self._stop.is_set() or run.id in self._halted

        collection = Collection(self._ledger, source, run.asked, note, stopped, run.id)
        problem = None
        try:
            # What failed before the crash is tried again; what was stored is not even looked at.
            collection.run({o.subject for o in before if o.state != "failed"})
        except SourceStopped:
            pass
        except LedgerError as error:
            problem = in_one_sentence(error)
        finally:
            self._quietly(note, [], self.report(run.id).run.total)
            self._close(source)
        if stopped() and problem is None:
            return
        tally = self.report(run.id).tally
        said = [text for text in (problem, _failures(tally)) if text]
        good = tally.stored + tally.unchanged
        state = "finished" if not said else "partly_finished" if good else "failed"
        self._end(run.id, state, "; ".join(said) or None)

    def open(self, name: str) -> Source:
        """A connection that reads by the mapping of now and knows what was
        used of the quota today.
        """
        source = self.sources[name]()
        source.mapping = source.mapping.with_rules(mappings.rules_of(self._ledger, name))
        with self._ledger.database.read() as connection:
            day, _, used = (operations.remembered(connection, name, "quota") or "").partition(" ")
        if used:
            source.budget.already_used(day, int(used))
        return source

    def _close(self, source: Source) -> None:
        text = f"{self._ledger.now().date().isoformat()} {source.budget.used_today}"
        with self._ledger.database.write() as connection:
            operations.remember(connection, source.name, {"quota": text})
        source.close()

    def _state(self, run: int) -> str:
        try:
            return self.report(run).run.state
        except Exception:  # it is not known, which is no reason to end
            log.exception("run %s", run)
            return ""

    def _quietly(self, work: Callable[..., None], *given: object, **named: object) -> None:
        """What must not end the thread, such as when the disk is full; it is in the log."""
        try:
            work(*given, **named)
        except Exception:
            log.exception("after a run")

    def _set(self, run: int, **values: object) -> None:
        with self._ledger.database.write() as connection:
            operations.set_run(connection, run, **values)

    def _end(self, run: int, state: str, problem: str | None) -> None:
        self._set(run, state=state, problem=problem, ended_at=self._ledger.now())


def _failures(tally: Tally) -> str | None:
    """How many companies failed, in words; None where none did."""
    return f"{tally.failed:,} of {counted(tally.done, 'company')} failed" if tally.failed else None
