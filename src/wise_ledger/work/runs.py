"""Long work: queued in the ledger's file, done by one thread, taken up again after a crash."""

import logging
import threading
from collections.abc import Mapping
from dataclasses import dataclass

from wise_ledger.core.errors import LedgerError, Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.sources.protocol import OpenSource
from wise_ledger.store import operations
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import Outcome, Run
from wise_ledger.work import NotFound, lists
from wise_ledger.work.collect import Collection, in_one_sentence

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class RunReport:
    """A run with the outcome of each company so far."""

    run: Run
    outcomes: tuple[Outcome, ...]


class Runs:
    """Queues collections and works them off, one after the other; `sources` opens each source by its name."""

    def __init__(self, ledger: Ledger, sources: Mapping[str, OpenSource]) -> None:
        self._ledger = ledger
        self.sources = sources
        self._wake = threading.Event()
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._work, name="runs", daemon=True)

    def start(self) -> None:
        """Begin, first with what an earlier process left open."""
        self._thread.start()

    def stop(self) -> None:
        """End after the company at hand; what is left goes on at the next start."""
        self._stop.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join()

    def collect(self, source: str, list_name: str | None, request_key: str | None = None) -> Run:
        """Queue a collection, once for each `request_key`; raises `NotFound`, or `BadInput` for a rule's list."""
        if source not in self.sources:
            mend = mend_for(source, self.sources)
            raise NotFound(Problem("source", source, "there is no source of this name", mend))
        if list_name is not None and lists.find_list(self._ledger, list_name).rule is not None:
            mend = "collect for everybody, or for a list of named companies"
            raise bad_input("list", list_name, "a list kept by a rule names nobody to collect for", mend)
        with self._ledger.database.write() as connection:
            run = operations.add_run(connection, "collection", source, list_name, self._ledger.now(), request_key)
        self._wake.set()
        return self.report(run).run

    def report(self, run: int) -> RunReport:
        """A run with its outcomes; raises `NotFound`."""
        with self._ledger.database.read() as connection:
            found = operations.find_run(connection, run)
            if found is None:
                raise NotFound(Problem("run", str(run), "there is no run of this number", "list the runs"))
            return RunReport(found, tuple(operations.outcomes_of(connection, run)))

    def newest(self, limit: int) -> list[Run]:
        """The newest runs first."""
        with self._ledger.database.read() as connection:
            return operations.newest_runs(connection, limit)

    def _work(self) -> None:
        while not self._stop.is_set():
            self._wake.clear()
            with self._ledger.database.read() as connection:
                waiting = operations.open_runs(connection)
            if not waiting:
                self._wake.wait()
                continue
            try:
                self._collect(waiting[0])
            except Exception as error:
                log.exception("run %s failed", waiting[0].id)
                self._end(waiting[0].id, "failed", str(error))

    def _collect(self, run: Run) -> None:
        before = self.report(run.id).outcomes
        if run.source not in self.sources:
            self._end(run.id, "failed", f"the source {run.source} is not in the settings any more")
            return
        self._set(run.id, state="running")
        source = self.sources[run.source]()
        try:
            collection = Collection(
                self._ledger, source, lambda outcome, total: self._note(run.id, outcome, total), self._stop.is_set
            )
            # What failed before the crash is tried again; what was stored is not even looked at.
            collection.run(run.list, {o.subject for o in before if o.state != "failed"})
        except LedgerError as error:
            stored = any(o.state != "failed" for o in self.report(run.id).outcomes)
            self._end(run.id, "partly_finished" if stored else "failed", in_one_sentence(error))
            return
        finally:
            source.close()
        if self._stop.is_set():
            return
        outcomes = self.report(run.id).outcomes
        failed = [o for o in outcomes if o.state == "failed"]
        state = "finished" if not failed else "failed" if len(failed) == len(outcomes) else "partly_finished"
        problem = f"{len(failed)} of {len(outcomes)} companies failed" if failed else None
        self._end(run.id, state, problem)

    def _set(self, run: int, **values: object) -> None:
        with self._ledger.database.write() as connection:
            operations.set_run(connection, run, **values)

    def _note(self, run: int, outcome: Outcome, total: int) -> None:
        with self._ledger.database.write() as connection:
            operations.add_outcome(connection, run, outcome, self._ledger.now())
            operations.set_run(connection, run, total=total)

    def _end(self, run: int, state: str, problem: str | None) -> None:
        self._set(run, state=state, problem=problem, ended_at=self._ledger.now())
