"""The made-up world: years of figures for each company, put into filings.

The same seed gives the same bytes.

The small world has the named cast since 2021 and its headline figures; the whole one has 240
companies since 2012 with whole statements, in which the cast's headline figures are the same. With
a clock a world goes on: it has what is public by then, and tomorrow what is public tomorrow; every
past day has the same bytes, on whatever day it is asked for.
"""

import threading
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from functools import cached_property
from typing import Any

from wise_ledger.standins.fernmark import crowd, stories
from wise_ledger.standins.fernmark.cast import CAST, Cast
from wise_ledger.standins.fernmark.filing import Filing
from wise_ledger.standins.fernmark.filings import filings_of
from wise_ledger.standins.fernmark.identity import ENDS, EXTRAS, describe
from wise_ledger.standins.fernmark.market import Market
from wise_ledger.standins.fernmark.money import make_rates
from wise_ledger.standins.fernmark.quarters import (
    BASE_YEAR,
    HISTORY,
    SCALE,
    Quarter,
    past_of,
    quarters_of,
)
from wise_ledger.standins.fernmark.reports import part_of
from wise_ledger.standins.fernmark.trading import day as market_day
from wise_ledger.standins.fernmark.trading import share_of

LAST_YEAR, LAST_WHOLE_YEAR = 2025, 2024  # the last ones of a world without a clock
AHEAD = 2  # years beyond the clock's that figures are made for: fiscal years are named by their end
Clock = Callable[[], datetime]


@dataclass(frozen=True)
class World:
    """All that the service has to give."""

    companies: list[dict[str, Any]]
    filings: Mapping[str, list[Filing]]
    lists: list[dict[str, Any]]
    all_rates: list[dict[str, Any]] = field(default_factory=list)
    clock: Clock | None = None
    made_market: Callable[[], Market] | None = None

    @cached_property
    def market(self) -> Market | None:
        """Prices and what belongs to them; made when first asked for."""
        return self.made_market() if self.made_market else None

    @property
    def now(self) -> datetime:
        """The instant up to which things are public."""
        if self.clock is not None:
            return self.clock()
        last = max((r["date"] for r in self.all_rates), default="2025-12-31")
        return datetime.fromisoformat(f"{last}T23:59:59+00:00")

    @property
    def rates(self) -> list[dict[str, Any]]:
        """The rates of the days that are over."""
        if self.clock is None:
            return self.all_rates
        today = self.clock().date().isoformat()
        return [row for row in self.all_rates if row["date"] < today]


class _Shelf(Mapping[str, list[Filing]]):
    """Filings of each company, made when first asked for; with a clock those that are public."""

    def __init__(
        self,
        casts: list[Cast],
        ends: dict[str, tuple[str, str]],
        seed: int,
        *,
        whole: bool,
        clock: Clock | None,
    ) -> None:
        self._casts = {c.key: c for c in casts}
        self._ends = ends
        self._seed = seed
        self._whole = whole
        self._clock = clock
        self._last = clock().year + AHEAD if clock else LAST_WHOLE_YEAR if whole else LAST_YEAR
        self._made: dict[str, list[Filing]] = {}
        self._quarters: dict[str, list[Quarter]] = {}
        self._turn = threading.RLock()

    def quarters(self, key: str) -> list[Quarter]:
        """The headline figures of a company's quarters."""
        with self._turn:
            if key not in self._quarters:
                cast = self._casts[key]
                self._quarters[key] = (
                    _story(cast, self._seed, self._last, whole=self._whole) if cast.revenue else []
                )
            return self._quarters[key]

    def __getitem__(self, key: str) -> list[Filing]:
        made = self.all_of(key)
        if self._clock is None:
            return made
        now = self._clock()
        return [f for f in made if f.public <= now]

    def all_of(self, key: str) -> list[Filing]:
        """Those of days to come too."""
        with self._turn:  # who asks while they are made ahead waits for them
            if key not in self._made:
                cast = self._casts[key]
                made = (
                    filings_of(cast, self.quarters(key), self._seed, whole=self._whole)
                    if cast.revenue
                    else []
                )
                until = self._ends.get(key, ("9999", ""))[0] if self._whole else "9999"
                self._made[key] = [f for f in made if f.published[:10] < until]
            return self._made[key]

    def __iter__(self) -> Iterator[str]:
        return iter(self._casts)

    def __len__(self) -> int:
        return len(self._casts)


def make_world(seed: int = 7, clock: Clock | None = None) -> World:
    """Twenty-four companies since 2021, and eight more that are only named and traded.

    Without a clock they have five fiscal years each.
    """
    casts = [*CAST, *EXTRAS]
    shelf = _Shelf(casts, {}, seed, whole=False, clock=clock)
    companies = [_company(cast) for cast in casts]
    lists, rates = [_first_look(whole=False), _index()], _rates(BASE_YEAR, clock)
    made = {"companies": companies, "lists": lists, "rates": rates}
    return World(
        companies,
        shelf,
        lists,
        rates,
        clock,
        lambda: _market(casts, shelf, made, {}, seed, whole=False),
    )


