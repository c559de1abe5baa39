"""Random worlds: two companies of which everything moves (figures, year ends, templates,
splits, rates, sources).
"""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from random import Random
from typing import Any

import numpy as np

from tests.core.small_ledger import SmallLedger, at_end_of
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.dated.attributes import Attribute
from wise_ledger.core.language.view import LedgerView
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.money.splits import ShareBasis
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.statements.sheet import Sheet
from wise_ledger.core.time.periods import day, shift_months
from wise_ledger.core.timelines.preference import Preference, SourceOrder

MONTH_ENDS = [date(y, m, 1) - timedelta(1) for y in range(2020, 2024) for m in range(1, 13)][1:]
FLOWS = ("revenue", "operating_income", "diluted_eps")
BALANCES = (
    "total_assets", "shareholders_equity", "inventory", "goodwill", "shares_outstanding", "short_term_debt",
    "long_term_debt", "total_debt",
)  # fmt: skip
UNITS = {"diluted_eps": "{}/shares", "shares_outstanding": "shares"}


@dataclass(frozen=True)
class World:
    """Rows as a file has them, with when each became public."""

    facts: tuple[dict[str, Any], ...]
    attributes: tuple[Attribute, ...]
    splits: tuple[dict[str, Any], ...]
    rates: tuple[dict[str, Any], ...]

    def upto(self, on: date) -> "World":
        """Without all that became public after a day."""
        cutoff = at_end_of(on)
        return replace(
            self,
            facts=tuple(f for f in self.facts if f["published_at"] <= str(on)),
            attributes=tuple(a for a in self.attributes if a.at <= cutoff),
            splits=tuple(s for s in self.splits if max(s["ex_date"], s["public"]) <= str(on)),
            rates=tuple(r for r in self.rates if r["date"] <= str(on)),
        )

    def ledger(self) -> SmallLedger:
        """The world in a ledger."""
        splits = [
            {**s, "published_at": at_end_of(date.fromisoformat(s["public"]))} for s in self.splits
        ]
        return SmallLedger(
            self.facts,
            (),
            ("one", "two"),
            2,
            rates=self.rates,
            splits=splits,
            attributes=self.attributes,
        )


def world(seed: int) -> World:
    """A world; the same for the same seed."""
    random = Random(seed)
    facts = [_fact(random) for _ in range(random.randint(5, 60))]
    attributes = [_attribute(random) for _ in range(random.randint(2, 14))]
    splits = [_split(random) for _ in range(random.randint(0, 2))]
    first = date(2020, 1, 1)
    days = range(0, 1700, random.choice([1, 1, 7]))
    rates = [
        {
            "base": "EUR",
            "quote": quote,
            "date": str(first + timedelta(n)),
            "rate": 1 + random.random(),
        }
        for n in days
        for quote in ("USD", "GBP")
    ]
    return World(
        tuple(facts),
        tuple(attributes),
        tuple(splits),
        tuple(rates) if random.random() < 0.7 else (),
    )


def order_of_sources(seed: int) -> Preference:
    """What people said of the two sources: of some items, companies or both, which goes first."""
    random = Random(seed)
    items, companies = [None, *FLOWS, *BALANCES], [None, 0, 1]
    orders = [(0, 1), (1, 0)]
    several = range(random.randint(0, 4))
    words = [
        SourceOrder(random.choice(items), random.choice(companies), random.choice(orders))
        for _ in several
    ]
    return Preference(words, 2)


def _fact(random: Random) -> dict[str, Any]:
    end = random.choice(MONTH_ENDS[2::3] if random.random() < 0.8 else MONTH_ENDS)
    item = random.choice(FLOWS + BALANCES)
    start = None
    if item in FLOWS:
        months = random.choice([3, 3, 6, 9, 12, 12])
        start = np.datetime64(
            int(shift_months(np.array([day(end)], np.int32), -months)[0]) + 1, "D"
        )
    currency = "EUR" if random.random() < 0.15 else "USD"
    return {
        "company": random.randint(0, 1),
        "item": item,
        "period_start": None if start is None else str(start),
        "period_end": str(end),
        "value": random.choices([None, 0, random.randint(-50, 500)], [8, 8, 84])[0],
        "unit": UNITS.get(item, "{}").format(currency),
        "published_at": str(end + timedelta(random.randint(1, random.choice([80, 500])))),
        "source": random.choice(["one", "one", "two"]),
    }


def _attribute(random: Random) -> Attribute:
    name, values = random.choice(
        [
            ("fiscal_year_end", ("12", "06", "03")),
            ("fiscal_year_end", ("12", "12", "09")),
            ("fiscal_year_named_by", ("start", "end")),
            ("template", ("industrial", "bank", "insurer")),
            ("industry", ("23", "64")),
            ("active", ("yes", "no")),
        ]
    )
    since = date(2019, 6, 1) + timedelta(random.randint(0, 1700))
    public = (
        since if random.random() < 0.5 else date(2019, 6, 1) + timedelta(random.randint(0, 2000))
    )
    return Attribute(
        random.randint(0, 1), name, random.choice(values), day(since), at_end_of(public), 0
    )


def _split(random: Random) -> dict[str, Any]:
    ex_date = date(2020, 6, 1) + timedelta(random.randint(0, 1400))
    public = ex_date + timedelta(random.randint(-60, 60))
    return {"ex_date": str(ex_date), "ratio": random.choice([2, 4, 0.5]), "public": str(public)}


def sheet_of(
    made: SmallLedger, view: LedgerView, company: int, currency: str | None = None
) -> Sheet:
    """The sheet of a company of all items of a world, in a currency if one is asked for."""
    codes = [*FLOWS, *BALANCES]
    parts = []
    for row, code in enumerate(codes):
        facts = view.facts(ITEMS[code])
        own = facts.where(facts.company == company)
        parts.append(replace(own, company=np.full(len(own), row, np.int32)))
    names = FactColumns.__dataclass_fields__
    whole = FactColumns.of({n: np.concatenate([getattr(p, n) for p in parts]) for n in names})
    units = [ITEMS[code].unit for code in codes]
    order = view.preference
    return Sheet(
        [ITEMS[code] for code in codes],
        whole,
        view.calendar.of_rows(company, len(codes)),
        view.templates.of_rows(company, len(codes)),
        places=np.stack([order.ranks(code, company) for code in codes]) if order else None,
        rates=lambda: made.rates,
        currency=currency and currency_code(currency),
        basis=ShareBasis.of_rows(view.splits, company, units, view.share_bases),
    )
