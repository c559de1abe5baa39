"""A ledger of a few facts in memory, for tests of the core."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from wise_ledger.core.dated.attributes import Attribute, Attributes
from wise_ledger.core.identity.universe import Listing, Security, Stretch
from wise_ledger.core.language.view import LedgerView
from wise_ledger.core.market.factors import Factor, Factors
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.prices import Prices
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.market.whose import Listed
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.money.rates import rate_table
from wise_ledger.core.money.splits import Split
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.records.facts import DTYPES, FactColumns
from wise_ledger.core.time.instants import DAY, end_of_day, micros, read_cutoff
from wise_ledger.core.time.periods import ABSENT, day

LONG_AGO = -100_000


def at_end_of(day: date) -> int:
    """The instant of a day's end, in microseconds."""
    return micros(end_of_day(day))


class SmallLedger:
    """Facts as dicts with the columns of a facts file;
    one company unless `company` numbers are given.
    """

    def __init__(
        self,
        facts: Sequence[dict[str, Any]],
        year_ends: Sequence[tuple[int, int, int]] = ((0, LONG_AGO, 12),),
        sources: Sequence[str] = ("one",),
        companies: int = 1,
        rates: Sequence[dict[str, Any]] = (),
        prices: Sequence[dict[str, Any]] = (),
        splits: Sequence[dict[str, Any]] = (),
        attributes: Sequence[Attribute] = (),
    ) -> None:
        self.attributes = attributes
        self.splits = [
            Split(0, ex_date, s["ratio"], s.get("published_at") or ex_date * DAY)
            for s in splits
            for ex_date in [day(date.fromisoformat(s["ex_date"]))]
        ]
        reported = [
            (r["base"], r["quote"], day(date.fromisoformat(r["date"])), r["rate"]) for r in rates
        ]
        self.share_bases = {
            n: day(date.fromisoformat(f["share_basis_date"]))
            for n, f in enumerate(facts)
            if "share_basis_date" in f
        }
        self.rates, self.prices = rate_table(reported), prices
        self.sources = {name: number for number, name in enumerate(sources)}
        self.companies = companies
        self.names: list[str | None] = [None]
        self.year_ends = year_ends
        self.rows: dict[str, dict[str, list[Any]]] = {}
        for position, fact in enumerate(facts):
            self._add(position, fact)

    @classmethod
    def of_case(cls, given: dict[str, Any]) -> "SmallLedger":
        declared = given.get("fiscal_year_end", 12)
        if isinstance(declared, int):
            year_ends = [(0, LONG_AGO, declared)]
        else:
            year_ends = [
                (0, day(date.fromisoformat(d["valid_from"])), d["month"]) for d in declared
            ]
        names = list(dict.fromkeys(f.get("company") for f in given["facts"]))
        facts = [{**f, "company": names.index(f.get("company"))} for f in given["facts"]]
        more = {name: given.get(name, ()) for name in ("rates", "prices", "splits")}
        made = cls(facts, year_ends, given.get("source_order", ["one"]), len(names), **more)
        made.names = names
        return made

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
        words = [
            Attribute(company, "fiscal_year_end", str(month), since, since * DAY, 0)
            for company, since, month in self.year_ends
        ]
        how |= {
            "read_rates": lambda: self.rates,
            "splits": self.splits,
            "share_bases": self.share_bases,
        }
        how["given_market"] = lambda: (self.market(), ShareCounts())
        return LedgerView(
            self.companies, self.columns, Attributes([*words, *self.attributes]), **how
        )

    def market(self) -> Market:
        """The closes that a case gives, all of one listing of the first company,
        each known when its day ends.
        """
        days = [day(date.fromisoformat(p["date"])) for p in self.prices]
        columns = {
            "date": days,
            "close": [p["close"] for p in self.prices],
            "known_at": [(d + 1) * DAY - 1 for d in days],
        }
        rows = RecordColumns.of(PRICES, listing=[0] * len(days), **columns)
        currency = next((p["currency"] for p in self.prices if "currency" in p), "USD")
        listed = Listed.of(
            [Security(0, 0, "ordinary")], [Listing(0, 0, "A", "ZALD", currency, Stretch(), True)]
        )
        splits = [Factor(0, s.ex_date, s.ratio, s.known, s.until) for s in self.splits]
        return Market(Prices.of(rows.where(rows.order())), listed, Factors.of(splits))