def make_whole_world(seed: int = 7, clock: Clock | None = None) -> World:
    """Two hundred and forty companies since 2012, thirty-six of them no longer active;
    without a clock until 2024.
    """
    others = crowd.crowd(seed)
    casts = [*CAST, *EXTRAS, *others]
    ends = crowd.ends(others, seed) | ENDS
    companies = [_company(c, whole=True, end=ends.get(c.key)) for c in casts]
    broad = {
        "name": "reporting-companies",
        "title": "All that report",
        "members": [_stay(c, ends) for c in casts if c.revenue],
    }
    lists = [
        _first_look(whole=True),
        _index(),
        broad,
        *(_national(mic, casts, ends) for mic in ("ZBRE", "ZCAL")),
    ]
    shelf = _Shelf(casts, ends, seed, whole=True, clock=clock)
    rates = _rates(HISTORY, clock)
    made = {"companies": companies, "lists": lists, "rates": rates}
    return World(
        companies,
        shelf,
        lists,
        rates,
        clock,
        lambda: _market(casts, shelf, made, ends, seed, whole=True),
    )


def _rates(since: int, clock: Clock | None) -> list[dict[str, Any]]:
    until = date(clock().year + AHEAD, 12, 31) if clock else date(LAST_WHOLE_YEAR, 12, 31)
    return make_rates(date(since, 1, 1), until)


def _stay(cast: Cast, ends: dict[str, tuple[str, str]]) -> dict[str, Any]:
    return {
        "company": cast.key,
        "from": f"{_first_year(cast, whole=True)}-01-01",
        "to": ends.get(cast.key, (None,))[0],
    }


def _national(mic: str, casts: list[Cast], ends: dict[str, tuple[str, str]]) -> dict[str, Any]:
    """An index of a venue's thirty largest, by their first revenue; weights add to one."""
    traded = sorted(
        (c for c in casts if c.symbol.endswith(mic) and c.revenue),
        key=lambda c: (-c.revenue, c.key),
    )[:30]
    whole = sum(c.revenue for c in traded)
    members = [{**_stay(c, ends), "weight": round(c.revenue / whole, 6)} for c in traded]
    land = {"ZBRE": "Brennholt", "ZCAL": "Caldry"}[mic]
    return {"name": f"thirty-of-{land.lower()}", "title": f"Thirty of {land}", "members": members}


def _first_look(*, whole: bool) -> dict[str, Any]:
    members = [
        {"company": c.key, "from": f"{_first_year(c, whole=whole)}-01-01", "to": None} for c in CAST
    ]
    return {"name": "first-look", "title": "First look", "members": members}


def _index() -> dict[str, Any]:
    """A made-up market index: members with weights, one of which leaves for another."""
    stays = [
        ("FM-0001", "2021-01-01", None, 0.25), ("FM-0006", "2021-01-01", None, 0.15),
        ("FM-0009", "2021-01-01", "2023-06-30", 0.1), ("FM-0013", "2021-01-01", None, 0.4),
        ("FM-0026", "2023-09-01", None, 0.1), ("FM-0014", "2023-07-01", None, 0.1),
    ]  # fmt: skip
    members = [{"company": c, "from": a, "to": b, "weight": w} for c, a, b, w in stays]
    return {"name": "index-of-aldmoor", "title": "Index of Aldmoor", "members": members}


def _first_year(cast: Cast, *, whole: bool) -> int:
    """The named cast, in the whole world, has a past before the small one begins."""
    return HISTORY if whole and cast.revenue and cast.first_year == BASE_YEAR else cast.first_year


def _company(
    cast: Cast, *, whole: bool = False, end: tuple[str, str] | None = None
) -> dict[str, Any]:
    return {
        "key": cast.key,
        "name": cast.name,
        "symbol": cast.symbol,
        "country": cast.country,
        "currency": cast.currency,
        "industry": cast.industry,
        "template": cast.template,
        "fiscal_year_end": cast.year_end,
        "seat": cast.seat or cast.name.split()[0],
        "since": f"{_first_year(cast, whole=whole)}-01-01" if cast.revenue else "2015-01-01",
        **describe(cast, _first_year(cast, whole=whole), end, stories.splits_of(cast.key)),
        **(
            {"changes": stories.CHANGES[cast.key], **stories.NOW[cast.key]}
            if cast.key in stories.CHANGES
            else {}
        ),
    }


def _story(cast: Cast, seed: int, last: int, *, whole: bool) -> list[Quarter]:
    """The headline figures of a company's quarters,
    its past in the whole world and its story among them.
    """
    quarters = quarters_of(cast, seed, last)
    return (
        stories.quarters_of(cast.key, past_of(cast, quarters, seed) + quarters)
        if whole
        else quarters
    )


def _market(
    casts: list[Cast],
    shelf: _Shelf,
    world: dict[str, Any],
    ends: dict[str, tuple[str, str]],
    seed: int,
    *,
    whole: bool,
) -> Market:
    """Prices of everybody; what each report says of shares is published with it."""
    shares, published = [], {}
    for cast in casts:
        since = f"{_first_year(cast, whole=whole)}-01-01" if cast.revenue else "2015-01-01"
        quarters = shelf.quarters(cast.key)
        ended = ends.get(cast.key) or ENDS.get(cast.key)
        shares.append(share_of(cast, quarters, SCALE[cast.currency], market_day(since), ended))
        out = {f.id: f.public.strftime("%Y-%m-%dT%H:%M:%SZ") for f in shelf.all_of(cast.key)}
        named = {f"{cast.key}-{q.year}-{part_of(q)}": str(q.end) for q in quarters}
        published[cast.key] = {end: out[id_] for id_, end in named.items() if id_ in out}
    last = market_day(max(r["date"] for r in world["rates"]))
    by_key = {c["key"]: c for c in world["companies"]}
    return Market(shares, by_key, world["lists"], world["rates"], published, seed, last)
