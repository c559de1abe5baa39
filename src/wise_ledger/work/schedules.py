"""Collections at set times: every so often, at times of day, on demand,
or when data older than a limit is asked for.

What was missed while the service was down runs once after it is up again.
"""

import json
import logging
import re
import threading
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from apscheduler.schedulers.background import BackgroundScheduler
from apscheduler.triggers.combining import OrTrigger
from apscheduler.triggers.cron import CronTrigger
from apscheduler.triggers.interval import IntervalTrigger
from sqlalchemy.exc import IntegrityError

from wise_ledger.core.errors import LedgerError, Problem, bad_input
from wise_ledger.store import schedulekeeping
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import OPEN, Asked, Run
from wise_ledger.store.schedulekeeping import ScheduleRow
from wise_ledger.work import NotFound
from wise_ledger.work.collect import in_one_sentence
from wise_ledger.work.kept import check_name
from wise_ledger.work.notices import Post
from wise_ledger.work.runs import Runs

log = logging.getLogger(__name__)
_SPAN = re.compile(r"([0-9]{1,4})(min|h|d)")
_UNITS = {"min": timedelta(minutes=1), "h": timedelta(hours=1), "d": timedelta(days=1)}
_TIME = re.compile(r"([01][0-9]|2[0-3]):([0-5][0-9])")
_WEEK = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
_TURNS = 48  # times of a day
_LOOK_AGAIN = timedelta(seconds=5)  # between two looks at the age of the data


@dataclass(frozen=True)
class Timing:
    """One of: `every` a span (30min, 6h, 1d), `at` times of day (UTC) on `days`,
    `older_than` a span; or on demand.
    """

    every: str | None = None
    at: tuple[str, ...] = ()
    days: str = "mon-sun"
    older_than: str | None = None

    def check(self) -> None:
        """Raises `BadInput`."""
        given = [name for name in ("every", "at", "older_than") if getattr(self, name)]
        if len(given) > 1:
            raise bad_input(
                "timing",
                " and ".join(given),
                "a schedule has one kind of timing",
                "make two schedules",
            )
        for name in ("every", "older_than"):
            if (text := getattr(self, name)) is not None:
                span(text, name)
        for time in self.at:
            if not _TIME.fullmatch(time):
                raise bad_input("at", time, "this is no time of day", "write HH:MM, UTC")
        if len(self.at) > _TURNS:
            mend = f"name at most {_TURNS}, or collect every so often (every)"
            raise bad_input("at", len(self.at), "these are too many times of a day", mend)
        self.weekdays()
        if self.days != Timing.days and not self.at:
            mend = "say at what time (at), or leave the days out"
            raise bad_input("days", self.days, "only times of day have days of the week", mend)

    def weekdays(self) -> tuple[str, ...]:
        """The days of the week that `days` names, from Monday on; `fri-mon` goes over the week's
        end. Raises `BadInput`.
        """
        named = set[int]()
        for part in self.days.split(","):
            ends = [_WEEK.index(day) for day in part.split("-") if day in _WEEK]
            if len(ends) != part.count("-") + 1 or len(ends) > 2:
                problem, mend = "these are no days of the week", "write mon-fri, or mon,thu"
                raise bad_input("days", self.days, problem, mend)
            named |= {(ends[0] + n) % 7 for n in range((ends[-1] - ends[0]) % 7 + 1)}
        return tuple(_WEEK[n] for n in sorted(named))

    def trigger(self, began: datetime) -> IntervalTrigger | OrTrigger | None:
        """When it fires; None where somebody must ask."""
        if self.every is not None:
            length = span(self.every, "every")
            return IntervalTrigger(
                seconds=int(length.total_seconds()), start_date=began + length, timezone=UTC
            )
        if self.at:
            times, days = (time.split(":") for time in self.at), ",".join(self.weekdays())
            return OrTrigger(
                [CronTrigger(day_of_week=days, hour=h, minute=m, timezone=UTC) for h, m in times]
            )
        return None


@dataclass(frozen=True)
class Schedule:
    """A schedule with its last run, when it is due next, and why it cannot run if so."""

    id: int
    name: str
    asked: Asked
    timing: Timing
    notify: tuple[str, ...]
    who: str
    paused: bool
    created_at: datetime
    next_at: datetime | None
    last: Run | None
    problem: str | None


def span(text: str, at: str) -> timedelta:
    """A span of time; raises `BadInput`."""
    found = _SPAN.fullmatch(text)
    if found is None or not int(found[1]):
        raise bad_input(at, text, "this is no span of time", "write 30min, 6h or 1d")
    return int(found[1]) * _UNITS[found[2]]


