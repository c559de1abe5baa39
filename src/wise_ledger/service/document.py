"""The OpenAPI document, completed with what no call declares by itself: problems,
other representations, and an example of every answer.
"""

import json
from pathlib import Path
from typing import Any

from wise_ledger.service.meanings import explain
from wise_ledger.service.representations import FORMATS
from wise_ledger.service.routes import API
from wise_ledger.wire.tables import TableSchema

_ANY = ("default", "401", "413", "422", "503")  # answers of any call beside its own
_SAID = {
    "default": "What is wrong, where, and the mend", "401": "The call has no token that holds",
    "413": "What is sent is more than is taken at once", "422": "The input cannot be used",
    "404": "What was named does not exist", "503": "The service has its hands full: ask again after Retry-After",
}  # fmt: skip
_PROBLEM = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/ProblemDetails"}}}
_JSON = FORMATS["json"]
_DATED = {
    name: {"description": meaning, "schema": {"type": kind}}
    for name, kind, meaning in (
        ("Known-On", "string", "the cut-off of public knowledge"),
        ("Recorded-By", "integer", "the batch after which all were ignored, where one was named"),
        ("Batch", "integer", "the newest batch that the answer rests on"),
        ("Unanswered", "string", "who was named and is not found, as in a URL"),
        ("ETag", "string", "the same question with the same cut-offs and batch has the same"),
    )
}

_LOADS = (f"{API}/collections/files", f"{API}/collections/pages")
_KEY = {
    "name": "idempotency-key", "in": "header", "required": False,
    "schema": {"anyOf": [{"type": "string", "maxLength": 200}, {"type": "null"}]},
    "description": "repeated with the same key within a day, the call creates nothing more and has the same answer",
}  # fmt: skip
# What is sent as the bytes of a file, which no model of ours stands for.
_FILES = {
    "/collections/files/{kind}": ("text/csv", "listing,date,close\nAGK@ZALD,2024-12-30,21.5\n"),
    "/collections/pages": (
        "application/octet-stream",
        "the bytes of a ZIP archive: one folder a company, in each its dated pages",
    ),
    "/matches/terms": ("text/csv", "name,country\nAshgrove Kilnworks,XA\n"),
}


def completed(document: dict[str, Any]) -> dict[str, Any]:
    """The document with the answers of the gate and the media types that are
    chosen by `format` and `schema`.
    """
    table = TableSchema.model_json_schema(ref_template="#/components/schemas/{model}")
    document["components"]["schemas"] |= {**table.pop("$defs"), "TableSchema": table}
    for path, operations in document["paths"].items():
        for verb, operation in operations.items():
            makes = {"201", "202"} & set(operation["responses"]) or path.startswith(_LOADS)
            if (
                verb == "post"
                and makes
                and not any(p["in"] == "header" for p in operation.get("parameters", ()))
            ):
                operation.setdefault("parameters", []).append(_KEY)
            if verb == "post" and (file := _FILES.get(path.removeprefix(API))):
                content = {
                    file[0]: {"schema": {"type": "string", "format": "binary"}, "example": file[1]}
                }
                operation["requestBody"] = {"required": True, "content": content}
            answers, asked = (
                operation["responses"],
                {p["name"] for p in operation.get("parameters", [])},
            )
            statuses = (*_ANY, "404") if "{" in path else _ANY
            for status in statuses if path != f"{API}/health" else ("default", "422"):
                answers.setdefault(status, {"description": _SAID[status]})
                answers[status]["content"] = _PROBLEM
            content = answers.get("200", {}).get("content", {})
            if _is_dated(content, document["components"]["schemas"]):
                answers["200"]["headers"] = _DATED
            if "format" in asked:
                content |= {media: {} for media in FORMATS.values() if media not in content}
            if "schema" in asked:
                of_table = {"$ref": "#/components/schemas/TableSchema"}
                content[_JSON] = {"schema": {"anyOf": [content[_JSON]["schema"], of_table]}}
    explain(document)
    _show_answers(document["paths"])
    return document


def _show_answers(paths: dict[str, Any]) -> None:
    """Give every answer the example that was recorded of it, or else of one like it."""
    recorded = json.loads((Path(__file__).parent / "examples.json").read_text("utf-8"))
    without, alike = [], dict[str, Any]()
    for path, operations in paths.items():
        for verb, operation in operations.items():
            for status, answer in operation["responses"].items():
                examples = recorded.get(f"{verb.upper()} {path} {status}", {})
                for media, content in answer.get("content", {}).items():
                    schema = json.dumps(content.get("schema"))
                    if media in examples:
                        content["example"] = alike[schema] = examples[media]
                    elif media == _JSON:
                        without.append((schema, content))
    for schema, content in without:
        if schema in alike:
            content["example"] = alike[schema]


def _is_dated(content: dict[str, Any], schemas: dict[str, Any]) -> bool:
    """Whether an answer depends on time: whether it says the day,
    and the newest batch it rests on.
    """
    schema = content.get(_JSON, {}).get("schema", {})
    named = [of.get("$ref", "").rpartition("/")[2] for of in (schema, *schema.get("anyOf", ()))]
    fields = [schemas.get(name, {}).get("properties", {}) for name in named]
    return any("batch" in f and ("known_on" in f or "on" in f) for f in fields)
