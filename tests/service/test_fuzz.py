"""Every call that the OpenAPI document describes, with what a generator makes of it: nothing is an error of our own."""

import logging
import os
import unittest
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings

from tests.live import Live

_CALLS = int(os.environ.get("CALLS", "0"))  # in all; without, some of each operation
_EACH = 20
_WATCHED = {("GET", "/api/v1/runs/{run}/events")}  # answers until its run ends


class AnyCall(Live):
    def test_no_call_meets_an_error_of_the_service_itself(self) -> None:
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        signed = {"Authorization": f"Bearer {self.live.token}"}
        schema = schemathesis.openapi.from_url(f"{self.live.url}/api/v1/openapi.json", headers=signed)
        operations = [found.ok() for found in schema.get_all_operations()]
        self.assertGreater(len(operations), 50)
        self.each = max(_EACH, _CALLS // len(operations))
        for operation in operations:
            if (operation.method.upper(), operation.path) in _WATCHED:
                continue
            with self.subTest(operation.label):
                self.call_often(operation)
        self.live.desk.ledger.verify()

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
            if answer.status_code >= 400 and answer.content:
                self.assertEqual(answer.headers["content-type"][0], "application/problem+json", case.as_curl_command())

        call()


if __name__ == "__main__":
    unittest.main()
