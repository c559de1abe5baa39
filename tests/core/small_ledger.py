"""A ledger of a few facts in memory, for tests of the core."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from wise_ledger.core.facts.attributes import Attribute, Attributes
from wise_ledger.core.facts.columns import DTYPES, FactColumns, currency_code
from wise_ledger.core.facts.instants import micros, read_cutoff
from wise_ledger.core.fiscal.periods import ABSENT, day
from wise_ledger.core.measures.view import LedgerView

LONG_AGO = -100_000


class SmallLedger:
    """Facts as dicts with the columns of a facts file; one company unless `company` numbers are given."""

    def __init__(
        self,
        facts: Sequence[dict[str, Any]],
        year_ends: Sequence[tuple[int, int, int]] = ((0, LONG_AGO, 12),),
        sources: Sequence[str] = ("one",),
        companies: int = 1,
    ) -> None:
        self.sources = {name: number for number, name in enumerate(sources)}
        self.companies = companies
        self.year_ends = year_ends
        self.rows: dict[str, dict[str, list[Any]]] = {}
        for position, fact in enumerate(facts):
            self._add(position, fact)

    @classmethod
    def of_case(cls, given: dict[str, Any]) -> "SmallLedger":
        declared = given["fiscal_year_end"]
        if isinstance(declared, int):
            year_ends = [(0, LONG_AGO, declared)]
        else:
            year_ends = [(0, day(date.fromisoformat(d["valid_from"])), d["month"]) for d in declared]
        return cls(given["facts"], year_ends, given.get("source_order", ["one"]))

    def _add(self, position: int, fact: dict[str, Any]) -> None:
        start = fact.get("period_start")
        money = fact["unit"].partition("/")[0]
        row = {
            "company": fact.get("company", 0),
            "start": day(date.fromisoformat(start)) if start else ABSENT,
            "end": day(date.fromisoformat(fact["period_end"])),
            "declared_end": ABSENT,
            "at": micros(read_cutoff(fact["published_at"], "published_at")),
            "batch": fact.get("batch", 1),
            "position": position,
            "source": self.sources[fact.get("source", next(iter(self.sources)))],
            "value": float("nan") if fact["value"] is None else fact["value"],
            "currency": currency_code(money) if len(money) == 3 else -1,
            "assumed": fact.get("assumed", False),
            "fact": position,
        }
        columns = self.rows.setdefault(fact["item"], {name: [] for name in DTYPES})
        for name, value in row.items():
            columns[name].append(value)

    def columns(self, item: str) -> FactColumns:
        return FactColumns.of(self.rows[item]) if item in self.rows else FactColumns.empty()

    def view(self, **how: Any) -> LedgerView:
        said = [
            Attribute(company, "fiscal_year_end", str(month), since, since * 86_400_000_000, 0)
            for company, since, month in self.year_ends
        ]
        return LedgerView(self.companies, self.columns, Attributes(said), tuple(self.sources.values()), **how)
