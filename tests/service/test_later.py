"""No answer of the service for a day depends on what any kind of file brings that is of later
(T9), and none as recorded by a batch on what came after it (T7).
"""

import os
import random
import re
from datetime import UTC, datetime, timedelta
from typing import Any

import pandas as pd
from tools.everycall import template as path_of

from tests.answers import document
from tests.live import Live
from tests.service.questions import ASKED, BY_DAY, KEYS, WHO, brought
from tests.service.test_dated import json_fields
from wise_ledger.core.records.columnkinds import COLUMN_KINDS
from wise_ledger.service.app import API
from wise_ledger.work.templates import COLUMNS, template

ON = datetime(2023, 6, 30, 23, 59, 59, 999_999, tzinfo=UTC)


class Rows:
    """Rows of every kind, all of them of later than the day: by their own date, or published so."""

    def __init__(self, seed: int) -> None:
        self.chance = random.Random(seed)

    def shuffled(self, kinds: set[str]) -> list[str]:
        """The kinds in one of their orders."""
        return self.chance.sample(sorted(kinds), len(kinds))

    def of(self, kind: str) -> dict[str, Any]:
        """One of a kind: whatever fits its heads."""
        heads = template(kind).decode().split("\n")[0].split(",")
        dated = {"date", "ex_date", "valid_from"} & set(heads)
        said = self._instant() if not dated or self.chance.random() < 0.5 else ""
        # A split counts from its day on, whenever it became known (M3).
        before = 1500 if said and "published_at" in heads and kind != "splits" else -1
        days = self.chance.randint(-before, 500)
        values = self._values() | dict.fromkeys(dated, str(ON.date() + timedelta(days)))
        values |= {"published_at": said, "released_at": said} | self._own(kind)
        return {h: values.get(h, "") for h in heads}

    def _instant(self) -> str:
        seconds = self.chance.choice([0, 1, 3600, 86400 * 30, 86400 * 400])
        return (ON + timedelta(microseconds=1, seconds=seconds)).isoformat()

    def _own(self, kind: str) -> dict[str, Any]:
        """What a head means in one kind and not in others."""
        pick = self.chance.choice
        return {
            "companies": {"company": pick([*WHO, "N-1", "N-2"])},
            "identifiers": {"value": f"W-{pick(range(9))}", "security": ""},
            "listings": {"security": ""},
            "members": {"list": "mine"},
            "observations": {"item": "mood", "unit": "pure"},
            "rates": {"base": pick(["EUR", "USD"])},
            "actuals": {"value": 2.5},
            "series": {"series": pick([*KEYS, "NEW/Q.XA"]), "value": pick([7, ""])},
            "series_attributes": {"name": "title", "value": "Retitled"},
            "venues": {"close": "11:00"},
        }.get(kind, {})

    def _values(self) -> dict[str, Any]:
        pick, who, year = (
            self.chance.choice,
            self.chance.choice(WHO),
            self.chance.randint(2021, 2024),
        )
        later = str(ON.date() + timedelta(self.chance.randint(1, 500)))
        figures = "mean open ratio receipt_ratio rate level total_return_level weight"
        ended = pick([{}, {"status": "inactive", "status_date": later, "status_cause": "merged"}])
        return {
            **dict.fromkeys(figures.split(), pick([0.5, 2, 4])), "value": pick([2.5, 4, 1e8, ""]),
            **dict.fromkeys(("company", "security", "listing"), who), "series": pick(KEYS),
            "name": pick(["Ashgrove", "Newcome Mills"]), "country": pick(["XA", "XB"]), **ended,
            "industry": pick(["25", "64"]), "currency": pick(["USD", "EUR"]), "scheme": "register",
            "template": pick(["bank", "industrial", "insurer"]), "fiscal_year_end": pick([3, 12]),
            "fiscal_year_named_by": pick(["start", "end"]), "final_return": pick([-0.5, ""]),
            "cause": "merged", "security_type": pick(["ordinary", "depositary_receipt"]),
            "symbol": pick(["NEW", "AGK", "PTP"]), "primary": pick(["yes", "no"]),
            "mic": pick(["ZALD", "ZBRE", "ZCAL"]), "list": "index-of-aldmoor",
            "item": pick(["revenue", "net_income"]), "unit": "USD", "period_start": f"{year}-01-01",
            "period_end": f"{year}-12-31", "period": f"{year}Q1", "period_kind": pick(["fy", "q"]),
            "measure": pick(["eps", "revenue", "gross_profit"]), "observed_at": "2023-06-01",
            "contributor": pick(["Harbour", "Mill Lane"]), "expected_at": later + "T07:00:00Z",
            "base": pick(["", "2015=100"]), "quote": pick(["GBP", "JPY"]), "amount": pick([0.5, ""]),
            "kind": pick(["ordinary", "special"]), "close": pick([41.5, 0.01]),
            "volume": 1000, "shares_outstanding": 1_000_000, "time_zone": "Etc/GMT-9",
        }  # fmt: skip


