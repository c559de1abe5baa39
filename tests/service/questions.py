"""What is asked of a service through all its doors, and what a ledger needs to answer it."""

import math
from typing import Any, ClassVar

import pandas as pd
from tools.everycall import FACTS, RATES, SLIP

from tests.live import WORLD, Live, LiveLedger
from wise_ledger.client import Ledger
from wise_ledger.standins.oskelby import make_opinions

KEYS = ("OUTPUT/Q.XA", "PRICES/Q.XA")
QUARTERS = (f"{2018 + n // 4}Q{1 + n % 4},{1 + n * 2 % 5},{2019 + n // 4}-02-01" for n in range(18))
SAID = (f"{name},Some {name},2019-01-01T00:00:00Z" for name in ("title", "unit"))
SERIES = ["series,period,value,released_at", *(f"{k},{q}" for q in QUARTERS for k in KEYS)]
TITLES = ["series,name,value,published_at", *(f"{k},{s}" for s in SAID for k in KEYS)]
BEFORE = (
    ("series", "\n".join(SERIES).encode()),
    ("series_attributes", "\n".join(TITLES).encode()),
    ("observations", b"company,item,observed_at,value,unit\nAGK@ZALD,mood,2023-05-01,40,pure\n"),
    ("members", b"list,company,valid_from\nmine,AGK@ZALD,2020-01-01\nmine,PTP@ZBRE,2021-01-01\n"),
    ("facts", FACTS),
    ("facts", SLIP),
    ("rates", RATES),
)
EXPRESSIONS = [
    "revenue", "operating_income.q / revenue.q", "growth(revenue, 1y)", "slope(revenue.q, 2y)",
    "first_reported(total_assets)", "diluted_eps.fy", "goodwill / total_assets", "thin", "mood",
    "close", "volume", "high_52w", "dividend_12mo", "market_value", "enterprise_value",
    "total_return(1y)", 'price_return(6mo, over="index-of-aldmoor")', "mean(close, 30d)",
    "stdev(price_return(1mo), 6mo)", "ago(market_value, 6mo)", "growth(close, 1y)",
    "at_period_end(close) / diluted_eps.fy", "rank(close / diluted_eps.fy)",
    "estimate(eps, fy1)", "estimate(eps, ntm)", "estimate(revenue, fy1, count)",
    "ago(estimate(eps, fy1), 3mo)", "surprise(eps)", "surprise(revenue, relative)",
    'series("OUTPUT/Q.XA")', 'change(series("PRICES/Q.XA"), 1y)',
    "percentile(net_income, within=industry)", "industry", "country", "venue", "currency",
    "active", "template", "fiscal_year_end",
]  # fmt: skip

