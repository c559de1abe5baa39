"""The HTTP API at its door: access, problems, representations, repeatability (4-interface)."""

import io
import json
import unittest
from typing import Any

import httpx
import openpyxl
import pandas as pd
import pyarrow as pa
import pyarrow.parquet as pq

from tests.answers import document
from tests.live import PLAIN, RULE, Live
from wise_ledger.wire.screens import ScreenAnswer

QUESTION = {"rule": RULE, "list": "first-look", "known_on": "2023-06-30"}


class Access(Live):
    def test_every_call_but_health_needs_a_token(self) -> None:
        paths = document()["paths"]
        self.assertGreater(len(paths), 12)
        for path, verbs in paths.items():
            for verb in verbs:
                url = self.live.url + path.replace("{", "").replace("}", "")
                for headers in (
                    {},
                    {"Authorization": "Bearer wl_00000000_x"},
                    {"Authorization": f"Basic {self.live.token}"},
                ):
                    answer = PLAIN.request(verb.upper(), url, headers=headers)
                    self.assertEqual(
                        answer.status_code, 200 if path.endswith("/health") else 401, (verb, path)
                    )
                    if answer.status_code == 401:
                        self.assertEqual(answer.headers["content-type"], "application/problem+json")
                        self.assertEqual(answer.headers["www-authenticate"], "Bearer")

    def test_a_token_is_kept_only_as_a_hash(self) -> None:
        raw = (self.live.folder / "ledger.sqlite").read_bytes()
        wal = self.live.folder / "ledger.sqlite-wal"
        raw += wal.read_bytes() if wal.exists() else b""
        self.assertNotIn(self.live.token.encode(), raw)
        self.assertNotIn(self.live.token.split("_", 2)[2].encode(), raw)

    def test_the_console_is_served_with_a_strict_policy_and_the_api_never_falls_through(
        self,
    ) -> None:
        page = PLAIN.get(self.live.url + "/screens")
        self.assertIn("default-src 'self'", page.headers["content-security-policy"])
        missing = self.live.http("GET", "/no-such-thing")
        self.assertEqual((missing.status_code, missing.json()["type"]), (404, "/problems/http"))
        outside = PLAIN.get(self.live.url + "/assets/../../app.py")
        self.assertNotIn("create_app", outside.text)


class Problems(Live):
    def refused(self, question: dict[str, Any], status: int = 422) -> dict[str, Any]:
        answer = self.live.http("POST", "/screens", json=question)
        self.assertEqual(answer.status_code, status, answer.text)
        self.assertEqual(answer.headers["content-type"], "application/problem+json")
        body: dict[str, Any] = answer.json()
        self.assertEqual(body["status"], status)
        return body

    def test_wrong_input_is_refused_with_place_value_problem_and_mend(self) -> None:
        wrong = {
            "rule": ("operating_incme > 0", "line 1, column 1", "operating_income"),
            "list": ("first-lok", "list", "first-look"),
            "known_on": ("03/04/2024", "known_on", "write 2024-04-03 or 2024-03-04"),
            "recorded_by": (999, "recorded_by", "the newest is 25"),
        }
        for name, (value, at, mend) in wrong.items():
            body = self.refused({**QUESTION, name: value}, 404 if name == "list" else 422)
            (error,) = body["errors"]
            self.assertEqual(error["at"], at)
            self.assertIn(mend, error["mend"])
            self.assertIn(error["value"], str(value))

    def test_a_request_of_another_shape_is_refused_field_by_field(self) -> None:
        body = self.refused({"rule": 5, "lst": "x"})
        self.assertEqual({e["at"] for e in body["errors"]}, {"rule", "lst"})
        answer = self.live.http("POST", "/screens", content=b'{"rule": ')
        self.assertEqual(answer.status_code, 422)

    def test_unknown_things_are_not_found(self) -> None:
        for path in (
            "/lists/none",
            "/documents/abcdef",
            "/runs/999",
            "/explanations?company=X&expression=revenue&known_on=2023-01-01",
        ):
            self.assertEqual(self.live.http("GET", path).status_code, 404, path)
        answer = self.live.http("POST", "/collections", json={"source": "fernmrk"})
        self.assertEqual(answer.status_code, 404)
        self.assertIn("fernmark", answer.json()["errors"][0]["mend"])
        self.assertEqual(self.live.http("GET", "/batches?cursor=x").status_code, 422)
        self.assertEqual(self.live.http("GET", "/batches?limit=0").status_code, 422)


