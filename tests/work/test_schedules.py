"""Schedules kept, held, removed, due and missed in any order, while sources come and go: each is
due when its words say, nothing keeps the service from starting, and nobody who asks for data is
refused because of them.

By hand: `STEPS=2000 SEED=5 python -m tests tests.work.test_schedules`.
"""

import logging
import os
import tempfile
import unittest
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any

from wise_ledger.core.errors import LedgerError
from wise_ledger.sources.protocol import OpenSource
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import OPEN, Asked
from wise_ledger.work.notices import Post
from wise_ledger.work.runs import Runs
from wise_ledger.work.schedules import Schedules, Timing

STEPS = int(os.environ.get("STEPS", "160"))
SEED = int(os.environ.get("SEED", "7"))
WEEK = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
NAMES = ("one", "two", "three", "four")
UNITS = {"min": 1, "h": 60, "d": 1440}
WRONG = (
    Timing(every="0h"), Timing(every="٣h"), Timing(every="1e9d"), Timing(at=("25:00",)),
    Timing(at=("٠٢:30",)), Timing(every="1h", at=("02:30",)), Timing(at=("02:30",), days="sun-"),
    Timing(at=("02:30",), days=""), Timing(at=("02:30",), days="mon-tue-wed"), Timing(days="mon"),
    Timing(at=("02:30",) * 99), Timing(at=("02:30",), days="Monday"), Timing(older_than="-1d"),
    Timing(every=""),
)  # fmt: skip


def opens() -> Any:
    raise AssertionError("nothing is collected here")


@dataclass
class Model:
    """A schedule as its words say it."""

    timing: Timing
    made: datetime
    paused: bool = False

    def due(self, now: datetime) -> datetime | None:
        """By looking at one minute after the other; every so often, at one turn after the other."""
        if self.paused or not (self.timing.every or self.timing.at):
            return None
        if self.timing.every:
            unit = self.timing.every.lstrip("0123456789")
            step = timedelta(minutes=int(self.timing.every.removesuffix(unit)) * UNITS[unit])
            turn = self.made + step
            while turn < now:
                turn += step
            return turn
        minute = now.replace(second=0, microsecond=0) + timedelta(minutes=now.second > 0)
        minute += timedelta(minutes=now.second == 0 and now.microsecond > 0)
        while not (f"{minute:%H:%M}" in self.timing.at and self.on(minute.weekday())):
            minute += timedelta(minutes=1)
        return minute

    def on(self, day: int) -> bool:
        for part in self.timing.days.split(","):
            first, _, last = part.partition("-")
            at, end = WEEK.index(first), WEEK.index(last or first)
            while at != end:  # over the week's end, if need be
                if at == day:
                    return True
                at = (at + 1) % 7
            if at == day:
                return True
        return False


