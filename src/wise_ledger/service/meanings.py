"""What each thing that is asked means, where its own call does not say it closer."""

from collections.abc import Iterator
from typing import Any

from fastapi import Query

from wise_ledger.wire.model import Model
from wise_ledger.wire.viewpoint import Viewpoint

_OF_ANY = {
    "accept": "true: they count from then on; false: they never do",
    "address": "the SHA-256 of the document, or an unambiguous beginning of it",
    "adjustment": "the code of the adjustment, such as SA",
    "archived": "true archives it, false brings it back; what rests on it stays",
    "area": "the code of the area, such as XA",
    "code": "the code of the item, such as revenue",
    "collection": "what is collected, as it would be asked for at once",
    "column": "which column of the file has the terms; by default the likeliest",
    "companies": "any identifiers of companies",
    "company": "any identifier of the company",
    "country": "ISO 3166, two letters",
    "definition": "what the item is, in a sentence",
    "description": "what it is for, in a sentence",
    "end": "a period or a day, included",
    "expression": "of items, measures, market data, estimates and series, such as net_income / revenue",
    "facts": "the numbers of the figures, as the list of findings has them",
    "family": "the first part of the keys, such as CONSUMER_PRICES",
    "format": "csv, arrow or parquet",
    "formula": "the expression that the name stands for",
    "how": "union, intersection or difference, in the order of the lists",
    "id": "the id of the extract",
    "item": "the code of an item; all of them without it",
    "kind": "panel or screen",
    "layout": "tidy: a row a value; wide or turned: a grid of one column, in files",
    "limit": "how many of the list at the most; `next` of the answer asks for those after them",
    "list": "the name of a list",
    "lists": "the names of lists that it is made of",
    "mic": "ISO 10383; none takes the word back",
    "name": "the name under which it is kept",
    "nature": "flow, stock or observation",
    "panel": "the panel, as it would be asked for at once",
    "paused": "true: it does not run until it is false",
    "question": "the panel or screen, as it would be asked for at once",
    "recorded_by": Viewpoint.model_fields["recorded_by"].description or "",
    "rows": "kind, subject and day of each, as the list of findings has them",
    "rule": "an expression that is true or false of a company, such as revenue > 1bn EUR",
    "run": "the number of the run",
    "security_type": "ordinary, preference, depositary_receipt, fund, unit or warrant",
    "series": "keys of series, with their transforms",
    "sort": "oldest or newest first",
    "source": "the name of the source",
    "sources": "the names of sources, the one that goes first at first; none takes the order back",
    "start": "a period or a day, included",
    "statement": "income, balance, cash_flow, per_share, share_count, other or all",
    "subject": "such as profitability, or the area of life that a series is about",
    "synonyms": "what else it is called",
    "tag": "the tag as the source writes it",
    "term": "a name, symbol or identifier, as it was written",
    "terms": "names, symbols or identifiers, with what else is known of each",
    "text": "measures in YAML, as the same call gives them",
    "timing": "when it runs",
    "title": "what people call it",
    "token": "the id of the token",
    "types": "only securities of these types",
    "until_ended": "companies that are no more stand on it until they ended",
    "version": "the number of one of its versions; the last without it",
    "what": "parts of the source to collect; all without them",
    "who": "whose word it is",
    "why": "the reason, for whoever asks later",
    "with_inactive": "also those no longer active on the day",
    "word": "what people write for a venue, such as .ALD",
}  # fmt: skip


def as_in(model: type[Model], name: str) -> Any:
    """A part of a query that stands in a body too: described as there."""
    field = model.model_fields[name]
    return Query(description=field.description, examples=field.examples)


def asked(document: dict[str, Any]) -> Iterator[tuple[str, str, dict[str, Any]]]:
    """All that calls ask for: the call, the name, and what the OpenAPI document says of it."""
    models = document["components"]["schemas"]
    for path, operations in document["paths"].items():
        for verb, operation in operations.items():
            call = f"{verb} {path}"
            for parameter in operation.get("parameters", ()):
                yield call, parameter["name"], parameter
            for content in operation.get("requestBody", {}).get("content", {}).values():
                model = models.get(content["schema"].get("$ref", "").rpartition("/")[2], {})
                for name, field in model.get("properties", {}).items():
                    yield call, name, field


def explain(document: dict[str, Any]) -> None:
    """Say of everything that is asked what it means, where nothing is said."""
    for _, name, about in asked(document):
        if not about.get("description") and name in _OF_ANY:
            about["description"] = _OF_ANY[name]