class Representations(Live):
    def ask(self, accept: str = "application/json", **params: str) -> httpx.Response:
        answer = self.live.http(
            "POST", "/screens", json=QUESTION, headers={"Accept": accept}, params=params
        )
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer

    def frames(self) -> dict[str, pd.DataFrame]:
        def arrow(raw: bytes) -> pd.DataFrame:
            return pa.ipc.open_stream(raw).read_pandas()

        return {
            "csv": pd.read_csv(io.BytesIO(self.ask("text/csv").content), dtype={"industry": str}),
            "parquet": pd.read_parquet(
                io.BytesIO(self.ask("application/vnd.apache.parquet").content)
            ),
            "arrow": arrow(
                self.ask("text/html, application/vnd.apache.arrow.stream;q=0.9").content
            ),
            "xlsx": pd.read_excel(
                io.BytesIO(self.ask(format="xlsx").content), dtype={"industry": str}
            ),
        }

    def test_every_format_says_the_same(self) -> None:
        answer = ScreenAnswer.model_validate(self.ask().json())
        ratio = answer.columns[0].expression
        for name, frame in self.frames().items():
            with self.subTest(name):
                self.assertEqual(frame["name"].tolist(), [c.name for c in answer.companies])
                self.assertEqual(frame["industry"].tolist(), [c.industry for c in answer.companies])
                for found, company in zip(frame[ratio], answer.companies, strict=True):
                    value = company.cells[0].value
                    self.assertTrue(
                        pd.isna(found) if value is None else abs(found - float(value)) < 1e-12
                    )
                reasons = frame[f"{ratio}.reason"].dropna().tolist()
                self.assertEqual(reasons, ["not_applicable", "not_applicable"])

    def test_every_format_carries_how_it_was_asked(self) -> None:
        asked = {
            "rule": QUESTION["rule"],
            "list": "first-look",
            "known_on": "2023-06-30T23:59:59.999999Z",
        }
        for name, frame in self.frames().items():
            self.assertEqual(
                list(frame.columns[:4]), ["list", "known_on", "batch", "company"], name
            )
        schema = self.ask(format="csv", schema="table").json()["context"]
        parquet = json.loads(
            pq.read_schema(io.BytesIO(self.ask(format="parquet").content)).metadata[b"context"]
        )
        book = openpyxl.load_workbook(io.BytesIO(self.ask(format="xlsx").content))
        sheet = {row[0].value: row[1].value for row in book["How it was asked"].rows}
        for context in (schema, parquet, sheet, json.loads(book.properties.description)):
            self.assertEqual({k: context[k] for k in asked}, asked)

    def test_a_text_that_looks_like_a_formula_stays_a_text(self) -> None:
        rows = b"company,name,valid_from\nZ-1,=1+1 plc,2020-01-01\nZ-2,@home AG,2020-01-01\nZ-3,-Minus-,2020-01-01\n"
        self.assertEqual(self.ledger.load("companies", rows).rows, 3)
        question = {"rule": "active", "companies": ["Z-1", "Z-2", "Z-3"]}
        names = ["-Minus-", "=1+1 plc", "@home AG"]

        def read(form: str, **more: str) -> bytes:
            return self.live.http(
                "POST", "/screens", json=question, params={"format": form, **more}
            ).content

        text = pd.read_csv(io.BytesIO(read("csv")))["name"].tolist()
        self.assertEqual(text, [f"'{n}" for n in names])
        self.assertEqual(pd.read_csv(io.BytesIO(read("csv", raw="true")))["name"].tolist(), names)
        sheet = openpyxl.load_workbook(io.BytesIO(read("xlsx")))["Figures"]
        place = [c.value for c in sheet[1]].index("name")
        self.assertEqual(
            [(r[place].value, r[place].data_type) for r in sheet.iter_rows(2)],
            [(n, "s") for n in names],
        )

    def test_parameters_that_nobody_reads_are_refused(self) -> None:
        for path, at in (
            ("/companies?querry=x", "querry"),
            ("/lists?archived=true&known_on=2023-01-01", "known_on"),
            ("/statements?company=AGK@ZALD&company=EMI@ZBRE", "company"),
            ("/venues?on=2023-01-01&on=2024-01-01", "on"),
            ("/health?x=1", "x"),
        ):
            answer = self.live.http("GET", path)
            self.assertEqual(
                (answer.status_code, answer.json()["errors"][0]["at"]), (422, at), path
            )
        many = self.live.http("GET", "/lists/first-look/members?show=revenue&show=net_income")
        self.assertEqual(many.status_code, 200)

    def test_no_export_shows_what_came_later_t9(self) -> None:
        answer = self.live.http("POST", "/screens?format=csv", json={**QUESTION, "hindsight": True})
        self.assertNotIn("later", answer.text)

    def test_a_table_schema_shows_the_types(self) -> None:
        schema = self.ask(format="csv", schema="table").json()
        types = {f["name"]: f["type"] for f in schema["fields"]}
        self.assertEqual(types["operating_income / revenue"], "number")
        self.assertEqual(types["operating_income / revenue.period_end"], "date")
        self.assertEqual(types["industry"], "string")

    def test_an_unknown_format_is_refused(self) -> None:
        answer = self.live.http("POST", "/screens?format=pdf", json=QUESTION)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("parquet", answer.json()["errors"][0]["mend"])

    def test_the_same_question_has_the_same_bytes_and_etag_t7(self) -> None:
        first, second = self.ask(), self.ask()
        self.assertEqual(
            (first.content, first.headers["etag"]), (second.content, second.headers["etag"])
        )
        other = self.live.http("POST", "/screens", json={**QUESTION, "known_on": "2023-07-01"})
        self.assertNotEqual(first.headers["etag"], other.headers["etag"])
        body = first.json()
        self.assertEqual(
            (body["batch"], body["recorded_by"]), (self.live.desk.ledger.last_batch(), None)
        )
        self.assertEqual(body["known_on"], "2023-06-30T23:59:59.999999Z")


