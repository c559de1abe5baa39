"""Every call of the API once, through the Python client, over the demo's data: what the examples
of answers in the OpenAPI document are recorded from, and what they are tried against.
"""

import io
import zipfile
from collections.abc import Callable, Iterable, Iterator

from starlette.routing import compile_path

from wise_ledger.client import Ledger
from wise_ledger.wire.collecting import TagRule, Timing
from wise_ledger.wire.panels import PanelRequest
from wise_ledger.wire.prices import PricesRequest

ON, WHO, LIST, COMPANY, SERIES = (
    "2023-12-31",
    "Ada",
    "first-look",
    "AGK@ZALD",
    "CONFIDENCE/M.XA.BLD",
)
RATES = b"base,quote,date,rate\n" + b"".join(
    b"USD,SEK,2023-12-%02d,%s\n" % (n + 4, rate)
    for n, rate in enumerate((b"10.0", b"10.1", b"1010.0", b"10.2", b"10.1"))
)
_HEADS = b"company,item,period_end,value,unit,published_at\n"
_ASSETS = b"AGK@ZALD,total_assets,%d-12-31,%d,USD,%d-02-01\n"
FACTS = _HEADS + b"".join(_ASSETS % (year, year - 1_950, year + 1) for year in (2001, 2002, 2004))
SLIP = _HEADS + _ASSETS % (2003, 53_000, 2004)
ASKED = PanelRequest(expressions=["revenue", "current_ratio"], list=LIST, dates=[ON])
PRICES = PricesRequest(companies=[COMPANY], start="2023-01-01", end=ON, frequency="month")
MAPPING = """
captured: "%Y%m%dT%H%M%SZ"
source: kestrel_pages
labels:
  Disclosure score: disclosure_score
"""
PAGE = "<table><tr><th>Disclosure score:</th><td>61</td></tr></table>"


def every_call(ledger: Ledger) -> Iterator[Callable[[], object]]:
    """The calls, each to be made in its turn."""
    yield from _of_companies(ledger)
    yield from _of_figures(ledger)
    yield from _of_market(ledger)
    yield from _of_series(ledger)
    yield from _of_what_is_kept(ledger)
    yield from _of_panels(ledger)
    yield from _of_gathering(ledger)
    yield from _of_the_ledger(ledger)


def template(paths: Iterable[str], path: str) -> str:
    """The path of the document that an address belongs to; one without a name in it first."""
    found = [p for p in paths if compile_path(p)[0].match(path)]
    return min(found, key=lambda p: p.count("{"))


def _of_companies(ledger: Ledger) -> Iterator[Callable[[], object]]:
    yield lambda: ledger.companies("kiln", ON)
    yield lambda: ledger.company(COMPANY, ON)
    yield lambda: ledger.venues(ON)
    yield lambda: ledger.securities(ON)
    yield lambda: ledger.listings(ON)
    yield lambda: ledger.call_venue(".AM", "ZALD", WHO)
    yield lambda: ledger.match([COMPANY, "Dunmarsh Bank", "nobody of this name"], ON)
    yield lambda: ledger.match([COMPANY] * 1_001, ON)
    yield lambda: ledger.read_terms(b"name,country\nAshgrove Kilnworks,XA\n")
    yield lambda: ledger.decide("the works", COMPANY, WHO, "as the annual report has it")
    yield ledger.decisions


