"""Every call that the OpenAPI document describes, with what a generator makes of it:
nothing is an error of our own.
"""

import logging
import os
import unittest
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)
from starlette.routing import compile_path

from tests.live import Live
from tests.service.questions import answered, brought
from wise_ledger.service.representations import FORMATS
from wise_ledger.wire.tables import TableSchema

_CALLS = int(os.environ.get("CALLS", "0"))  # in all; without, some of each operation
_EACH = 8
_AS_SAID = (status_code_conformance, content_type_conformance, response_schema_conformance)
_WATCHED = {("GET", "/api/v1/runs/{run}/events")}  # answers until its run ends


class AnyCall(Live):
    def test_no_call_meets_an_error_of_the_service_itself(self) -> None:
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        signed = {"Authorization": f"Bearer {self.live.token}"}
        schema = schemathesis.openapi.from_url(
            f"{self.live.url}/api/v1/openapi.json", headers=signed
        )
        operations = [found.ok() for found in schema.get_all_operations()]
        self.assertGreater(len(operations), 50)
        self.each = max(_EACH, _CALLS // len(operations))
        for operation in operations:
            if (operation.method.upper(), operation.path) in _WATCHED:
                continue
            with self.subTest(operation.label):
                self.call_often(operation)
        self.live.desk.ledger.verify()
        brought(self.ledger)  # and nothing that was kept meanwhile breaks another answer
        self.ledger.keep_list("by-rule", [], "ada", rule="market_value > 1bn USD")
        found = answered(self.live)
        self.assertEqual(set(found.values()), {200}, found)

    def test_every_representation_is_one_that_the_document_has(self) -> None:
        document = self.live.http("GET", "/openapi.json").json()
        of_somebody = {"company": "AGK@ZALD", "measure": "eps", "horizon": "fy1"}
        given = {"companies": ["AGK@ZALD"]}
        asked = {
            "/panels": {**given, "expressions": ["revenue.fy"], "dates": ["2024-06-30"]},
            "/prices": given, "/statements": given, "/screens": {"rule": "revenue > 1mn EUR"},
        }  # fmt: skip
        tried = 0
        for path, operations in document["paths"].items():
            for method, operation in operations.items():
                names = {p["name"] for p in operation.get("parameters", [])}
                short = path.removeprefix("/api/v1")
                if "format" not in names or "/series/" in path:  # which has none here
                    continue
                query = {k: v for k, v in of_somebody.items() if k in names}
                if "list" in names and "company" not in names:
                    query["list"] = "first-look"
                body = {"json": asked[short]} if method == "post" else {}
                content = operation["responses"]["200"]["content"]
                for form, media in FORMATS.items():
                    with self.subTest(short, form=form):
                        response = self.live.http(
                            method, short, params={**query, "format": form}, **body
                        )
                        self.assertEqual(response.status_code, 200, response.text[:300])
                        self.assertEqual(response.headers["content-type"].split(";")[0], media)
                        self.assertIn(media, content)
                        tried += 1
                if "schema" in names:
                    query |= {"format": "csv", "schema": "table"}
                    response = self.live.http(method, short, params=query, **body)
                    self.assertEqual(
                        response.json(),
                        TableSchema.model_validate_json(response.content).model_dump(mode="json"),
                    )
                    self.assertIn("TableSchema", str(content["application/json"]))
        self.assertGreater(tried, 50)

    def test_another_method_is_answered_which_there_are(self) -> None:
        document = self.live.http("GET", "/openapi.json").json()
        known = {
            path: {m.upper() for m in operations} for path, operations in document["paths"].items()
        }
        for path in known:
            # A measure may be called as the end of another address is.
            there = set().union(*(m for p, m in known.items() if compile_path(p)[0].match(path)))
            for method in {"GET", "POST", "PUT", "PATCH", "DELETE"} - there:
                response = self.live.http(
                    method, path.removeprefix("/api/v1").replace("{", "").replace("}", "")
                )
                with self.subTest(f"{method} {path}"):
                    self.assertEqual(response.status_code, 405)
                    self.assertLessEqual(there, set(response.headers["allow"].split(", ")))
                    self.assertEqual(response.headers["content-type"], "application/problem+json")

    def call_often(self, operation: Any) -> None:
        @seed(7)
        @given(case=operation.as_strategy())
        @settings(
            max_examples=self.each,
            deadline=None,
            database=None,
            phases=[Phase.explicit, Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        def call(case: Any) -> None:
            answer = case.call(headers={"Authorization": f"Bearer {self.live.token}"}, timeout=30)
            self.assertLess(answer.status_code, 500, case.as_curl_command())
            # As the document says: the status, the media type, and what stands in it.
            case.validate_response(answer, checks=_AS_SAID)
            if answer.status_code >= 400:
                self.assertEqual(
                    answer.headers["content-type"][0],
                    "application/problem+json",
                    case.as_curl_command(),
                )

        call()


if __name__ == "__main__":
    unittest.main()
