"""One budget a source: requests a second, a day, at once;
and a circuit breaker for a source that keeps failing.

All runs of a source share its budget, so two of them together ask no more than one would.
"""

import math
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from wise_ledger.sources.errors import busy, stopped

_FAILURES = 8  # in a row, and the source is left alone
_REST = 20.0  # seconds at first, doubled each time up to the longest
_LONGEST_REST = 900.0


@dataclass(frozen=True)
class Pace:
    """What a source allows; None where it does not say."""

    per_second: float | None = None
    per_day: int | None = None
    at_once: int = 4


class Budget:
    """Shared by every connection to one source; safe for many threads.

    `clock` gives seconds, for tests.
    """

    def __init__(
        self,
        pace: Pace,
        *,
        clock: Callable[[], float] = time.monotonic,
        sleep: Callable[[float], None] = time.sleep,
        today: Callable[[], datetime] = lambda: datetime.now(UTC),
    ) -> None:
        self.pace = pace
        self._clock, self._sleep, self._today = clock, sleep, today
        self._lock = threading.Lock()
        self._slots = threading.BoundedSemaphore(pace.at_once)
        self._recent: deque[float] = deque()
        self._used = 0
        self._day = today().date()
        self._failures = 0
        self._rests = 0
        self._open_until: float | None = None
        self._held_until = -math.inf

    @property
    def used_today(self) -> int:
        """Requests made on this day, UTC."""
        with self._lock:
            self._turn_day()
            return self._used

    def already_used(self, day: str, used: int) -> None:
        """Take over the count of an earlier process, if it is of this day."""
        with self._lock:
            self._turn_day()
            if day == self._day.isoformat():
                self._used = max(self._used, used)

    @property
    def left_alone_until(self) -> datetime | None:
        """Until when the source is left alone, if it is."""
        with self._lock:
            if self._open_until is None or self._open_until <= self._clock():
                return None
            return self._today() + timedelta(seconds=self._open_until - self._clock())

    @contextmanager
    def slot(self, where: str, stop: threading.Event | None = None) -> Iterator[None]:
        """One request's turn: waits for its place, until `stop`.

        Raises `SourceBusy` where waiting does not help, and `SourceStopped`.
        """
        while not self._slots.acquire(timeout=0.25):
            _unless(stop, where)
        try:
            self._sleep_for(self._place(where), where, stop)
            while held := self._held():  # asked for while we waited: we line up again behind it
                self._sleep_for(held, where, stop)
                self._sleep_for(self._place(where, counted=True), where, stop)
            yield
        finally:
            self._slots.release()

    def answered(self) -> None:
        """The source answered as it should."""
        with self._lock:
            self._failures = self._rests = 0

    def failed(self) -> None:
        """The source failed; after some in a row it is left alone for a while, longer each time."""
        with self._lock:
            self._failures += 1
            if self._failures >= _FAILURES:
                self._failures = 0
                rest = min(_REST * 2**self._rests, _LONGEST_REST)
                self._rests += 1
                self._open_until = self._clock() + rest

    def hold(self, seconds: float) -> None:
        """The source asked for a short rest (Retry-After): nobody asks it until then."""
        with self._lock:
            self._held_until = max(self._held_until, self._clock() + seconds)

    def leave_alone(self, seconds: float) -> None:
        """The source asked for it itself."""
        with self._lock:
            self._open_until = max(self._open_until or 0.0, self._clock() + seconds)

    def resume(self) -> None:
        """A person says that the source may be asked again now."""
        with self._lock:
            self._open_until, self._held_until = None, -math.inf
            self._failures = self._rests = 0

    def _held(self) -> float:
        with self._lock:
            return max(0.0, self._held_until - self._clock())

    def _place(self, where: str, counted: bool = False) -> float:
        """Take the next free moment; how long to wait for it."""
        with self._lock:
            now = self._clock()
            if self._open_until is not None and now < self._open_until:
                until = self._today() + timedelta(seconds=self._open_until - now)
                mend = "collect again after that time; what was stored stays"
                raise busy(
                    where,
                    f"until {until:%Y-%m-%d %H:%M:%S} UTC",
                    "the source is left alone for a while",
                    mend,
                )
            self._turn_day()
            if self.pace.per_day is not None and self._used >= self.pace.per_day:
                mend = "collect again tomorrow, or ask the source for more"
                raise busy(
                    where,
                    f"{self._used} requests",
                    "the source's quota of the day is used up",
                    mend,
                )
            self._used += not counted
            free = max(now, self._held_until)
            if self.pace.per_second is None:
                return free - now
            # In any second no more than allowed; the places are handed out one after the other.
            width = max(1, int(self.pace.per_second))
            span = width / self.pace.per_second
            at = free
            if len(self._recent) >= width:
                at = max(free, self._recent[-width] + span)
            self._recent.append(at)
            while len(self._recent) > width:
                self._recent.popleft()
            return at - now

    def _turn_day(self) -> None:
        day = self._today().date()
        if day != self._day:
            self._day, self._used = day, 0

    def _sleep_for(self, seconds: float, where: str, stop: threading.Event | None) -> None:
        if seconds > 0 and stop is not None and self._sleep is time.sleep:
            stop.wait(seconds)
        elif seconds > 0:
            self._sleep(seconds)
        _unless(stop, where)


def _unless(stop: threading.Event | None, where: str) -> None:
    if stop is not None and stop.is_set():
        raise stopped(where)
