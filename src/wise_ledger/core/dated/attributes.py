"""Attributes of companies as known at a cut-off: dated and versioned like facts (T9)."""

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.dated.series import DatedSeries, Steps
from wise_ledger.core.timelines.keys import Instants, Rows


@dataclass(frozen=True)
class Attribute:
    """One statement about a company: from `valid_from` (days) on its `name`
    is `value`; public from `at` on.
    """

    company: int
    name: str
    value: str
    valid_from: int
    at: int
    batch: int


@dataclass(frozen=True, eq=False)
class DerivedAttribute:
    """An attribute that is not stated of the company itself: a series,
    and the word of each of its rows.

    The last word, that of no row, is empty; so is one that says that there is none.
    """

    series: DatedSeries
    words: NDArray[Any]

    def read(self, members: Rows, cutoffs: Instants) -> Values:
        """The attribute of each company at each cut-off, as text; `not_known` where none."""
        value = self.words[self.series.read(members, cutoffs)]
        reason = np.where(value == "", Reason.NOT_KNOWN, Reason.NONE).astype(np.uint8)
        return Values.known(value, reason)


class Attributes:
    """All that was stated of all companies, in order of recording, read as of cut-offs."""

    def __init__(self, rows: Iterable[Attribute], recorded_by: int | None = None) -> None:
        self._versions: dict[str, list[Attribute]] = defaultdict(list)
        for row in rows:
            if recorded_by is None or row.batch <= recorded_by:
                self._versions[row.name].append(row)
        self._series: dict[str, DatedSeries] = {}

    def series(self, name: str) -> DatedSeries:
        """The versions of one attribute by company; rows are those of `versions`."""
        if name not in self._series:
            self._series[name] = DatedSeries.of(
                (a.company, a.valid_from, a.at) for a in self._versions[name]
            )
        return self._series[name]

    def steps(self, name: str) -> Steps:
        """When what counts of an attribute became something else, by company;
        rows are those of `versions`.
        """
        return self.series(name).steps

    def of(self, company: int, name: str, cutoff: int) -> str | None:
        """What was known of one company at an instant; None where nothing was."""
        row = int(self.series(name).read(np.array([company]), np.array([cutoff]))[0, 0])
        return None if row < 0 else self._versions[name][row].value

    def read(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """The attribute of each company at each cut-off, as text (`active`:
        as truth); `not_known` where none.
        """
        rows = self.series(name).read(members, cutoffs)
        words = np.array([*(a.value for a in self._versions[name]), ""], object)
        value = words[rows]
        reason = np.where(rows < 0, Reason.NOT_KNOWN, Reason.NONE).astype(np.uint8)
        if name == "active":
            return Values.known((value == "yes").astype(np.float64), reason)
        return Values.known(value, reason)

    def groups(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """The attribute of each company at each cut-off,
        as a number that is the same where the words are.
        """
        rows = self.series(name).read(members, cutoffs)
        words = [a.value for a in self._versions[name]]
        numbers = {word: n for n, word in enumerate(dict.fromkeys(words), 1)}
        number = np.array([*(numbers[word] for word in words), 0], np.int64)
        return Values.known(
            number[rows], np.where(rows < 0, Reason.NOT_KNOWN, Reason.NONE).astype(np.uint8)
        )

    def among(
        self, name: str, words: Collection[str], read: Callable[[DatedSeries], Rows]
    ) -> NDArray[np.bool_]:
        """Whether the attribute is one of some words, or is not known,
        wherever a series is read.
        """
        rows = read(self.series(name))
        return np.array([*(a.value in words for a in self._versions[name]), True], np.bool_)[rows]

    @property
    def names(self) -> list[str]:
        """The names of everything that was stated."""
        return [name for name, versions in self._versions.items() if versions]

    def versions(self, name: str) -> list[Attribute]:
        """Every version of one attribute, in order of recording."""
        return self._versions[name]

    def by_company(self, name: str) -> dict[int, list[Attribute]]:
        """The versions of one attribute of each company that has any, in
        order of date, then of publication.
        """
        out: dict[int, list[Attribute]] = {}
        for version in sorted(self._versions[name], key=lambda a: (a.valid_from, a.at)):
            out.setdefault(version.company, []).append(version)
        return out
