"""Which source goes before which (T5): in general, for an item, for a company,
or for an item of a company.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class SourceOrder:
    """What a person said: the sources named go first, in this order;
    for all where item and company are None.
    """

    item: str | None
    company: int | None
    sources: tuple[int, ...]


class Preference:
    """All that was said, the last word of each scope; the narrower scope counts:
    item of a company, company, item.
    """

    def __init__(self, orders: Sequence[SourceOrder], sources: int) -> None:
        self._orders: dict[tuple[str | None, int | None], SourceOrder] = {}
        for order in orders:  # the last word of each scope, be it that there is none
            if order.sources:
                self._orders[order.item, order.company] = order
            else:
                self._orders.pop((order.item, order.company), None)
        self._sources = sources

    def __bool__(self) -> bool:
        return bool(self._orders)

    def ranks(self, item: str, company: int) -> NDArray[np.int16]:
        """The place of each source number, 0 first: those named,
        then the others in the order they were first used.
        """
        scopes = ((item, company), (None, company), (item, None), (None, None))
        order = next((self._orders[s] for s in scopes if s in self._orders), None)
        named = order.sources if order else ()
        whole = [*named, *(n for n in range(self._sources) if n not in named)]
        out = np.empty(self._sources, np.int16)
        out[whole] = np.arange(self._sources)
        return out

    def ranked(
        self, item: str, company: NDArray[Any], source: NDArray[np.int16]
    ) -> NDArray[np.int16]:
        """The place of each fact's source, as a column to put in the place of its number."""
        if not self._orders:
            return source
        out = self.ranks(item, -1)[source]
        for number in {c for _, c in self._orders if c is not None}:
            own = company == number
            if own.any():
                out[own] = self.ranks(item, number)[source[own]]
        return out
