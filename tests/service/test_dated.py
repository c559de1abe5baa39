"""Whatever depends on time says of when it is, in every form,
and is the same again (4-interface, T7).
"""

import csv
from typing import Any

from tests.answers import document
from tests.live import Live, until
from wise_ledger.service.app import API
from wise_ledger.service.representations import FORMATS

COMPANY, LIST, MONTHS = (
    {"company": "AGK@ZALD"},
    {"list": "first-look"},
    {"start": "2023-01-01", "end": "2023-12-31"},
)
SERIES = "series,period,value,released_at,base\n" + "".join(
    f"{key},{2018 + n // 4}Q{1 + n % 4},{1 + (n * step) % 5},{2019 + n // 4}-02-01,\n"
    for key, step in (("OUTPUT/Q.XA", 2), ("PRICES/Q.XA", 3))
    for n in range(12)
)
FEW = {"companies": ["AGK@ZALD", "PTP@ZBRE"]}
BOTH = {"series": ["OUTPUT/Q.XA", "PRICES/Q.XA"]}
# A question for each call whose answer is dated: its path's words and its query, or its body.
ASKED: dict[str, dict[str, Any]] = {
    "GET /companies": {}, "GET /companies/{company}": COMPANY, "GET /estimates": COMPANY,
    "GET /venues": {}, "GET /securities": {}, "GET /listings": {},
    "GET /explanations": {**COMPANY, "expression": "revenue"}, "GET /estimates/history": COMPANY | MONTHS,
    "GET /estimates/announcements": COMPANY | MONTHS, "GET /estimates/calendar": COMPANY | MONTHS,
    "GET /levels": {"list": "index-of-aldmoor"},
    "GET /lists/{name}/members": {"name": "first-look"},
    "GET /market": LIST, "GET /restatements": LIST, "GET /statements": COMPANY,
    "GET /series": {}, "GET /series/description": {"key": "OUTPUT/Q.XA"},
    "GET /series/vintages": {"key": "OUTPUT/Q.XA"}, "GET /series/releases": {"key": BOTH["series"]},
    "GET /series/revisions": {"key": "OUTPUT/Q.XA", "period": "2020Q1"},
    "GET /series/sheets/{name}/changes": {"name": "both", "since": "2020-06-01"},
    "GET /series/sheets/{name}/observations": {"name": "both"},
    "GET /runs/{run}/answer": {"run": None}, "POST /matches": {"terms": ["AGK@ZALD"], "on": "2023-06-30"},
    "POST /panels": {"expressions": ["revenue"], "dates": ["2023-06-30"], **LIST},
    "POST /panels/plan": {"expressions": ["revenue"], "dates": ["2023-06-30"], **LIST},
    "POST /panels/summary": {"expressions": ["revenue"], "dates": ["2023-06-30"], **LIST},
    "POST /prices": FEW | MONTHS, "POST /screens": {"rule": "revenue > 1mn EUR", **LIST}, "POST /statements": FEW,
    "POST /series/comparison": BOTH, "POST /series/observations": BOTH,
}  # fmt: skip


