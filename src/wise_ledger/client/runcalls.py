"""Calls about long work: collections and their schedules, sources, runs,
and what is answered by a run.
"""

import json
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from datetime import date

from wise_ledger.client.answers import body_of
from wise_ledger.client.errors import ServiceFailed, WiseLedgerError
from wise_ledger.client.found import Found
from wise_ledger.client.given import Words, request_of, segment, several, words
from wise_ledger.client.transport import Transport
from wise_ledger.wire.collecting import (
    ALL_OF_IT,
    Applied,
    CollectionRequest,
    Digest,
    Plan,
    Run,
    Runs,
    Schedule,
    ScheduleRequest,
    Schedules,
    SourceInfo,
    Sources,
    TagRule,
    Tags,
    Timing,
    What,
)
from wise_ledger.wire.ledger import Verification

Progress = Callable[[Run], None]  # called now and then with the run that works on it


class RunCalls:
    """A part of `Ledger`."""

    _transport: Transport

    def collect(
        self,
        source: str,
        list: str | None = None,
        *,
        companies: Words = (),
        what: Sequence[What] = ALL_OF_IT,
        since: date | None = None,
        confirmed: bool = True,
        progress: Progress | None = None,
        every: float = 0.2,
    ) -> Run:
        """Collect from a source into the ledger and wait for the end;
        `progress` is called every so many seconds.

        For everybody, those on a `list`, or `companies` (any identifiers); of what is published
        `since` a day.
        """
        run = self.queue(
            source, list, companies=companies, what=what, since=since, confirmed=confirmed
        )
        return self.wait(run, progress=progress, every=every)

    def queue(
        self,
        source: str,
        list: str | None = None,
        *,
        companies: Words = (),
        what: Sequence[What] = ALL_OF_IT,
        since: date | None = None,
        confirmed: bool = True,
    ) -> Run:
        """Queue a collection and go on; `confirmed=False` refuses one that
        takes more calls than the threshold.
        """
        asked = _collection(source, list, companies, what, since, confirmed)
        return body_of(Run, self._transport.post("/collections", asked.model_dump(mode="json")))

    def plan(
        self,
        source: str,
        list: str | None = None,
        *,
        companies: Words = (),
        what: Sequence[What] = ALL_OF_IT,
        since: date | None = None,
    ) -> Plan:
        """What a collection would take: calls, time, quota."""
        asked = _collection(source, list, companies, what, since, confirmed=True)
        return body_of(
            Plan, self._transport.post("/collections/plans", asked.model_dump(mode="json"))
        )

    def run(self, id: int, *, outcomes: bool = True) -> Run:
        """A run, with the outcome of each company so far."""
        return body_of(Run, self._transport.get(f"/runs/{segment(str(id))}", outcomes=outcomes))

    def runs(self, limit: int | None = 20) -> Found[Run]:
        """The newest runs first, without their outcomes; without a `limit` all."""
        return Found(Run, self._transport.paged("/runs", Runs, "runs", limit, 100).runs)

    def wait(self, run: Run, *, progress: Progress | None = None, every: float = 0.2) -> Run:
        """Wait for a run to end or to be paused; the answer has the outcome of each company."""
        while run.state in ("queued", "running"):
            time.sleep(every)
            run = self.run(run.id, outcomes=False)
            if progress is not None:
                progress(run)
        return self.run(run.id)

    def pause(self, run: int) -> Run:
        """Hold a run after the company at hand."""
        return self._turn(run, "pause")

    def resume(self, run: int) -> Run:
        """Go on with a paused run."""
        return self._turn(run, "resume")

    def cancel(self, run: int) -> Run:
        """End a run; what it stored stays."""
        return self._turn(run, "cancel")

    def try_again(self, run: int) -> Run:
        """Queue what failed in a run, and that alone; where a part broke, the run again."""
        return self._turn(run, "failed")

    def _turn(self, run: int, how: str) -> Run:
        return body_of(Run, self._transport.post(f"/runs/{segment(str(run))}/{how}", None))

    def events(self, run: int) -> Iterator[Run]:
        """A run each time it moves, until it ends."""
        for kind, data in self._transport.events(f"/runs/{segment(str(run))}/events"):
            if kind == "run":
                yield Run.model_validate({**json.loads(data), "outcomes": []})

    def digest(self, run: int) -> Digest:
        """What came in with a run."""
        return body_of(Digest, self._transport.get(f"/digests/{segment(str(run))}"))

    def sources(self) -> Found[SourceInfo]:
        """The sources that can be collected from, with their pace and last run."""
        return Found(SourceInfo, body_of(Sources, self._transport.get("/sources")).sources)

    def resume_source(self, source: str) -> SourceInfo:
        """Ask a source again that is left alone for a while; raises `NotThere`."""
        raw = self._transport.post(f"/sources/{segment(source)}/resume", None)
        return body_of(SourceInfo, raw)

    def tags(self, source: str) -> Tags:
        """What a source's tags mean to us, and those without an item."""
        return body_of(Tags, self._transport.get(f"/sources/{segment(source)}/tags"))

    def map_tag(self, source: str, rule: TagRule, *, progress: Progress | None = None) -> Applied:
        """Say what a source's tag means; the documents already kept are read
        again by it, all of them or none.
        """
        raw = self._transport.post(f"/sources/{segment(source)}/tags", rule.model_dump())
        return body_of(Applied, self._answered(raw, progress))

    def keep_schedule(
        self,
        name: str,
        source: str,
        who: str,
        *,
        timing: Timing | None = None,
        list: str | None = None,
        notify: Words = (),
    ) -> Schedule:
        """Keep a collection at set times; `notify` names mailto:
        and http addresses that hear of a run's end.
        """
        collection = _collection(source, list, (), ALL_OF_IT, None, confirmed=True)
        asked = request_of(
            ScheduleRequest,
            name=name,
            collection=collection,
            timing=timing or Timing(),
            notify=words("notify", notify),
            who=who,
        )
        return body_of(Schedule, self._transport.post("/schedules", asked.model_dump(mode="json")))

    def schedules(self) -> Found[Schedule]:
        """Every schedule: its last run, when it is due next, what changed."""
        return Found(Schedule, body_of(Schedules, self._transport.get("/schedules")).schedules)

    def pause_schedule(self, name: str, *, paused: bool = True) -> Schedule:
        """Hold a schedule, or let it go on."""
        raw = self._transport.patch(f"/schedules/{segment(name)}", {"paused": paused})
        return body_of(Schedule, raw)

    def remove_schedule(self, name: str) -> None:
        """Forget a schedule; its runs stay."""
        self._transport.delete(f"/schedules/{segment(name)}")

    def run_schedule(self, name: str) -> Run:
        """Queue a schedule's collection now."""
        return body_of(Run, self._transport.post(f"/schedules/{segment(name)}/runs", None))

    def verify(self, *, progress: Progress | None = None) -> Verification:
        """Recompute the ledger's hash chain, look for damage, and compare what is derived from it.

        Whoever breaks off here (Ctrl-C) stops the service's work on it too.
        """
        queued = self._transport.post("/batches/verification", None)
        return body_of(Verification, self._answered(queued, progress))

    def _answered(self, queued: bytes, progress: Progress | None) -> bytes:
        """The answer of long work, when it is there."""
        run = body_of(Run, queued)
        try:
            run = self.wait(run, progress=progress, every=0.1)
        except BaseException:  # nobody waits any more
            with suppress(WiseLedgerError):  # it may have ended meanwhile
                self._turn(run.id, "cancel")
            raise
        if run.state == "cancelled":
            raise ServiceFailed(
                "It was stopped",
                f"Run {run.id}, {run.title}, was cancelled before it had an answer.",
            )
        return self._transport.get(f"/runs/{run.id}/answer")


def _collection(
    source: str,
    list_: str | None,
    companies: Words,
    what: Sequence[What],
    since: date | None,
    confirmed: bool,
) -> CollectionRequest:
    return request_of(
        CollectionRequest,
        source=source,
        list=list_,
        companies=words("companies", companies),
        what=several("what", what),
        since=since,
        confirmed=confirmed,
    )
