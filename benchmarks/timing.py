"""Timing and the rows of the benchmarks' table."""

import gc
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Result:
    """One engine's time; `ratio` is its time over ours in the same run."""

    benchmark: str
    size: str
    engine: str
    seconds: float
    ratio: float
    equal: bool
    holds: str = "equal"  # what `equal` says of this benchmark, in a word

    @property
    def verdict(self) -> str:
        """The last column of the table."""
        return self.holds if self.equal else f"NOT {self.holds}"


def best_of(times: int, work: Callable[[], Any]) -> tuple[float, Any]:
    """The least of several times, in seconds, and the answer."""
    least, answer = float("inf"), None
    for _ in range(times):
        gc.collect()
        begin = time.perf_counter()
        answer = work()
        least = min(least, time.perf_counter() - begin)
    return least, answer
