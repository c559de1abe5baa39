"""Limits that people may set: after how many days a figure is stale (F12), how long after its
period's end one without a publication date is taken to have been published (T4), and how long an
estimate stands (E2).

Facts are kept with the usual lags, and what was said of them counts when they are read: so what a
source sends again stays the same fact (T8), and a question as recorded by an earlier batch has the
limits of that batch (T7).
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.time.instants import DAY, LAG_OF_OTHER, LAG_OF_YEAR


@dataclass(frozen=True)
class LimitKind:
    """A limit that there is, in days; `of_sources` where each source may have its own."""

    name: str
    usual: int
    least: int
    most: int
    of_sources: bool
    meaning: str


LIMITS: Mapping[str, LimitKind] = {
    kind.name: kind
    for kind in (
        LimitKind(
            "stale_after", 550, 1, 36_500, False,
            "after its period's end a figure is stale",
        ),
        LimitKind(
            "lag_of_year", LAG_OF_YEAR, 0, 3_660, True,
            "after its end a year, or a balance at a fiscal year end, is taken to be published where"
            " no source says when",
        ),
        LimitKind(
            "lag_of_other", LAG_OF_OTHER, 0, 3_660, True,
            "after its end any other period is taken to be published where no source says when",
        ),
        LimitKind(
            "estimate_stands", 120, 1, 3_650, False,
            "an estimate stands, unless its contributor gives another",
        ),
    )
}  # fmt: skip


@dataclass(frozen=True)
class LimitSaid:
    """What a person said of a limit, for all sources or the number of one;
    without days an earlier word is taken back.
    """

    name: str
    source: int | None
    days: int | None


@dataclass(frozen=True)
class Limits:
    """The limits that stand: the last word of each, that of a source before that of all."""

    said: Mapping[tuple[str, int | None], int] = field(default_factory=dict)

    @classmethod
    def of(cls, words: Sequence[LimitSaid]) -> "Limits":
        """Out of what people said, in the order they said it."""
        last = {(word.name, word.source): word.days for word in words}
        return cls({scope: days for scope, days in last.items() if days is not None})

    def days(self, name: str, source: int | None = None) -> int:
        """The limit of this name, of a source or of those of which nothing else was said."""
        of_all = self.said.get((name, None), LIMITS[name].usual)
        return self.said.get((name, source), of_all)

    @property
    def stale_after(self) -> int:
        """Days after its period's end that a figure may be used (F12)."""
        return self.days("stale_after")

    def shifts(self) -> Iterator[tuple[int, int | None, int]]:
        """By how many days publications that are assumed move from where the ledger has them:
        the lag they are kept with, the number of the source, days; those of all sources first.
        """
        for lag, name in ((LAG_OF_YEAR, "lag_of_year"), (LAG_OF_OTHER, "lag_of_other")):
            own = (source for limit, source in self.said if limit == name and source is not None)
            for source in (None, *sorted(own)):
                yield lag, source, self.days(name, source) - lag

    @property
    def moves(self) -> bool:
        """Whether any assumed publication is elsewhere than the ledger has it."""
        return any(days for _, _, days in self.shifts())

    def published(self, facts: FactColumns) -> FactColumns:
        """The facts, those whose publication is assumed at the instants of these limits (T4)."""
        if not self.moves or not facts.assumed.any():
            return facts
        at = facts.at.copy()
        kept_with = facts.at // DAY - facts.end
        by = np.zeros(len(facts), np.int64)
        for lag, source, days in self.shifts():
            those = facts.assumed & (kept_with == lag)
            by[those if source is None else those & (facts.source == source)] = days
        at += by * DAY
        return replace(facts, at=at)
