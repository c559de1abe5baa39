"""A column in which few values stand many times: each once,
and for every entry which of them it is.
"""

from collections.abc import Callable, Iterator, Sequence
from itertools import chain, compress
from typing import Any, Generic, Self, TypeVar, overload

import numpy as np
from numpy.typing import NDArray

T = TypeVar("T")
Places = NDArray[np.int32]


class Coded(Sequence[T], Generic[T]):
    """The sequence `values[place[0]], values[place[1]], …`;
    what is asked of a value is asked once for all its entries.

    >>> units = Coded.of(["EUR", "EUR", "shares"])
    >>> units.values, units.place.tolist()
    (('EUR', 'shares'), [0, 0, 1])
    """

    __slots__ = ("place", "values")

    def __init__(self, values: tuple[T, ...], place: Places) -> None:
        self.values = values
        self.place = place

    @classmethod
    def of(cls, entries: Sequence[T]) -> Self:
        """Out of any sequence; the values stand in the order in which they first come."""
        try:
            number = {value: n for n, value in enumerate(dict.fromkeys(entries))}
        except TypeError:  # a value that cannot be looked up, which a check will refuse
            return cls(tuple(entries), np.arange(len(entries), dtype=np.int32))
        if len(number) <= 1:
            return cls(tuple(number), np.zeros(len(entries), np.int32))
        return cls(
            tuple(number), np.fromiter(map(number.__getitem__, entries), np.int32, len(entries))
        )

    @classmethod
    def same(cls, value: T, count: int) -> Self:
        """One value, so many times."""
        return cls((value,) if count else (), np.zeros(count, np.int32))

    @classmethod
    def joined(cls, parts: Sequence["Coded[T]"]) -> Self:
        """Several, one after the other."""
        first = parts[0].values if parts else ()
        if all(part.values == first for part in parts):
            return cls(
                first, np.concatenate([np.empty(0, np.int32), *(part.place for part in parts)])
            )
        if all(len(part.values) == 1 for part in parts):
            each = cls.of([part.values[0] for part in parts])
            return cls(each.values, np.repeat(each.place, [len(part) for part in parts]))
        several = cls.of(list(chain.from_iterable(part.values for part in parts)))
        ends = np.cumsum([len(part.values) for part in parts])
        own = np.split(several.place, ends[:-1])
        return cls(
            several.values,
            np.concatenate([n[part.place] for n, part in zip(own, parts, strict=True)]),
        )

    def where(self, keep: NDArray[np.bool_] | Sequence[bool]) -> Self:
        """Only the entries marked true, and the values that these have."""
        return self._at(self.place[np.asarray(keep, np.bool_)])

    def _at(self, place: Places) -> Self:
        there = np.bincount(place, minlength=len(self.values)) > 0
        if there.all():
            return type(self)(self.values, place)
        number = (np.cumsum(there) - 1).astype(np.int32)
        return type(self)(tuple(compress(self.values, there)), number[place])

    def numbers(self, number: Callable[[T], int]) -> NDArray[np.int64]:
        """The number of every entry; each value is asked for once, in the order of the values."""
        return np.array([number(value) for value in self.values], np.int64)[self.place]

    def __len__(self) -> int:
        return len(self.place)

    def __iter__(self) -> Iterator[T]:
        if len(self.values) == 1:
            return iter([self.values[0]] * len(self.place))
        return map(self.values.__getitem__, self.place.tolist())

    @overload
    def __getitem__(self, n: int) -> T: ...
    @overload
    def __getitem__(self, n: slice) -> "Coded[T]": ...
    def __getitem__(self, n: int | slice) -> "T | Coded[T]":
        return self.values[self.place[n]] if isinstance(n, int) else self._at(self.place[n])

    def __reduce__(self) -> tuple[Any, ...]:
        """Bytes instead of an array: hundreds of short columns go from one process to another."""
        return _unpacked, (
            self.values,
            self.place.tobytes() if len(self.values) > 1 else len(self.place),
        )


def _unpacked(values: tuple[T, ...], place: bytes | int) -> Coded[T]:
    whole = np.zeros(place, np.int32) if isinstance(place, int) else np.frombuffer(place, np.int32)
    return Coded(values, whole)
