"""What sources give of economic series: what is said of them,
and observations with the instants of their release.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, eq=False)
class ObservationsFound:
    """Observations of the series `keys[which]`, row by row; NaN takes one back.

    `period` is as it is kept (see `core.series.periods.code_of`), `released_at` in microseconds,
    `UNSAID` where the source does not say; `bases[base]` is what an index is 100 for, -1 where it
    is none.
    """

    keys: tuple[str, ...]
    which: NDArray[np.int64]
    period: NDArray[np.int32]
    value: NDArray[np.float64]
    released_at: NDArray[np.int64]
    bases: tuple[str, ...]
    base: NDArray[np.int64]

    def __len__(self) -> int:
        return len(self.which)


@dataclass(frozen=True)
class SeriesFound:
    """What changed since a mark: what is said of each series by key, observations,
    and the mark for next time.
    """

    described: Mapping[str, Mapping[str, str]]
    observations: tuple[ObservationsFound, ...]
    mark: str | None = None
