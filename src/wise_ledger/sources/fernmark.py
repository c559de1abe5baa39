"""The adapter to Fernmark Data: companies, lists and filings as JSON over HTTP."""

from collections.abc import Collection, Iterator
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from typing import Any

from wise_ledger.core.facts.instants import assumed_publication, end_of_day
from wise_ledger.core.facts.items import ITEMS
from wise_ledger.core.facts.records import (
    AttributeRecord,
    CompanyRecord,
    DocumentRecord,
    FactRecord,
    IdentifierRecord,
    ListingRecord,
    ListRecord,
    MemberRecord,
    SecurityRecord,
)
from wise_ledger.core.fiscal.labels import Period, implied_end
from wise_ledger.sources.errors import bad_figure, damaged
from wise_ledger.sources.http import SourceHttp
from wise_ledger.sources.protocol import FilingRecord

NAME, TITLE = "fernmark", "Fernmark Data"

# Fernmark's tags and our items; its scales are powers of ten, its costs and outflows positive like ours.
TAGS = {
    "sales": "revenue",
    "cost_of_sales": "cost_of_revenue",
    "operating_profit": "operating_income",
    "profit_for_owners": "net_income",
    "earnings_per_share_diluted": "diluted_eps",
    "cash_from_operations": "operating_cash_flow",
    "capital_spending": "capital_expenditure",
    "assets_current": "current_assets",
    "assets_total": "total_assets",
    "liabilities_total": "total_liabilities",
    "equity_total": "shareholders_equity",
    "shares_in_issue": "shares_outstanding",
}
_ATTRIBUTES = ("country", "currency", "industry", "template", "fiscal_year_end", "seat", "website", "description")
_FAR = 31  # days between a period's end and the month end that its label implies, at most


class Fernmark:
    """Fernmark Data at `base_url`, asked with `key`; each answer must come within `timeout` seconds."""

    name, title = NAME, TITLE

    def __init__(self, base_url: str, key: str, timeout: float) -> None:
        self._http = SourceHttp(TITLE, base_url, {"X-Api-Key": key}, timeout)

    @property
    def tries(self) -> int:
        """Requests made so far, those repeated included."""
        return self._http.tries

    def close(self) -> None:
        """Let go of the connections."""
        self._http.close()

    def companies(self) -> list[CompanyRecord]:
        """Every company, with attributes and symbol."""
        return [_company(row) for row in self._http.pages("/v1/companies", "companies")]

    def lists(self) -> list[ListRecord]:
        """Every list with its members."""
        return [
            ListRecord(
                row["name"],
                row["title"],
                tuple(_member(m) for m in self._http.pages(f"/v1/lists/{row['name']}/members", "members")),
            )
            for row in self._http.pages("/v1/lists", "lists")
        ]

    def filings(self, company: CompanyRecord, known: Collection[str]) -> Iterator[FilingRecord]:
        """The filings not known yet, oldest first."""
        year_end = next((int(a.value) for a in company.attributes if a.name == "fiscal_year_end"), 12)
        for row in self._http.pages(f"/v1/companies/{company.key}/filings", "filings"):
            key = f"{row['id']}@{row['version']}"
            if key not in known:
                raw, body = self._http.get(f"/v1/filings/{row['id']}")
                yield _filing(key, raw, body, year_end)


def _company(row: dict[str, Any]) -> CompanyRecord:
    where = f"{TITLE} company {row.get('key')}"
    try:
        since = date.fromisoformat(row["since"])
        attributes = [AttributeRecord(name, str(row[name]), since) for name in _ATTRIBUTES]
        former = [(n["name"], date.fromisoformat(n["from"]), date.fromisoformat(n["to"])) for n in row["names"]]
        attributes += [AttributeRecord("name", name, begin) for name, begin, _ in former]
        named_since = max([since, *(until + timedelta(days=1) for _, _, until in former)])
        attributes += [AttributeRecord("name", row["name"], named_since), AttributeRecord("active", "yes", since)]
        if row["ended"] is not None:
            after = date.fromisoformat(row["ended"]) + timedelta(days=1)
            attributes += [AttributeRecord("active", "no", after), AttributeRecord("end_cause", row["cause"], after)]
        securities = tuple(_security(s) for s in row["securities"])
        identifiers = tuple(_identifier(i) for i in row["identifiers"])
        return CompanyRecord(row["key"], row["name"], tuple(attributes), identifiers, securities)
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(where, row, f"the company lacks or garbles {error}") from None