WHO = ["AGK@ZALD", "PTP@ZBRE", "ISK@ZCAL"]
QUARTERLY = ["2022-01-01/2023-06-30 quarterly", "2023-06-20/2023-06-30 trading ZALD"]
LIST, ONE, BOTH = {"list": "first-look"}, {"company": "AGK@ZALD"}, {"series": list(KEYS)}
YEARS = {"company": WHO, "start": "2022-01-01", "end": "2023-12-31"}
ASKED: dict[str, dict[str, Any]] = {
    "GET /companies": {}, "GET /companies/AGK@ZALD": {}, "GET /venues": {}, "GET /securities": {},
    "GET /listings": {}, "GET /estimates": ONE, "GET /estimates/announcements": YEARS,
    "GET /estimates/calendar": YEARS, "GET /estimates/history": YEARS | {"end": "2023-06-30"},
    "GET /explanations": ONE | {"expression": "market_value / net_income"},
    "GET /levels": {"list": "index-of-aldmoor"}, "GET /lists/first-look/members": {},
    "GET /lists/index-of-aldmoor/members": {}, "GET /lists/mine/members": {}, "GET /market": LIST,
    "GET /restatements": LIST, "GET /statements": ONE, "GET /series": {},
    "GET /series/description": {"key": KEYS[0]}, "GET /series/vintages": {"key": KEYS[0]},
    "GET /series/releases": {"key": list(KEYS)},
    "GET /series/revisions": {"key": KEYS[0], "period": "2020Q1"},
    "POST /matches": {"terms": [*WHO, "Ashgrove", "PTP", "nobody"], "on": "2023-06-30"},
    "POST /panels": {"expressions": EXPRESSIONS, "dates": QUARTERLY} | LIST,
    "POST /panels at the close": {"expressions": EXPRESSIONS[10:32], "at_close": True}
    | {"dates": ["2021-06-30/2023-06-30 quarterly"], "list": "by-rule", "currency": "EUR"},
    "POST /panels by period": {"expressions": ["revenue", "mood"], "periods": "FY2019/FY2023"} | LIST,
    "GET /lists/by-rule/members": {"show": ["market_value"], "where": "close > 1 USD"},
    "POST /panels/summary": {"expressions": ["revenue", "close"], "dates": ["2023-06-30"]} | LIST,
    "POST /prices": {"companies": WHO, "start": "2023-01-01", "end": "2023-12-31"},
    "POST /screens": {"rule": "revenue > 1mn EUR", "show": EXPRESSIONS} | LIST,
    "POST /statements": LIST, "POST /series/comparison": BOTH, "POST /series/observations": BOTH,
}  # fmt: skip
BY_DAY = dict.fromkeys(
    ("/companies", "/companies/AGK@ZALD", "/venues", "/securities", "/listings"), "on"
)


def answered(live: LiveLedger) -> dict[str, int]:
    """The status of the answer to each call; a list `by-rule` has to be kept."""
    found = {}
    for call, asked in ASKED.items():
        verb, path, *_ = call.split()
        by = {"params": asked} if verb == "GET" else {"json": asked}
        found[call] = live.http(verb, path, **by).status_code
    return found


def brought(ledger: Ledger) -> None:
    """Bring what the expressions read: an item, a measure, series, a list, and some slips."""
    ledger.register_item("mood", "Mood", "pure", "pages", "ada")
    ledger.keep_measure("thin", "net_income / revenue", "ada")
    for kind, content in BEFORE:
        found = ledger.load(kind, content)
        assert not found.bad, found.bad


def expected(ledger: Ledger) -> None:
    """Bring what analysts expect of the companies, and what these announced."""
    found = make_opinions(WORLD)
    given = "company,measure,period_end,period_kind,contributor,value,currency,published_at".split(
        ","
    )
    for kind, heads, rows in (
        ("estimates", given, found.contributions),
        ("actuals", [h for h in given if h != "contributor"], found.actuals),
    ):
        frame = pd.DataFrame(rows, columns=heads)
        loaded = ledger.load(kind, frame)
        assert loaded.new == len(frame), (loaded.new, len(frame), loaded.bad[:3])


class Compared(Live):
    """What two doors say is the same."""

    def same(self, got: Any, wanted: Any, *where: Any, scale: float = 1.0) -> None:
        """Two values, or two reasons; what is not there (None, NaN) is in neither."""
        got, wanted = (None if x is None or x != x else x for x in (got, wanted))
        if isinstance(got, str | None) or isinstance(wanted, str | None):
            self.assertEqual(got, wanted, where)
        else:
            close = math.isclose(got, wanted, rel_tol=1e-9, abs_tol=1e-9 * scale)
            self.assertTrue(close, (got, wanted, *where))


class Followed(Compared):
    """The companies of the first look, which analysts follow; one changes its currency."""

    who: ClassVar[list[str]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.bring()

    @classmethod
    def bring(cls) -> None:
        """What is asked about, and of whom."""
        cls.ledger.load("companies", b"company,currency,valid_from\nAGK@ZALD,EUR,2023-03-01\n")
        expected(cls.ledger)
        cls.who = [m.id for m in cls.ledger.members("first-look").members]