def _of_figures(ledger: Ledger) -> Iterator[Callable[[], object]]:
    yield lambda: ledger.statement(COMPANY, "income", "annual", ON, periods=2)
    yield lambda: ledger.statements([COMPANY, "nobody"], "balance", "annual", ON, periods=1)
    yield lambda: ledger.restatements(known_on="2024-01-31", limit=None)
    yield lambda: ledger.document(ledger.explain(COMPANY, "revenue", ON).facts()["sha256"].iloc[0])
    yield lambda: ledger.screen("net_margin > 15%", LIST, ON, show=["revenue"])
    yield ledger.catalogue
    yield lambda: ledger.find("turnover", company=COMPANY, limit=None)
    yield lambda: ledger.item("revenue")
    yield lambda: ledger.register_item("disclosure_score", "Score", "pure", "pages", WHO)
    yield lambda: ledger.load("facts", FACTS)
    yield lambda: ledger.load("facts", SLIP)
    yield lambda: ledger.quality(limit=None)
    yield lambda: ledger.decide_quarantine(
        [f.fact for f in ledger.quality(state="quarantined").findings][:1], False, WHO, "a slip"
    )
    yield lambda: ledger.coverage(LIST)


def _of_market(ledger: Ledger) -> Iterator[Callable[[], object]]:
    yield lambda: ledger.market(ON, list=LIST)
    yield lambda: ledger.prices([COMPANY], "2023-12-01", ON)
    yield lambda: ledger.price_file(PRICES, "csv")
    yield lambda: ledger.price_answer(PRICES)
    yield lambda: ledger.levels("index-of-aldmoor", "2023-12-01", ON)
    yield lambda: ledger.estimates(COMPANY, ON)
    yield lambda: ledger.estimate_history([COMPANY], "2023-01-01", ON)
    yield lambda: ledger.announcements([COMPANY], "2023-01-01", ON)
    yield lambda: ledger.calendar([COMPANY], "2023-10-01", ON, known_on="2023-09-30")
    yield lambda: ledger.load("rates", RATES)
    yield lambda: ledger.market_quality(limit=None)
    yield lambda: ledger.decide_market_quarantine(
        [
            (f.kind, f.subject, f.date)
            for f in ledger.market_quality(state="quarantined").findings[:1]
        ],
        False,
        WHO,
        "a slip",
    )


def _of_series(ledger: Ledger) -> Iterator[Callable[[], object]]:
    one = {"start": "2023-01", "end": "2023-06", "known_on": ON}
    yield lambda: ledger.find_series("confidence", ON, limit=None)
    yield lambda: ledger.describe_series(SERIES, ON)
    yield lambda: ledger.series([SERIES], **one)
    yield lambda: ledger.compare_series([SERIES, "CONFIDENCE/M.XA.RET"], "2022-01", "2023-06", ON)
    yield lambda: ledger.revisions(SERIES, "2023-03", ON)
    yield lambda: ledger.vintages(SERIES, **one)
    yield lambda: ledger.releases(SERIES, **one)
    yield lambda: ledger.keep_sheet("prices-at-home", [SERIES], WHO, title="Prices at home")
    yield lambda: ledger.sheet("prices-at-home")
    yield ledger.sheets
    yield lambda: ledger.sheet_versions("prices-at-home")
    yield lambda: ledger.read_sheet("prices-at-home", ON)
    yield lambda: ledger.sheet_changes("prices-at-home", "2023-09-30", ON)
    yield lambda: ledger.archive_sheet("prices-at-home", WHO)


def _of_what_is_kept(ledger: Ledger) -> Iterator[Callable[[], object]]:
    yield ledger.lists
    yield lambda: ledger.keep_list("two", [COMPANY, "DMB@ZALD"], WHO, "Two")
    yield lambda: ledger.change_list("two", WHO, description="Two to begin with")
    yield lambda: ledger.combine_lists("both", "union", ["two", LIST], WHO)
    yield lambda: ledger.members(LIST, ON, show=["revenue"])
    yield lambda: ledger.list_versions("two")
    yield ledger.measures
    yield lambda: ledger.keep_measure(
        "thin_margin", "net_income / revenue", WHO, title="Thin margin"
    )
    yield lambda: ledger.measure("thin_margin")
    yield lambda: ledger.measure_versions("thin_margin")
    yield lambda: ledger.check("net_income / revenue > 5%")
    yield lambda: ledger.format_expression("net_income/revenue>5%")
    yield lambda: ledger.keep_definitions(ledger.measure_definitions(["thin_margin"]).encode(), WHO)
    yield lambda: ledger.archive_measure("thin_margin", WHO)