class Later(Live):
    def answers(self, recorded_by: int | None = None) -> dict[tuple[str, str], str]:
        """Every call in every form, of the day; without what says how old the ledger is."""
        found = {}
        for call, words in ASKED.items():
            verb, path, *_ = call.split()
            asked = words | (
                {} if "/matches" in path else {BY_DAY.get(path, "known_on"): str(ON.date())}
            )
            known = self.takes[call]
            if recorded_by is not None:
                asked = asked | {"recorded_by": recorded_by}
                if "recorded_by" not in known:
                    continue
            elif "/matches" in path:
                continue  # which looks for names that come later, and says so
            for form in ("json", "csv") if "format" in known else ("",):
                shape = {"format": form} if form else {}
                by = (
                    {"params": asked | shape} if verb == "GET" else {"json": asked, "params": shape}
                )
                answer = self.live.http(verb, path, **by)
                self.assertEqual(answer.status_code, 200, (call, answer.text))
                found[call, form] = answer.text
        return found

    def test_nothing_of_later_changes_an_answer_t9_t7(self) -> None:
        rule = 'estimate(eps, fy1) > 0 USD or market_value > 1bn USD or industry == "23"'
        self.ledger.keep_list("by-rule", [], "ada", rule=rule)
        brought(self.ledger)
        batch = self.live.desk.ledger.last_batch()
        self.takes = dated()
        self.ids = [self.ledger.company(name).company.id for name in WHO]
        of_day, recorded = self.answers(), self.answers(batch)
        seed = int(os.environ.get("SEED", "7"))
        rows, taken = Rows(seed), dict[str, int]()
        for _ in range(int(os.environ.get("ROUNDS", "1"))):
            for kind in rows.shuffled({*COLUMNS, *COLUMN_KINDS}):
                some = [rows.of(kind) for _ in range(6)]
                loaded = self.ledger.load(
                    kind, pd.DataFrame(some).to_csv(index=False).encode(), accept_good=True
                )
                taken[kind] = taken.get(kind, 0) + loaded.rows
                if "EACH" in os.environ:
                    self.compare((seed, kind, some), of_day, recorded, batch)
        self.compare(seed, of_day, recorded, batch)
        self.assertEqual([kind for kind, count in taken.items() if not count], [])
        self.decide()
        self.compare("what people decided", {}, recorded, batch)

    def decide(self) -> None:
        """All that people may say and that changes answers from then on."""
        ledger, who = self.ledger, "grace"
        ledger.keep_measure("thin", "revenue / total_assets", who)
        ledger.prefer_sources(["files", "fernmark"], who)
        ledger.set_limit("stale_after", 300, who)
        ledger.set_limit("estimate_stands", 50, who)
        ledger.set_limit("lag_of_other", 20, who, source="files")
        ledger.change_list("mine", who, add=[self.ids[2]], remove=[self.ids[0]])
        ledger.decide("Ashgrove", self.ids[1], who, "so it is meant")
        ledger.call_venue(".AM", "ZALD", who)
        ledger.register_item("temper", "Temper", "pure", "pages", who)
        facts = [f.fact for f in ledger.quality(state="quarantined", limit=None).findings]
        ledger.decide_quarantine(facts, True, who, "it is so")
        market = ledger.market_quality(state="quarantined", limit=None).findings
        ledger.decide_market_quarantine(
            [(f.kind, f.subject, f.date) for f in market], True, who, "so"
        )
        self.assertTrue(facts and market)
        ledger.collect("fernmark", every=0.05, confirmed=True)

    def compare(
        self,
        why: object,
        of_day: dict[tuple[str, str], str],
        recorded: dict[tuple[str, str], str],
        batch: int,
    ) -> None:
        for (call, form), text in self.answers().items() if of_day else ():
            with self.subTest(call, form=form, why=why):
                self.assertEqual(*(comparable(t) for t in (of_day[call, form], text)))
        for (call, form), text in self.answers(batch).items():
            with self.subTest(call, form=form, why=why, recorded_by=batch):
                self.assertEqual(recorded[call, form], text)


def comparable(text: str) -> list[str]:
    """An answer line by line, without the batch; figures to twelve digits: the last ones are those
    of the order in which they were added up.
    """
    text = re.sub(r'"batch":\d+|(?<=999Z,)\d+(?=,)', "", text)
    text = re.sub(r"-?\d+\.\d+(e[-+]?\d+)?", lambda m: f"{float(m[0]):.12g}", text)
    return re.split(r"(?<=[,\n])", text)


def dated() -> dict[str, set[str]]:
    """What the calls that are asked for take, by the OpenAPI document."""
    out = {}
    for call in ASKED:
        verb, path, *_ = call.split()
        operation = document()["paths"][path_of(document()["paths"], API + path)][verb.lower()]
        out[call] = {p["name"] for p in operation.get("parameters", [])} | json_fields(operation)
    return out
