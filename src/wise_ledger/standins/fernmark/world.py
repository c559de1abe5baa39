"""The made-up world: years of figures for each company, put into filings.

The same seed gives the same bytes.

The small world has the named cast since 2021 and its headline figures; the whole one has 240
companies since 2012 with whole statements, in which the cast's headline figures are the same. With
a clock a world goes on: it has what is public by then, and tomorrow what is public tomorrow; every
past day has the same bytes, on whatever day it is asked for.
"""

import random
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime, time, timedelta
from functools import cached_property, partial
from typing import Any

from wise_ledger.standins.fernmark import crowd, statements, stories
from wise_ledger.standins.fernmark.cast import CAST, Cast
from wise_ledger.standins.fernmark.filing import Filing, as_written
from wise_ledger.standins.fernmark.identity import ENDS, EXTRAS, describe
from wise_ledger.standins.fernmark.market import Market, share_of
from wise_ledger.standins.fernmark.market import day as market_day
from wise_ledger.standins.fernmark.money import make_rates
from wise_ledger.standins.fernmark.quarters import (
    BASE_YEAR,
    HISTORY,
    SCALE,
    Quarter,
    past_of,
    quarters_of,
    widened,
)

LAST_YEAR, LAST_WHOLE_YEAR = 2025, 2024  # the last ones of a world without a clock
AHEAD = 2  # years beyond the clock's that figures are made for: fiscal years are named by their end
Clock = Callable[[], datetime]
_FLOWS = {  # tag: (figure, only for industrial companies)
    "sales": ("revenue", False),
    "cost_of_sales": ("cost", True),
    "operating_profit": ("operating", True),
    "profit_for_owners": ("net", False),
    "cash_from_operations": ("cash", False),
    "capital_spending": ("capital", False),
}
_CASH = {"cash_from_operations", "capital_spending"}  # reported cumulatively by every company
_BALANCES = {
    "assets_current": ("current", True),
    "assets_total": ("assets", False),
    "liabilities_total": ("liabilities", False),
    "equity_total": ("equity", False),
}


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

    def quarters(self, key: str) -> list[Quarter]:
        """The headline figures of a company's quarters."""
        if key not in self._quarters:
            cast = self._casts[key]
            self._quarters[key] = (
                _story(cast, self._seed, self._last, whole=self._whole) if cast.revenue else []
            )
        return self._quarters[key]

    def __getitem__(self, key: str) -> list[Filing]:
        if key not in self._made:
            cast = self._casts[key]
            made = (
                _filings(cast, self.quarters(key), self._seed, whole=self._whole)
                if cast.revenue
                else []
            )
            until = self._ends.get(key, ("9999", ""))[0] if self._whole else "9999"
            self._made[key] = [f for f in made if f.published[:10] < until]
        if self._clock is None:
            return self._made[key]
        now = self._clock()
        return [f for f in self._made[key] if f.public <= now]

    def all_of(self, key: str) -> list[Filing]:
        """Those of days to come too."""
        _ = self[key]
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
        named = {f"{cast.key}-{q.year}-{_part(q)}": str(q.end) for q in quarters}
        published[cast.key] = {end: out[id_] for id_, end in named.items() if id_ in out}
    last = market_day(max(r["date"] for r in world["rates"]))
    by_key = {c["key"]: c for c in world["companies"]}
    return Market(shares, by_key, world["lists"], world["rates"], published, seed, last)


def _filings(
    cast: Cast, quarters: list[Quarter], seed: int, *, whole: bool = False
) -> list[Filing]:
    if whole:
        quarters = widened(cast, quarters, seed)
    if cast.key == "FM-0001":
        return _with_restatement(cast, quarters, seed)
    filings = list(_plain(cast, quarters, seed))
    if cast.key == "FM-0023":
        filings = _with_withdrawal(cast, filings, quarters)
    return stories.filings_of(cast.key, filings) if whole else filings