def _of_panels(ledger: Ledger) -> Iterator[Callable[[], object]]:
    question = {"expressions": ["revenue"], "list": LIST, "dates": [ON]}
    yield lambda: ledger.plan_panel(ASKED)
    yield lambda: ledger.panel_summary(ASKED)
    yield lambda: ledger.panel_rows(ASKED)
    yield lambda: ledger.panel_file(ASKED, "csv")
    yield lambda: ledger.panel(LIST, ["revenue"], ON)
    yield lambda: ledger.panel_answer(ASKED)
    yield lambda: ledger.keep_question("revenue-of-all", "panel", question, WHO)
    yield lambda: ledger.question("revenue-of-all")
    yield ledger.questions
    yield lambda: ledger.question_versions("revenue-of-all")
    yield lambda: ledger.kept_panel("revenue-of-all", ON)
    yield lambda: ledger.archive_question("revenue-of-all", WHO)
    yield lambda: ledger.keep_question("wide", "screen", {"rule": "net_margin > 15%"}, WHO)
    yield lambda: ledger.kept_screen("wide", ON)
    yield lambda: ledger.ask_extract(ASKED, "csv")
    yield lambda: ledger.wait_for_extract(ledger.extracts().extracts[0].id)
    yield lambda: ledger.extract(ledger.extracts().extracts[0].id)
    yield lambda: ledger.extract_file(ledger.extracts().extracts[0].id)
    yield lambda: ledger.drop_extract(ledger.extracts().extracts[0].id)


def _of_gathering(ledger: Ledger) -> Iterator[Callable[[], object]]:
    tag = TagRule(tag="orders_in_hand", item="inventory", who=WHO, expected=True)
    yield ledger.sources
    yield lambda: ledger.plan("fernmark", companies=[COMPANY])
    yield lambda: ledger.collect("fernmark", companies=[COMPANY], confirmed=True)
    yield lambda: list(ledger.events(ledger.queue("fernmark", companies=[COMPANY]).id))
    yield lambda: ledger.resume(ledger.pause(ledger.queue("fernmark", confirmed=True).id).id)
    yield lambda: ledger.cancel(ledger.pause(ledger.queue("fernmark", confirmed=True).id).id)
    yield lambda: ledger.try_again(ledger.runs()[0].id)
    yield lambda: ledger.runs(limit=None)
    yield lambda: ledger.run(1)
    yield lambda: ledger.digest(1)
    yield lambda: ledger.tags("fernmark")
    yield lambda: ledger.map_tag("fernmark", tag)
    yield lambda: ledger.resume_source("fernmark")
    yield lambda: ledger.prefer_sources(["fernmark"], WHO, why="it has more of them")
    yield ledger.source_orders
    yield lambda: ledger.set_limit("lag_of_year", 75, WHO, source="fernmark", why="it is quicker")
    yield ledger.limits
    yield lambda: ledger.keep_schedule("each-night", "fernmark", WHO, timing=Timing(at=["02:30"]))
    yield ledger.schedules
    yield lambda: ledger.pause_schedule("each-night")
    yield lambda: ledger.wait(ledger.run_schedule("each-night"))
    yield lambda: ledger.remove_schedule("each-night")
    yield lambda: ledger.load_template("rates")
    yield lambda: ledger.load_pages(_packed(PAGE), MAPPING)


def _packed(page: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("Ashgrove_Kilnworks/page_20230601T120000Z.html", page)
    return out.getvalue()


def _of_the_ledger(ledger: Ledger) -> Iterator[Callable[[], object]]:
    yield lambda: list(ledger.batches())
    yield ledger.verify
    yield ledger.tokens
    yield lambda: ledger.revoke_token(ledger.make_token("a colleague").id)
