"""The archive's reports: what companies of the made-up world filed once a year,
as xBRL-JSON (the OIM's JSON form).

Amounts are in full with `decimals`; beside the consolidated figures stand segments, and extension
tags of the company's own. Of one company the archive has another long-term debt than its data
vendor (story 14).
"""

import json
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

DOCUMENT_TYPE = "https://xbrl.org/2021/xbrl-json"
TAXONOMY = "https://tolvane.example/taxonomy/2023"
COMPANIES = (
    "FM-0001",
    "FM-0002",
    "FM-0003",
    "FM-0007",
    "FM-0009",
    "FM-0011",
    "FM-0012",
    "FM-0014",
    "FM-0015",
    "FM-0018",
    "FM-0023",
)
OTHER_DEBT = "FM-0009"
_OWN = {
    "training_hours": "TrainingHours",
    "water_drawn": "WaterDrawn",
    "orders_in_hand": "OrdersInHand",
}


@dataclass(frozen=True)
class Report:
    """A report as served; `body` is its JSON."""

    id: str
    lei: str
    company: str
    title: str
    published: str
    body: bytes


def make_reports(world: Any) -> list[Report]:
    """The reports of some companies of a world of Fernmark's, the oldest first."""
    out = []
    for company in world.companies:
        if company["key"] not in COMPANIES:
            continue
        lei = next(i["value"] for i in company["identifiers"] if i["scheme"] == "lei")
        for filing in world.filings[company["key"]]:
            filed = json.loads(filing.body)
            if filing.kind == "annual_report" and filed.get("published_at"):
                out.append(_report(company, lei, filed))
    return sorted(out, key=lambda r: (r.published, r.id))


def concept(tag: str) -> str:
    """The archive's name for what the vendor calls so: TradeReceivables for trade_receivables."""
    return "tvf:" + "".join(part.capitalize() for part in tag.split("_"))


def _report(company: dict[str, Any], lei: str, filed: dict[str, Any]) -> Report:
    own = company["symbol"].partition("@")[0].lower().replace(".", "")
    facts: dict[str, Any] = {}

    def add(name: str, figure: dict[str, Any], amount: float, **dimensions: str) -> None:
        scale = figure.get("scale", filed["scale"])
        counted = ("shares_in_issue", "average_shares", "staff", "training_hours", "water_drawn")
        money = figure["tag"] not in counted
        unit = f"iso4217:{filed['currency']}" if money else "xbrli:shares"
        if figure["tag"] == "earnings_per_share_diluted":
            unit += "/xbrli:shares"
        about: dict[str, Any] = {
            "concept": name,
            "entity": f"lei:{lei}",
            "period": _period(figure),
            **dimensions,
        }
        if figure["tag"] not in ("staff", "training_hours", "water_drawn"):
            about["unit"] = unit
        value = f"{amount}" if scale == 0 else f"{amount * 10**scale}"
        facts[f"f{len(facts) + 1}"] = {
            "value": value,
            "decimals": -scale if scale else 2,
            "dimensions": about,
        }

    for figure in filed["figures"]:
        if figure["amount"] is None:
            continue
        if figure["tag"] in _OWN:
            add(f"{own}:{_OWN[figure['tag']]}", figure, figure["amount"])
            continue
        amount = figure["amount"]
        if company["key"] == OTHER_DEBT and figure["tag"] == "borrowings_long":
            amount = round(amount * 1.08)
        add(concept(figure["tag"]), figure, amount)
        if figure["tag"] == "sales":
            for segment, share in ((f"{own}:Home", 0.6), (f"{own}:Abroad", 0.4)):
                add(concept("sales"), figure, round(amount * share), **{"tvf:SegmentAxis": segment})
    head = {
        "documentType": DOCUMENT_TYPE,
        "namespaces": {"tvf": TAXONOMY, own: f"https://{own}.example/reports", "iso4217": "http://www.xbrl.org/2003/iso4217",
                       "xbrli": "http://www.xbrl.org/2003/instance", "lei": "http://standards.iso.org/iso/17442"},
        "taxonomy": [TAXONOMY],
    }  # fmt: skip
    # The archive has a report some hours after the company sent it out.
    published = filed["published_at"].replace("Z", "+00:00")
    body = json.dumps({"documentInfo": head, "facts": facts}, indent=1).encode()
    name = f"TF-{filed['filing'].removeprefix('FM-')}"
    return Report(name, lei, company["name"], filed["title"], published[:19] + "Z", body)


def _period(figure: dict[str, Any]) -> str:
    """An instant, or an interval that ends as the next day begins, as the standard has it."""
    after = date.fromisoformat(figure.get("to") or figure["at"]) + timedelta(days=1)
    return (
        f"{figure['from']}T00:00:00/{after}T00:00:00" if "from" in figure else f"{after}T00:00:00"
    )
