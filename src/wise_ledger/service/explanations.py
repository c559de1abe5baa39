"""GET /explanations, and the documents below them."""

from typing import Annotated

from fastapi import Query, Response

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.routes import calls
from wise_ledger.wire.figures import (
    Conversion,
    DocumentInfo,
    Explanation,
    FactInfo,
    Input,
    InputOnDate,
    Node,
    Version,
)
from wise_ledger.work import documents, explain
from wise_ledger.work.dates import as_date, read_date

router = calls("explanations")


@router.get("/explanations")
def explanation(
    desk: OpenDesk,
    company: Annotated[str, Query(description="id, or SYMBOL@MIC")],
    expression: Annotated[str, Query(examples=["operating_income / revenue"])],
    viewpoint: asof.AskedOfCells,
    period_end: Annotated[
        str | None, Query(description="nominal or reported; by default the one it is read at")
    ] = None,
) -> Explanation:
    """A figure of one company: its inputs down to facts and documents, and its versions."""
    end = None if period_end is None else read_date(period_end, "period_end")
    found = explain.explain_figure(desk, viewpoint, company, expression, end=end)
    return Explanation(
        company=found.company,
        name=found.name,
        symbol=found.symbol,
        expression=found.expression,
        unit=found.unit,
        value=found.value,
        reason=found.reason,  # type: ignore[arg-type]
        marks=list(found.marks),  # type: ignore[arg-type]
        period=found.period,
        period_end=found.end,
        **asof.seen(viewpoint, found.batch) | {"currency": found.currency},
        inputs=[_input(i, found.besides) for i in found.inputs],
        conversions=[Conversion(**c.__dict__) for c in found.conversions],
        dated=[_on_date(d) for d in found.dated],
        versions=[_version(v) for v in found.versions],
    )


@router.get("/documents/{address}")
def document(desk: OpenDesk, address: str) -> DocumentInfo:
    """A document by the SHA-256 of its bytes, or the beginning of it."""
    found, _ = documents.find_document(desk.ledger, address)
    return DocumentInfo(**found.__dict__)


@router.get(
    "/documents/{address}/content",
    response_class=Response,
    responses={200: {"content": {"text/plain": {}}}},
)
def content(desk: OpenDesk, address: str) -> Response:
    """The raw bytes, as the source sent them."""
    found, raw = documents.find_document(desk.ledger, address)
    # Shown as text whatever the source called it, so that no document can run in the console's
    # name.
    headers = {
        "X-Content-Type-Options": "nosniff",
        "ETag": f'"{found.sha256}"',
        "Content-Security-Policy": "sandbox",
    }
    return Response(raw, media_type="text/plain; charset=utf-8", headers=headers)


def _input(found: explain.FigureInput, besides: dict[int, explain.Beside]) -> Input:
    return Input(
        expression=found.expression,
        title=found.title,
        unit=found.unit,
        value=found.value,
        currency=found.currency,
        period_end=found.end,
        period=found.period,
        form=found.form,
        facts=[_fact(fact, sign, besides) for sign, fact in found.facts],
        tree=None if found.derivation is None else _node(found.derivation, found.of, besides),
    )


def _on_date(found: explain.InputOnDate) -> InputOnDate:
    return InputOnDate(**found.__dict__ | {"parts": [_on_date(part) for part in found.parts]})


def _fact(fact: explain.Fact, sign: int, besides: dict[int, explain.Beside]) -> FactInfo:
    columns = {k: v for k, v in fact.__dict__.items() if k not in ("id", "document")}
    more = besides.get(fact.id)
    return FactInfo(
        sign=sign, document=DocumentInfo(**fact.document.__dict__), tag=more and more.tag,
        turned=bool(more and more.turned), **columns,
    )  # fmt: skip


def _node(
    derivation: explain.Derivation,
    facts: dict[int, explain.Fact],
    besides: dict[int, explain.Beside],
) -> Node:
    fact = None if derivation.fact is None else facts.get(derivation.fact)
    return Node(
        form=derivation.form,
        sign=derivation.sign,
        value=derivation.value,
        currency=explain.currency_name(derivation.currency),
        period_end=as_date(derivation.end),
        fact=None if fact is None else _fact(fact, derivation.sign, besides),
        parts=[_node(part, facts, besides) for part in derivation.parts],
    )


def _version(found: explain.FigureVersion) -> Version:
    return Version(
        known_from=found.known_from,
        value=found.value,
        reason=found.reason,  # type: ignore[arg-type]
        marks=list(found.marks),  # type: ignore[arg-type]
        standing=found.standing,
        later=found.later,
        because=found.because,  # type: ignore[arg-type]
        documents=[DocumentInfo(**d.__dict__) for d in found.documents],
    )