class AnyOrder(unittest.TestCase):
    def setUp(self) -> None:
        logging.getLogger("wise_ledger.work.schedules").setLevel(logging.CRITICAL)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        # ahead of the true clock, so that none is due by itself meanwhile
        self.now = datetime.now(UTC) + timedelta(days=1)
        self.ledger = Ledger(Path(folder.name) / "ledger.sqlite", lambda: self.now)
        self.addCleanup(self.ledger.close)
        self.known: dict[str, OpenSource] = dict.fromkeys(("fernmark", "tolvane"), opens)
        self.runs = Runs(self.ledger, dict(self.known))
        self.schedules = Schedules(self.ledger, self.runs, Post())
        self.schedules.start()
        self.addCleanup(lambda: self.schedules.stop())
        self.models: dict[str, Model] = {}

    def test_each_is_due_when_its_words_say_whatever_happens_in_between(self) -> None:
        random, steps = Random(SEED), 0
        taken = refused = missed = 0
        acts = (
            self.keep, self.keep, self.keep_wrong, self.hold, self.remove, self.run_now,
            self.end_runs, self.comes_due, self.goes, self.somebody_asks, self.restart,
            self.restart,
        )  # fmt: skip
        for steps in range(STEPS):
            act = random.choice(acts)
            before = len(self.runs.newest(10_000))
            with self.subTest(f"step {steps}: {act.__name__}"):
                try:
                    act(random)
                    taken += 1
                except LedgerError as error:  # said in words, with the mend, to who asked for it
                    self.assertIn(
                        act, (self.keep, self.keep_wrong, self.hold, self.remove, self.run_now)
                    )
                    self.assertTrue(all(p.problem and p.mend for p in error.problems), error)
                    refused += 1
                if act == self.restart:
                    missed += len(self.runs.newest(10_000)) - before
                self.holds()
            self.now += timedelta(
                minutes=random.choice((0, 0, 7, 60, 1440)), seconds=random.randrange(60)
            )
        self.assertTrue(taken > STEPS / 3 and refused and missed, (taken, refused, missed))

    def holds(self) -> None:
        seen = {s.name: s for s in self.schedules.all()}
        self.assertEqual(seen.keys(), self.models.keys())
        for name, model in self.models.items():
            self.assertEqual((seen[name].timing, seen[name].paused), (model.timing, model.paused))
            there = seen[name].asked.source in self.runs.sources
            self.assertEqual(seen[name].problem is None, there)
            if (due := seen[name].next_at) is not None and due >= self.now:
                self.assertEqual(due, model.due(self.now), (model, self.now))
            else:  # none, or nobody has looked since it was due
                self.assertTrue((due is None) is (model.due(self.now) is None), (due, model))

    def keep(self, random: Random) -> None:
        unit = random.choice(list(UNITS))
        at = tuple(
            f"{random.randrange(24):02}:{random.choice((0, 7, 30)):02}"
            for _ in range(random.randint(1, 3))
        )
        days = random.choice(
            ("mon-sun", "mon-fri", "fri-mon", "sun", "tue,thu", "sat-sun,wed", "sun-sat")
        )
        timing = random.choice(
            (
                Timing(every=f"{random.choice((7, 90, 800) if unit == 'min' else (1, 5))}{unit}"),
                Timing(at=at, days=days),
                Timing(older_than="1d"),
                Timing(),
            )
        )
        name, source = (
            random.choice(NAMES),
            random.choice(("fernmark", "fernmark", "tolvane", "nobody")),
        )
        self.schedules.keep(name, Asked(source), timing, (), "Ada")
        self.models[name] = Model(timing, self.now)

    def keep_wrong(self, random: Random) -> None:
        self.schedules.keep("wrong", Asked("fernmark"), random.choice(WRONG), (), "Ada")

    def hold(self, random: Random) -> None:
        name, paused = random.choice(NAMES), random.random() < 0.5
        self.schedules.pause(name, paused=paused)
        self.models[name].paused = paused

    def remove(self, random: Random) -> None:
        name = random.choice(NAMES)
        self.schedules.remove(name)
        del self.models[name]

    def run_now(self, random: Random) -> None:
        run = self.schedules.run_now(random.choice(NAMES))
        self.assertEqual(run.state, "queued")

    def end_runs(self, random: Random) -> None:
        for run in self.runs.newest(10_000):
            if run.state in OPEN and random.random() < 0.7:
                self.runs.cancel(run.id)

    def comes_due(self, random: Random) -> None:
        """The clock rings for one, as it does at the instant that it was set for."""
        due = sorted((s.next_at, s.name) for s in self.schedules.all() if s.next_at)
        if due and due[0][0] >= self.now:
            self.now = due[0][0]
            self.brings({due[0][1]}, lambda: self.schedules._due(due[0][1]))
            self.now += timedelta(seconds=1)
            after = self.schedules.find(due[0][1]).next_at
            self.assertTrue(after is not None and after > self.now, after)

    def goes(self, random: Random) -> None:
        """A source leaves the settings, or comes back."""
        self.runs.sources = {k: v for k, v in self.known.items() if random.random() < 0.6}

    def somebody_asks(self, random: Random) -> None:
        self.now += timedelta(seconds=6)
        old = {
            s.name
            for s in self.schedules.all()
            if s.timing.older_than
            and not s.paused
            and (s.last is None or (s.last.ended_at and self.now - s.last.ended_at > timedelta(1)))
        }
        self.brings(old, self.schedules.somebody_asked)

    def restart(self, random: Random) -> None:
        self.schedules.stop()
        self.now += timedelta(minutes=random.choice((1, 600, 5000)))
        missed = {s.name for s in self.schedules.all() if s.next_at and s.next_at <= self.now}
        self.schedules = Schedules(self.ledger, self.runs, Post())
        self.brings(missed, self.schedules.start)

    def brings(self, names: set[str], act: Callable[[], None]) -> None:
        """Each of these that can run and is not running is queued once, and nothing else."""
        due = {
            s.id
            for s in self.schedules.all()
            if s.name in names
            and s.problem is None
            and (s.last is None or s.last.state not in OPEN)
        }
        before = {run.id for run in self.runs.newest(10_000)}
        act()
        fresh = [run.schedule for run in self.runs.newest(10_000) if run.id not in before]
        self.assertEqual(sorted(fresh), sorted(due))


if __name__ == "__main__":
    unittest.main()