def _until(row: dict[str, Any]) -> date | None:
    return None if row["to"] is None else date.fromisoformat(row["to"])


def _plain(number: Any) -> float | None:
    """A weight or ratio as the ledger keeps it: told again it must be the same number, not its exact decimal."""
    return None if number is None else float(number)


def _security(row: dict[str, Any]) -> SecurityRecord:
    listings = tuple(
        ListingRecord(x["symbol"], x["mic"], x["currency"], date.fromisoformat(x["from"]), _until(x), x["primary"])
        for x in row["listings"]
    )
    return SecurityRecord(row["key"], row["type"], row["title"], _plain(row["ratio"]), listings)


def _identifier(row: dict[str, Any]) -> IdentifierRecord:
    since = date.fromisoformat(row["from"])
    return IdentifierRecord(row["scheme"], row["value"], since, _until(row), row["security"])


def _member(row: dict[str, Any]) -> MemberRecord:
    try:
        return MemberRecord(row["company"], date.fromisoformat(row["from"]), _until(row), _plain(row.get("weight")))
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(f"{TITLE} list member", row, f"the row lacks or garbles {error}") from None


def _filing(key: str, raw: bytes, body: Any, year_end: int) -> FilingRecord:
    where = f"{TITLE} filing {key}"
    try:
        published = _published(body)
        document = DocumentRecord(key, body["title"], body["kind"], "application/json", raw, published)
        figures, currency, scale = body["figures"], body["currency"], body["scale"]
        declared = implied_end(body.get("fiscal_period") or "", year_end)
        ends = [_day(f.get("to") or f["at"], where) for f in figures]
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise damaged(where, body, f"the filing lacks or garbles {error}") from None
    facts, unmapped = [], []
    for place, (figure, end) in enumerate(zip(figures, ends, strict=True)):
        if figure["tag"] not in TAGS:
            unmapped.append(figure["tag"])
            continue
        item = ITEMS[TAGS[figure["tag"]]]
        at = f"{where}, figure {place + 1} ({figure['tag']})"
        start = _day(figure["from"], at) if "from" in figure else None
        if start is not None and start > end:
            raise bad_figure(at, f"{start} to {end}", "the period runs backwards")
        power = figure.get("scale", scale)
        span = Period(start, end).span
        own = declared is not None and end == max(ends) and abs((declared - end).days) <= _FAR
        facts.append(
            FactRecord(
                item=item.code,
                period_start=start,
                period_end=end,
                value=_value(figure["amount"], power, at),
                reported="" if figure["amount"] is None else str(figure["amount"]),
                scale=power,
                unit={"money": currency, "money_per_share": f"{currency}/shares"}.get(item.unit, item.unit),
                published_at=published or assumed_publication(end, span, end.month == year_end),
                assumed=published is None,
                place=f"/figures/{place}",
                fiscal_period=body.get("fiscal_period"),
                declared_end=declared if own else None,
            )
        )
    return FilingRecord(document, tuple(facts), tuple(unmapped))


def _published(body: dict[str, Any]) -> datetime | None:
    """The publication instant: given as such, as a day (T2), or not at all (T4)."""
    if text := body.get("published_at"):
        return datetime.fromisoformat(text).astimezone(UTC)
    if text := body.get("published_on"):
        return end_of_day(date.fromisoformat(text))
    return None


def _day(text: str, at: str) -> date:
    try:
        return date.fromisoformat(text)
    except (TypeError, ValueError):
        raise bad_figure(at, text, "this is no date") from None


def _value(amount: Any, scale: int, at: str) -> float | None:
    """In units; a figure that is taken back has no amount (T6)."""
    if amount is None:
        return None
    if isinstance(amount, bool) or not isinstance(amount, int | Decimal):
        raise bad_figure(at, amount, "this is no number")
    return float(Decimal(amount).scaleb(scale))