class Schedules:
    """Keeps schedules and queues their runs when they are due."""

    def __init__(self, ledger: Ledger, runs: Runs, post: Post) -> None:
        self._ledger = ledger
        self._post = post
        self._runs = runs
        self._clock = BackgroundScheduler(timezone=UTC)
        self._lock = threading.Lock()
        self._looked: datetime | None = None

    def start(self) -> None:
        """Begin; what was missed runs once, now."""
        self._clock.start()
        for schedule in self.all():
            try:
                if schedule.next_at is not None and schedule.next_at <= self._ledger.now():
                    self._queue(schedule)
                self._arm(schedule)
            except LedgerError:  # one that cannot be read keeps nothing else from beginning
                log.exception("schedule %s", schedule.name)

    def stop(self) -> None:
        """End; nothing more is queued."""
        if self._clock.running:
            self._clock.shutdown(wait=True)

    def keep(
        self, name: str, asked: Asked, timing: Timing, notify: tuple[str, ...], who: str
    ) -> Schedule:
        """Keep a new schedule; raises `BadInput` and `NotFound`."""
        check_name(name, "schedule", "every-night")
        if not who.strip():
            raise bad_input("who", "", "it is empty", "say who keeps the schedule")
        timing.check()
        for target in notify:
            self._post.check(target)
        self._runs.check(asked)
        times = json.dumps({k: v for k, v in timing.__dict__.items() if v})
        now = self._ledger.now()
        try:
            with self._ledger.database.write() as connection:
                text = json.dumps({**json.loads(asked.text()), "source": asked.source})
                schedulekeeping.add_schedule(
                    connection, name, text, times, json.dumps(notify), who.strip(), now
                )
        except IntegrityError:
            raise bad_input(
                "name", name, "there is a schedule of this name", "choose another, or remove it"
            ) from None
        schedule = self.find(name)
        self._arm(schedule)
        return self.find(name)

    def all(self) -> list[Schedule]:
        """Every schedule by name."""
        with self._ledger.database.read() as connection:
            rows = schedulekeeping.all_schedules(connection)
        return [self._read(row) for row in rows]

    def find(self, name: str) -> Schedule:
        """One schedule; raises `NotFound`."""
        found = next((s for s in self.all() if s.name == name), None)
        if found is None:
            raise NotFound(
                Problem("schedule", name, "there is no schedule of this name", "list the schedules")
            )
        return found

    def run_now(self, name: str) -> Run:
        """Queue its collection now."""
        schedule = self.find(name)
        return self._runs.collect(schedule.asked, schedule=schedule.id)

    def pause(self, name: str, *, paused: bool) -> Schedule:
        """Hold a schedule, or let it go on."""
        schedule = self.find(name)
        with self._ledger.database.write() as connection:
            schedulekeeping.set_schedule(connection, schedule.id, paused=paused)
        self._arm(self.find(name))
        return self.find(name)

    def remove(self, name: str) -> None:
        """Forget a schedule; its runs stay."""
        schedule = self.find(name)
        if self._clock.get_job(str(schedule.id)):
            self._clock.remove_job(str(schedule.id))
        with self._ledger.database.write() as connection:
            schedulekeeping.remove_schedule(connection, schedule.id)

    def somebody_asked(self) -> None:
        """Data is asked for: schedules whose data is older than their limit are due."""
        now = self._ledger.now()
        with self._lock:
            if self._looked is not None and now - self._looked < _LOOK_AGAIN:
                return
            self._looked = now
        for schedule in self.all():
            limit = schedule.timing.older_than
            if limit is None or schedule.paused:
                continue
            last = schedule.last
            ended = last.ended_at if last is not None else None
            if last is None or (ended is not None and now - ended > span(limit, "older_than")):
                self._queue(schedule)

    def targets(self, run: Run) -> tuple[str, ...]:
        """Who is notified of a run's end."""
        return next((s.notify for s in self.all() if s.id == run.schedule), ())

    def _read(self, row: ScheduleRow) -> Schedule:
        asked = Asked.read(json.loads(row.asked)["source"], row.asked)
        timing = json.loads(row.timing)
        last = self._runs.newest(1, row.id)
        return Schedule(
            row.id,
            row.name,
            asked,
            Timing(**{**timing, "at": tuple(timing.get("at", ()))}),
            tuple(json.loads(row.notify)),
            row.who,
            row.paused,
            row.created_at,
            row.next_at if not row.paused else None,
            last[0] if last else None,
            self._problem(asked),
        )

    def _problem(self, asked: Asked) -> str | None:
        """Why it cannot run any more: its source left the settings, or its list has a rule."""
        try:
            self._runs.check(asked)
        except LedgerError as error:
            return in_one_sentence(error)
        return None

    def _arm(self, schedule: Schedule) -> None:
        """Set the clock, and remember when it is due."""
        job = str(schedule.id)
        if self._clock.get_job(job):
            self._clock.remove_job(job)
        trigger, due = self._next(schedule, self._ledger.now())
        if due is not None:
            self._clock.add_job(
                self._due,
                trigger,
                [schedule.name],
                id=job,
                next_run_time=due,
                coalesce=True,
                misfire_grace_time=None,
            )
        with self._ledger.database.write() as connection:
            schedulekeeping.set_schedule(connection, schedule.id, next_at=due)

    def _next(
        self, schedule: Schedule, after: datetime
    ) -> tuple[IntervalTrigger | OrTrigger | None, datetime | None]:
        """What sets its clock, and when it is due next, at an instant or after it."""
        trigger = schedule.timing.trigger(schedule.created_at)
        if trigger is None or schedule.paused:
            return trigger, None
        return trigger, trigger.get_next_fire_time(None, after)

    def _due(self, name: str) -> None:
        try:
            schedule = self.find(name)
            if schedule.paused:  # in this very moment
                return
            self._queue(schedule)
            _, due = self._next(schedule, self._ledger.now() + timedelta(seconds=1))
            with self._ledger.database.write() as connection:
                schedulekeeping.set_schedule(connection, schedule.id, next_at=due)
        except Exception:
            log.exception("schedule %s", name)

    def _queue(self, schedule: Schedule) -> None:
        """Its collection, unless the last one is still going on, or it cannot run."""
        if schedule.problem is not None:
            log.warning("schedule %s cannot run: %s", schedule.name, schedule.problem)
        elif schedule.last is None or schedule.last.state not in OPEN:
            self._runs.collect(schedule.asked, schedule=schedule.id)