def _plain(cast: Cast, quarters: list[Quarter], seed: int) -> Iterator[Filing]:
    rng = random.Random(f"{seed}:{cast.key}:dates")
    for index, quarter in enumerate(quarters):
        days, hour = rng.randint(33, 48), rng.choice((6, 7, 16, 21))
        if cast.style == "half" and quarter.number in (1, 3):
            continue
        if f"{quarter.year}Q{quarter.number}" in cast.missed:
            continue
        annual = quarter.number == 4
        day = quarter.end + timedelta(days + (18 if annual else 0) + cast.lag)
        day += timedelta({5: 2, 6: 1}.get(day.weekday(), 0))
        year = [
            stories.on_its_basis(cast.key, q)
            for q in quarters[index + 1 - quarter.number : index + 1]
        ]
        reported = [stories.in_dollars(cast, q) for q in year]
        as_of_then = reported[-1][0]
        figures = partial(_figures, as_of_then, [q for _, q in reported])
        yield _filing(as_of_then, quarter, day, time(hour, rng.choice((0, 4, 30))), figures)


def _figures(cast: Cast, so_far: list[Quarter]) -> Iterator[dict[str, Any]]:
    """What a company reports at the end of the last of its fiscal year's quarters so far."""
    last, number = so_far[-1], len(so_far)
    runs = {"discrete": (1,), "cumulative": (number,), "both": (1, number), "half": (number,)}[
        cast.style
    ]
    if number == 4:
        runs = (4,)
    for tag, (figure, industrial) in _FLOWS.items():
        if industrial and cast.template != "industrial":
            continue
        for length in dict.fromkeys((number,) if tag in _CASH else runs):
            amount = sum(q.flows[figure] for q in so_far[-length:])
            yield _flow(tag, so_far[-length].start, last.end, amount)
    for length in dict.fromkeys(runs):
        net = sum(q.flows["net"] for q in so_far[-length:]) * 10 ** SCALE[cast.currency]
        yield _flow(
            "earnings_per_share_diluted",
            so_far[-length].start,
            last.end,
            round(net / last.shares, 2),
            0,
        )
    for tag, (figure, industrial) in _BALANCES.items():
        if not industrial or cast.template == "industrial":
            yield {"tag": tag, "at": str(last.end), "amount": last.balances[figure]}
    yield {"tag": "shares_in_issue", "at": str(last.end), "amount": last.shares, "scale": 0}
    if last.more_balances:
        yield from _more(cast, so_far, runs)


def _more(cast: Cast, so_far: list[Quarter], runs: tuple[int, ...]) -> Iterator[dict[str, Any]]:
    """The rest of the statements: all of it once a year, the main lines at the other quarters."""
    last, annual = so_far[-1], len(so_far) == 4
    length = runs[0]
    for tag in {t: None for q in so_far[-length:] for t in q.more_flows}:
        if annual or tag in statements.INTERIM:
            amount = sum(q.more_flows.get(tag, 0) for q in so_far[-length:])
            yield _flow(tag, so_far[-length].start, last.end, amount)
    yield _flow("average_shares", so_far[-length].start, last.end, last.shares, 0)
    for tag, amount in last.more_balances.items():
        if annual or tag in statements.INTERIM:
            yield {"tag": tag, "at": str(last.end), "amount": amount}
    for tag, amount in last.beside.items():
        scale = {} if tag == "orders_in_hand" else {"scale": 0}
        yield {"tag": tag, "at": str(last.end), "amount": amount, **scale}


def _flow(
    tag: str, start: date, end: date, amount: float, scale: int | None = None
) -> dict[str, Any]:
    figure = {"tag": tag, "from": str(start), "to": str(end), "amount": amount}
    return figure if scale is None else {**figure, "scale": scale}


def _part(quarter: Quarter) -> str:
    """How the filing of a quarter is named within its year."""
    if quarter.transition:
        return f"TP{quarter.number}"
    return "FY" if quarter.number == 4 else f"Q{quarter.number}"


_WORDS = {1: "first quarter", 2: "half year", 3: "nine months"}