class Dated(Live):
    def setUp(self) -> None:
        super().setUp()
        self.ledger.load("series", SERIES.encode())
        self.ledger.keep_sheet("both", BOTH["series"], "ada")

    def ask(self, call: str, form: str, recorded_by: int | None, **headers: str) -> Any:
        verb, path = call.split()
        words = ASKED[call]
        asked = {n: v for n, v in words.items() if f"{{{n}}}" not in path}
        if recorded_by is not None:
            asked["recorded_by"] = recorded_by
        by = (
            {"params": {**asked, "format": form}}
            if verb == "GET"
            else {"json": asked, "params": {"format": form}}
        )
        form, _, schema = form.partition("&schema=")
        by["params"] |= {"format": form, **({"schema": schema} if schema else {})}
        if form == "":  # a call that has no other form
            by["params"].pop("format")
        return self.live.http(verb, path.format(**words), headers=headers, **by)

    def test_every_dated_answer_says_so_in_its_headers_and_is_the_same_again(self) -> None:
        many = self.live.http(
            "POST", "/matches", json={"terms": ["AGK@ZALD"] * 1001, "on": "2023-06-30"}
        ).json()
        ASKED["GET /runs/{run}/answer"]["run"] = many["id"]
        until(lambda: self.ledger.run(many["id"]).state == "finished")
        batch = self.live.desk.ledger.last_batch()
        dated: dict[str, set[str]] = {}
        for path, verbs in document()["paths"].items():
            for verb, operation in verbs.items():
                if "ETag" in operation["responses"].get("200", {}).get("headers", {}) and verb in (
                    "get",
                    "post",
                ):
                    parameters = {p["name"] for p in operation.get("parameters", [])}
                    body = json_fields(operation)
                    dated[f"{verb.upper()} {path.removeprefix(API)}"] = parameters | body
        self.assertEqual(set(dated), set(ASKED))
        for call, takes in dated.items():
            tags = set()
            for form in FORMATS if "format" in takes else ("",):
                with self.subTest(call, form=form):
                    reported = self.ask(call, form, None)
                    self.assertEqual(reported.status_code, 200, reported.text)
                    self.assertEqual(reported.headers["batch"], str(batch))
                    self.assertRegex(reported.headers["known-on"], r"^20\d\d-\d\d-\d\d(T.*Z)?$")
                    self.assertNotIn("recorded-by", reported.headers)
                    again = self.ask(call, form, None)
                    self.assertEqual(again.headers["etag"], reported.headers["etag"])
                    self.assertEqual(again.content, reported.content)
                    tags.add(reported.headers["etag"])
                    if call.startswith("GET"):
                        same = self.ask(
                            call, form, None, **{"If-None-Match": reported.headers["etag"]}
                        )
                        self.assertEqual((same.status_code, same.content), (304, b""))
                    if "recorded_by" in takes and form in ("json", ""):
                        before = self.ask(call, form, batch)
                        self.assertEqual(before.headers["recorded-by"], str(batch))
                        self.assertNotEqual(before.headers["etag"], reported.headers["etag"])
            self.assertEqual(len(tags), len(FORMATS) if "format" in takes else 1)
            if "format" in takes:
                self.assertIn("schema", takes)
                heads = self.ask(call, "csv", None).text.partition("\n")[0]
                fields = self.ask(call, "csv&schema=table", None).json()["fields"]
                self.assertEqual([f["name"] for f in fields], next(csv.reader([heads])))

    def test_no_day_and_no_state_of_the_ledger_is_too_early_for_an_answer(self) -> None:
        last = self.live.desk.ledger.last_batch()
        moments = [
            {"known_on": day} for day in ("1901-01-01", "1969-12-31", "2012-01-01", "2199-12-31")
        ]
        moments += [{"recorded_by": n} for n in sorted({0, 1, 2, last // 2})]
        for call, words in ASKED.items():
            verb, path = call.split()
            operation = document()["paths"][API + path][verb.lower()]
            takes = {p["name"] for p in operation.get("parameters", [])} | json_fields(operation)
            for moment in moments:
                if set(moment) - takes:
                    continue
                asked = {n: v for n, v in words.items() if f"{{{n}}}" not in path} | moment
                for form in ("json", "csv") if "format" in takes else ("",):
                    how = {"params": asked} if verb == "GET" else {"json": asked, "params": {}}
                    how["params"] |= {"format": form} if form else {}
                    answer = self.live.http(verb, path.format(**words), **how)
                    with self.subTest(call, form=form, **moment):
                        self.assertIn(answer.status_code, (200, 404, 422), answer.text[:300])
                        if answer.status_code != 200:
                            self.assertTrue(answer.json()["errors"][0]["mend"])

    def test_who_is_not_found_is_named_and_the_others_are_answered_at_every_door(self) -> None:
        several = []
        for call in ASKED:
            verb, path = call.split()
            operation = document()["paths"][API + path][verb.lower()]
            takes = {p["name"]: p["schema"] for p in operation.get("parameters", [])}
            if "companies" in json_fields(operation) or "array" in str(takes.get("company", "")):
                several.append((call, "company" if verb == "GET" else "companies"))
        self.assertGreater(len(several), 8)
        for call, name in several:
            kept = ASKED[call]
            for form in ("json", "csv", "arrow") if "/panels/" not in call else ("",):
                with self.subTest(call, form=form):
                    plain = {
                        n: v for n, v in kept.items() if n not in ("list", "company", "companies")
                    }
                    ASKED[call] = {**plain, name: ["AGK@ZALD", "PTP@ZBRE"]}
                    known = self.ask(call, form, None)
                    ASKED[call] = {**plain, name: ["AGK@ZALD", "NOPE@ZALD", "PTP@ZBRE", "Nö/here"]}
                    reported = self.ask(call, form, None)
                    ASKED[call] = {**plain, name: ["NOPE@ZALD", "Nö/here"]}
                    none = self.ask(call, form, None)
                    ASKED[call] = kept
                    self.assertEqual(
                        (known.status_code, reported.status_code), (200, 200), reported.text
                    )
                    self.assertNotIn("unanswered", known.headers)
                    self.assertEqual(reported.headers["unanswered"], "NOPE@ZALD, N%C3%B6%2Fhere")
                    if form == "csv":
                        self.assertEqual(reported.content, known.content)
                    if form in ("json", ""):
                        found, failed = reported.json(), reported.json().pop("failed")
                        self.assertEqual({**found, "failed": []}, {**known.json(), "failed": []})
                        self.assertEqual(
                            [f.get("asked", f.get("company")) for f in failed],
                            ["NOPE@ZALD", "Nö/here"],
                        )
                    if "/statements" not in call:
                        self.assertIn(none.status_code, (404, 422))
                        self.assertEqual(
                            [e["value"] for e in none.json()["errors"]], ["NOPE@ZALD", "Nö/here"]
                        )


def json_fields(operation: dict[str, Any]) -> set[str]:
    """The names that the body of a call may have."""
    schema = (
        operation.get("requestBody", {})
        .get("content", {})
        .get("application/json", {})
        .get("schema", {})
    )
    named = schema.get("$ref", "").rpartition("/")[2]
    return set(document()["components"]["schemas"].get(named, {}).get("properties", {}))
