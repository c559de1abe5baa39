"""What is asked of a service through all its doors, and what a ledger needs to answer it."""

from tools.everycall import FACTS, RATES, SLIP

from wise_ledger.client import Ledger

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


def brought(ledger: Ledger) -> None:
    """Bring what the expressions read: an item, a measure, series, a list, and some slips."""
    ledger.register_item("mood", "Mood", "pure", "pages", "ada")
    ledger.keep_measure("thin", "net_income / revenue", "ada")
    for kind, content in BEFORE:
        found = ledger.load(kind, content)
        assert not found.bad, found.bad