def _filing(
    cast: Cast,
    quarter: Quarter,
    day: date,
    hour: time,
    figures: Callable[[], Iterable[dict[str, Any]]],
    **other: Any,
) -> Filing:
    year, annual = quarter.year, quarter.number == 4
    part = _part(quarter)
    words = (
        {1: "first quarter", 2: "second quarter", 3: "third quarter"}
        if cast.style == "discrete"
        else _WORDS
    )
    title = f"Annual report {year}" if annual else f"Results, {words[quarter.number]} {year}"
    kind = "annual_report" if annual else "interim_results"
    period: str | None = f"FY{year}" if annual else f"FY{year}Q{quarter.number}"
    if quarter.transition:
        period = f"TP{year}" if quarter.number == 2 else None
        title = f"{'Transition report' if period else 'Results, first quarter of the transition'} {year}"
    head: dict[str, Any] = {
        "filing": f"{cast.key}-{year}-{part}",
        "company": cast.key,
        "title": title,
        "kind": kind,
        "fiscal_period": period,
        "currency": cast.currency,
        "scale": SCALE[cast.currency],
    }
    if cast.publishes == "instant":
        head["published_at"] = datetime.combine(day, hour, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    elif cast.publishes == "date":
        head["published_on"] = str(day)
    head |= other
    published = head.get("published_at") or head.get("published_on") or ""
    known = datetime.combine(day + timedelta(1) if cast.publishes == "date" else day, hour, UTC)
    return Filing(
        head["filing"],
        head["title"],
        head["kind"],
        published,
        lambda: as_written(head, list(figures())),
        known,
    )


def _with_restatement(cast: Cast, quarters: list[Quarter], seed: int) -> list[Filing]:
    """Story 1: on 15 January 2024 costs that had been carried as assets are
    charged to 2022 and 2023 after all.
    """
    charged = []
    for quarter in quarters:
        share = 0.0 if quarter.year < 2022 else 0.055
        extra = round(quarter.flows["revenue"] * share)
        flows = {
            **quarter.flows,
            "cost": quarter.flows["cost"] + extra,
            "operating": quarter.flows["operating"] - extra,
            "net": quarter.flows["net"] - round(extra * 0.75),
        }
        charged.append(replace(quarter, flows=flows))
    if quarters[0].more_balances:
        charged = widened(cast, charged, seed)
    moment = date(2024, 1, 15)
    before = [f for f in _plain(cast, quarters, seed) if f.published < str(moment)]
    after = [f for f in _plain(cast, charged, seed) if f.published >= str(moment)]
    tags = {
        "cost_of_sales",
        "operating_profit",
        "profit_for_owners",
        "earnings_per_share_diluted",
        "gross_result",
        "result_before_tax",
        "tax_charge",
    }
    figures = []
    for index, quarter in enumerate(charged):
        if quarter.year in (2022, 2023) and quarter.end <= date(2023, 9, 30):
            so_far = charged[index + 1 - quarter.number : index + 1]
            figures += [f for f in _figures(cast, so_far) if f["tag"] in tags]
    last = charged[[q.end for q in charged].index(date(2023, 9, 30))]
    restated = _filing(
        cast,
        last,
        moment,
        time(7, 30),
        lambda: figures,
        filing=f"{cast.key}-2023-R1",
        title="Restated accounts 2022 and 2023",
        kind="restatement",
        fiscal_period=None,
    )
    return [*before, restated, *after]


def _with_withdrawal(cast: Cast, filings: list[Filing], quarters: list[Quarter]) -> list[Filing]:
    """The operating profit of the year 2023 is withdrawn in May 2024 and reported again in July."""
    year = [q for q in quarters if q.year == 2023]
    figure = next(f for f in _figures(cast, year) if f["tag"] == "operating_profit")

    def notice(number: int, day: date, title: str, amount: int | None) -> Filing:
        head = {"filing": f"{cast.key}-2023-W{number}", "title": title, "kind": "correction"}
        return _filing(
            cast, year[-1], day, time(12, 0), lambda: [{**figure, "amount": amount}], **head
        )

    back = notice(1, date(2024, 5, 6), "Operating profit 2023 withdrawn", None)
    again = notice(
        2, date(2024, 7, 18), "Operating profit 2023 corrected", round(figure["amount"] * 0.97)
    )
    return sorted([*filings, back, again], key=lambda f: f.published)
