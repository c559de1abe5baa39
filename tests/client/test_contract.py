"""What the client asks is what the OpenAPI document declares, and what comes is what it promises:
every method of the client once, over the wire.
"""

import inspect
import json
from contextlib import suppress
from datetime import date
from pathlib import Path
from random import Random
from typing import Any
from unittest import mock

import httpx
import jsonschema_rs
import pandas as pd
from pydantic import BaseModel
from tools.everycall import COMPANY, SERIES, every_call, template

from tests.answers import document
from tests.live import Live
from wise_ledger.client import Ledger, WiseLedgerError, connect
from wise_ledger.service.app import API

MONTHS = [f"{year}-{month:02d}" for year in (2022, 2023) for month in range(1, 13)]
FILES = {
    "series": "series,period,value,released_at\n"
    + "".join(
        f"{key},{month},{100 + n % 7},{month}-28\n"
        for key in (SERIES, "CONFIDENCE/M.XA.RET")
        for n, month in enumerate(MONTHS)
    ),
    "prices": "listing,date,close\n"
    + "".join(f"{COMPANY},2023-12-{day:02d},{20 + day}\n" for day in range(1, 30)),
    "levels": "list,date,level\nindex-of-aldmoor,2023-12-01,100\nindex-of-aldmoor,2023-12-29,103\n",
    "estimates": "company,measure,period_end,period_kind,contributor,value,currency,published_at\n"
    f"{COMPANY},eps,2023-12-31,fy,Oak House,1.2,USD,2023-11-01\n",
    "actuals": "company,measure,period_end,period_kind,value,currency,published_at\n"
    f"{COMPANY},eps,2022-12-31,fy,1.1,USD,2023-02-01\n",
}
# Calls that have no method of their own: what they say stands in the answers of others.
BESIDE = {
    "GET /digests",
    "GET /facts/publications",
    "GET /health",
    "GET /lists/{name}",
    "GET /schedules/{name}",
}


ODD: list[Any] = [
    12, 3.5, True, float("nan"), pd.NaT, b"AGK@ZALD", [None], [float("nan")], object(), [object()], {"a": 1}, "", [],
    [""], "\x00", ["\ud800"], "\ud800", range(3), pd.DataFrame({"a": [1]}), pd.Series(["AGK@ZALD", None]), None, -1,
    "2023-12-31", date(2023, 12, 31), pd.Timestamp("2023-12-31"), Path("/no/such/file"), lambda: 1, date,
]  # fmt: skip
SEEN = ("recorded_by", "leave_out", "hindsight", "currency")
LONG = {"wait", "close", "collect", "verify"}  # which wait for what may not end


class Checked(httpx.HTTPTransport):
    """Holds what goes out and what comes back against the document."""

    def __init__(self, document: dict[str, Any]) -> None:
        super().__init__()
        self._paths, self._parts = document["paths"], document["components"]
        self.reached: set[str] = set()
        self.wrong: list[str] = []

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        response = super().handle_request(request)
        response.read()
        path = template(self._paths, request.url.path)
        call = f"{request.method} {path.removeprefix(API)}"
        operation = self._paths[path][request.method.lower()]
        self.reached.add(call)
        declared = {p["name"] for p in operation.get("parameters", ()) if p["in"] == "query"}
        self._note(call, {*request.url.params} <= declared, request.url.params)
        sent = operation.get("requestBody", {}).get("content", {}).get("application/json")
        if sent and request.content != b"null":
            self._check(call, sent["schema"], json.loads(request.content))
        answers = operation["responses"]
        answer = answers.get(str(response.status_code), {})
        self._note(call, answer, response.status_code)
        media = response.headers.get("content-type", "").partition(";")[0]
        self._note(call, media in answer.get("content", {"": {}}), media)
        if media.endswith("json") and media in answer.get("content", {}):
            self._check(call, answer["content"][media]["schema"], response.json())
        return response

    def _check(self, call: str, schema: Any, value: Any) -> None:
        schema = {**schema, "components": self._parts}
        for error in jsonschema_rs.Draft202012Validator(schema).iter_errors(value):
            self._note(call, False, error)

    def _note(self, call: str, good: Any, what: object) -> None:
        if not good:
            self.wrong.append(f"{call}: {str(what)[:300]}")


class Contract(Live):
    def test_whatever_any_parameter_is_given_is_answered_or_refused_plainly(self) -> None:
        good: dict[str, inspect.BoundArguments] = {}
        methods = {n: m for n, m in inspect.getmembers(Ledger, inspect.isfunction) if n[0] != "_"}

        def noting(name: str, method: Any) -> Any:
            def call(*given: Any, **more: Any) -> Any:
                good.setdefault(name, inspect.signature(method).bind(*given, **more))
                return method(*given, **more)

            return call

        noted = {name: noting(name, method) for name, method in methods.items()}
        with mock.patch.multiple(Ledger, **noted):
            for once in every_call(self.ledger):
                with suppress(WiseLedgerError):
                    once()
        random, tried = Random(5), 0
        for name in sorted(good.keys() - LONG):
            known = inspect.signature(methods[name]).parameters
            more = SEEN if any(p.kind is p.VAR_KEYWORD for p in known.values()) else ()
            for parameter in [*known, *more]:
                if parameter in ("self", "progress", "seen") or isinstance(
                    good[name].arguments.get(parameter), BaseModel
                ):
                    continue
                for odd in [pd.DataFrame({"a": [1]}), *random.sample(ODD, 2)]:
                    asked = {**good[name].arguments, **good[name].arguments.get("seen", {})}
                    asked.pop("seen", None)
                    with (
                        self.subTest(name, parameter=parameter, given=repr(odd)[:40]),
                        suppress(WiseLedgerError),
                    ):
                        methods[name](**asked | {parameter: odd})
                    tried += 1
        self.assertGreater(tried, 530)

    def test_every_method_asks_what_the_document_declares_and_hears_what_it_promises(self) -> None:
        for kind, file in FILES.items():
            self.ledger.load(kind, file.encode())
        checked, called, refused = Checked(document()), set[str](), list[str]()
        methods = {n: m for n, m in inspect.getmembers(Ledger, inspect.isfunction) if n[0] != "_"}

        def noting(name: str, method: Any) -> Any:
            def call(*given: Any, **more: Any) -> Any:
                called.add(name)
                return method(*given, **more)

            return call

        noted = {name: noting(name, method) for name, method in methods.items()}
        with (
            mock.patch.multiple(Ledger, **noted),
            connect(self.live.url, self.live.token, transport=checked) as ledger,
        ):
            for call in every_call(ledger):
                try:
                    call()
                except WiseLedgerError as error:
                    refused.append(str(error))
        self.assertEqual(checked.wrong, [])
        self.assertEqual([r for r in refused if "no company failed" not in r], [])
        self.assertEqual(set(methods) - called, set())
        every = {
            f"{verb.upper()} {path.removeprefix(API)}"
            for path, verbs in document()["paths"].items()
            for verb in verbs
        }
        self.assertEqual(every - checked.reached, BESIDE)
