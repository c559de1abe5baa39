"""A service that answers by its own OpenAPI document: its examples, or whatever else they may be."""

import json
import re
from collections.abc import Callable, Iterator
from datetime import UTC, date, datetime
from functools import cache
from typing import Any, NamedTuple, cast

import httpx
from hypothesis import strategies as st
from hypothesis.strategies import SearchStrategy
from starlette.routing import compile_path

from wise_ledger.service.app import create_app
from wise_ledger.work.desk import Desk

# What a name, a title or a note may be that a terminal, a plot or a file takes for something else.
_TEXTS = st.sampled_from([
    "Ashgrove", "[/]", "[bold]x", "Tarrow [in liquidation] plc", "[link=a]", "=1+1", "a, b", "a\nb",
    "w" * 300, "Ünïcode 株式", "مثال", "🦜", "", "100%", "{x}", "\\", "$a$", "$\\frac$", "_b_", "\x1b[31m",
])  # fmt: skip
# A count beside more than one, where there is one.
PLURALS = re.compile(
    r"(?<![\d.,-])1 (?!series|pass|whose|ambiguous)"
    r"(?:[a-z]+ )?[a-z]{2,}(?<!s)(?<!i)(?<!a)s\b.{0,20}"
)
_DAYS = st.dates(date(1990, 1, 1), date(2026, 1, 1))
_TIMES = st.datetimes(datetime(1990, 1, 1), datetime(2026, 1, 1), timezones=st.just(UTC))  # noqa: DTZ001


class Operation(NamedTuple):
    """One call, and what comes where all is well."""

    method: str
    path: str
    status: int
    media: str
    schema: dict[str, Any]
    example: Any


@cache
def document() -> Any:
    """The OpenAPI document, which takes seconds to make: once a process."""
    return create_app(cast(Desk, None)).openapi()


@cache
def operations() -> tuple[Operation, ...]:
    """Every call of the document; those without a name in their paths first."""
    found = []
    for path, methods in document()["paths"].items():
        for method, operation in methods.items():
            status, answer = next((s, a) for s, a in operation["responses"].items() if s < "300")
            kinds = answer.get("content", {"": {}})
            media = "application/json" if "application/json" in kinds else next(iter(kinds))
            schema, example = kinds[media].get("schema", {}), kinds[media].get("example")
            found.append(Operation(method.upper(), path, int(status), media, schema, example))
    return tuple(sorted(found, key=lambda o: o.path.count("{")))


@cache
def _keys() -> frozenset[str]:
    """What rows are keyed by: a column's name elsewhere must stay the one that its rows have."""

    def keys(value: Any) -> Iterator[str]:
        if isinstance(value, dict):
            yield from value
            for part in value.values():
                yield from keys(part)
        elif isinstance(value, list):
            for part in value:
                yield from keys(part)

    return frozenset(key for o in operations() for key in keys(o.example))


def varied(schema: dict[str, Any], value: Any) -> SearchStrategy[Any]:
    """What a value may be besides, by its schema; lists keep their lengths,
    since others beside them have the same.
    """
    if "$ref" in schema:
        schema = document()["components"]["schemas"][schema["$ref"].rpartition("/")[2]]
    if isinstance(value, str) and value in _keys():
        return st.just(value)
    if kinds := schema.get("anyOf", schema.get("oneOf")):
        same = [varied(kind, value) for kind in kinds if _fits(kind, value)]
        empty = [st.none()] if {"type": "null"} in kinds else []
        return st.one_of(*same, *same, *same, *empty)
    if "const" in schema:
        return st.just(value)
    if "enum" in schema:
        return st.sampled_from(schema["enum"])
    if isinstance(value, list):
        return st.tuples(*(varied(schema.get("items", {}), v) for v in value)).map(list)
    if isinstance(value, dict):
        named, other = schema.get("properties", {}), schema.get("additionalProperties", {})
        other = other if isinstance(other, dict) else {}
        return st.fixed_dictionaries({k: varied(named.get(k, other), v) for k, v in value.items()})
    if isinstance(value, bool):
        return st.booleans()
    match schema.get("type"), schema.get("format"):
        case "number", _:
            return st.floats(-1e9, 1e9, allow_nan=False) | st.sampled_from([0.0, -0.004, 1e15])
        case "string", "date":
            return _DAYS.map(str)
        case "string", "date-time":
            return _TIMES.map(datetime.isoformat)
        case "string", None if isinstance(value, str) and "pattern" not in schema:
            return _TEXTS | st.just(value)
    return st.just(value)  # counts and places, which must fit what stands beside them


def _fits(schema: dict[str, Any], value: Any) -> bool:
    if "$ref" in schema:
        schema = document()["components"]["schemas"][schema["$ref"].rpartition("/")[2]]
    kinds = {"null": type(None), "array": list, "object": dict, "boolean": bool, "string": str}
    if "enum" in schema:
        return value in schema["enum"]
    if schema.get("type") in ("number", "integer"):
        return isinstance(value, int | float) and not isinstance(value, bool)
    if isinstance(value, dict) and not value.keys() >= set(schema.get("required", ())):
        return False
    return isinstance(value, kinds.get(schema.get("type", ""), object))


def single(value: Any) -> Any:
    """The same with one of everything that there are several of."""
    if isinstance(value, bool) or not isinstance(value, int | list | dict):
        return value
    if isinstance(value, dict):
        return {name: single(part) for name, part in value.items()}
    return [single(part) for part in value[:1]] if isinstance(value, list) else 1


class Refused(dict[str, Any]):
    """A problem in the place of an answer."""


class Answering(httpx.BaseTransport):
    """Answers every call; `change` says what becomes of an example."""

    def __init__(self, change: Callable[[Operation], Any]) -> None:
        self._change = change
        self.asked: set[str] = set()

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        for operation in operations():
            matches = compile_path(operation.path)[0].match(request.url.path)
            if matches and operation.method == request.method:
                break
        else:
            raise AssertionError(f"{request.method} {request.url.path} is not in the document")
        self.asked.add(f"{operation.method} {operation.path}")
        found = self._change(operation)
        if isinstance(found, Refused):
            return httpx.Response(found["status"], json=found)
        content = (
            json.dumps(found).encode()
            if operation.media.endswith("json")
            else str(found or "").encode()
        )
        return httpx.Response(
            operation.status, headers={"Content-Type": operation.media}, content=content
        )