class Resources(Live):
    def test_a_document_is_shown_as_text_that_cannot_run(self) -> None:
        fact = self.ledger.explain("AGK@ZALD", "revenue", "2023-06-30").answer.inputs[0].facts[0]
        answer = self.live.http("GET", f"/documents/{fact.document.sha256}/content")
        self.assertEqual(answer.headers["content-type"], "text/plain; charset=utf-8")
        self.assertEqual(answer.headers["content-security-policy"], "sandbox")
        body = answer.json()
        self.assertEqual(body["figures"][int(fact.place.split("/")[-1])]["tag"], "sales")

    def test_creation_with_one_key_queues_one_run(self) -> None:
        before = len(self.live.http("GET", "/runs").json()["runs"])
        answers = [
            self.live.http(
                "POST",
                "/collections",
                json={"source": "fernmark"},
                headers={"Idempotency-Key": "once"},
            )
            for _ in range(3)
        ]
        self.assertEqual({a.status_code for a in answers}, {202})
        self.assertEqual(len({a.headers["location"] for a in answers}), 1)
        self.assertEqual(len(self.live.http("GET", "/runs").json()["runs"]), before + 1)

    def test_batches_page_by_cursor_without_gap(self) -> None:
        numbers, cursor = [], ""
        while True:
            page = self.live.http("GET", f"/batches?limit=7{cursor}").json()
            numbers += [b["number"] for b in page["batches"]]
            if page["next"] is None:
                break
            cursor = f"&cursor={page['next']}"
        self.assertEqual(numbers, list(range(25, 0, -1)))

    def test_publications_count_every_fact_by_month(self) -> None:
        body = self.live.http("GET", "/facts/publications?list=first-look").json()
        self.assertEqual(sum(m["facts"] for m in body["months"]), self.ledger.verify().facts)
        self.assertEqual(
            [m["month"] for m in body["months"]], sorted(m["month"] for m in body["months"])
        )

    def test_publications_of_a_rule_are_those_of_its_companies_and_of_a_company_its_own(
        self,
    ) -> None:
        def counted(of: str) -> int:
            return sum(
                m["facts"]
                for m in self.live.http("GET", f"/facts/publications?{of}").json()["months"]
            )

        made = {"name": "one-by-rule", "rule": 'industry == "23"', "who": "Ada"}
        self.assertEqual(self.live.http("POST", "/lists", json=made).status_code, 201)
        self.assertGreater(counted("company=AGK@ZALD"), 100)
        glassmakers = self.ledger.members("one-by-rule").members
        self.assertEqual(
            counted("list=one-by-rule"), sum(counted(f"company={m.id}") for m in glassmakers)
        )
        self.assertIn("Ashgrove Kilnworks", [m.name for m in glassmakers])
        for nobody in ("list=none-such", "company=NONE@ZALD"):
            self.assertEqual(
                self.live.http("GET", f"/facts/publications?{nobody}").status_code, 404
            )

    def test_the_catalogue_names_what_an_expression_may_use(self) -> None:
        body = self.ledger.catalogue()
        self.assertGreater(len(body.items), 100)
        self.assertIn("growth(x, span)", body.functions)
        self.assertEqual(
            next(i for i in body.items if i.code == "current_assets").templates, ["industrial"]
        )

    def test_openapi_has_an_example_for_every_body(self) -> None:
        described = self.live.http("GET", "/openapi.json")
        document = json.loads(
            described.content
            if described.is_success
            else PLAIN.get(self.live.url + "/api/v1/openapi.json").content
        )
        self.assertTrue(document["openapi"].startswith("3.1"))
        bodies = [
            body
            for path in document["paths"].values()
            for verb in path.values()
            for body in verb.get("requestBody", {}).get("content", {}).values()
        ]
        self.assertGreater(len(bodies), 25)
        for body in bodies:
            name = body["schema"].get("$ref", "").rpartition("/")[2]
            # none, of the bytes of a file
            of_model = document["components"]["schemas"].get(name, {})
            self.assertTrue(body.get("example") or of_model.get("examples"), body)


class BindsToLoopback(unittest.TestCase):
    def test_unless_set_otherwise(self) -> None:
        from wise_ledger.launch.settings import Settings

        self.assertEqual(Settings(_env_file=None).host, "127.0.0.1")  # type: ignore[call-arg]
