"""What was formed, kept within a budget of bytes: one maker at a time for each,
the least recently used out first.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

V = TypeVar("V")


@dataclass(eq=False)
class Entry(Generic[V]):
    """A value as of a batch; -1 while there is none."""

    batch: int = -1
    value: V | None = None
    size: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)


class Kept:
    """Values by key, each as of a batch.

    Safe for many threads: who asks while it is made waits for it.
    """

    def __init__(self, budget: int, size_of: Callable[[Any], int]) -> None:
        self._budget = budget
        self._size_of = size_of
        self._entries: OrderedDict[Hashable, Entry[Any]] = OrderedDict()
        self._lock = threading.Lock()
        self.made = 0  # how often anything was made, for those who measure

    def get(self, key: Hashable, batch: int, make: Callable[[int, V | None], V]) -> V:
        """The value as of a batch.

        `make` gets the batch and value that are kept, if any, and gives the new one.

        Of a batch before the one kept the value is made for this call alone.
        """
        with self._lock:
            entry = self._entries.setdefault(key, Entry())
            self._entries.move_to_end(key)
        with entry.lock:
            if entry.batch == batch:
                assert entry.value is not None
                return entry.value  # type: ignore[no-any-return]
            if entry.batch > batch:
                return make(-1, None)
            value = make(entry.batch, entry.value)
            self.made += 1
            entry.batch, entry.value = batch, value
        self._weigh(key, entry)
        return value

    def names(self) -> list[Hashable]:
        """Everything kept, the least recently asked for first."""
        with self._lock:
            return list(self._entries)

    @property
    def size(self) -> int:
        """The bytes of all that is kept."""
        return sum(e.size for e in self._entries.values())

    def _weigh(self, key: Hashable, entry: Entry[Any]) -> None:
        with self._lock:
            entry.size = self._size_of(entry.value)
            total = self.size
            for other in list(self._entries):
                if total <= self._budget:
                    break
                if other != key:
                    total -= self._entries.pop(other).size
