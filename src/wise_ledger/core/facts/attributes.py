"""Attributes of companies as known at a cut-off: dated and versioned like facts (T9)."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from wise_ledger.core.facts.keys import Instants, Rows
from wise_ledger.core.facts.reasons import Reason
from wise_ledger.core.facts.values import Values

_DAY = 86_400_000_000


@dataclass(frozen=True)
class Attribute:
    """One statement about a company: from `valid_from` (days) on its `name` is `value`; known from `at` on.

    `batch` and the order given settle which of two with one date counts: the later.
    """

    company: int
    name: str
    value: str
    valid_from: int
    at: int
    batch: int


class Attributes:
    """All statements about all companies, read as of cut-offs."""

    def __init__(self, rows: Iterable[Attribute], recorded_by: int | None = None) -> None:
        self._by_name: dict[str, dict[int, list[Attribute]]] = defaultdict(lambda: defaultdict(list))
        for row in rows:
            if recorded_by is None or row.batch <= recorded_by:
                self._by_name[row.name][row.company].append(row)
        for companies in self._by_name.values():
            for said in companies.values():
                said.sort(key=lambda a: (a.valid_from, a.at, a.batch))

    def of(self, company: int, name: str, cutoff: int) -> str | None:
        """What was known of one company at an instant: the statement in force last, as known by then."""
        today = cutoff // _DAY
        found = None
        for said in self._by_name[name].get(company, ()):
            if said.valid_from <= today and said.at <= cutoff:
                found = said.value
        return found

    def read(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """The attribute of each company at each cut-off, as text (`active`: as truth); `not_known` where none."""
        value = np.full((len(members), len(cutoffs)), "", object)
        reason = np.full(value.shape, Reason.NOT_KNOWN, np.uint8)
        for i, company in enumerate(members.tolist()):
            for j, cutoff in enumerate(cutoffs.tolist()):
                if (found := self.of(company, name, cutoff)) is not None:
                    value[i, j], reason[i, j] = found, Reason.NONE
        if name == "active":
            return Values.known((value == "yes").astype(np.float64), reason)
        return Values.known(value, reason)

    def first(self, name: str, companies: int) -> list[str | None]:
        """The first statement about each company by number, which nothing said later changes; None where none is."""
        said = self._by_name[name]
        return [said[n][0].value if n in said else None for n in range(companies)]

    def said(self, name: str) -> list[Attribute]:
        """Every statement of one attribute, company by company, in order of date."""
        return [a for said in self._by_name[name].values() for a in said]
