"""/statements and /restatements: statements of companies as known on a date,
and what was restated.
"""

import json
from datetime import date
from functools import lru_cache, partial
from typing import Annotated, Any, Literal

from fastapi import Query, Response

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.meanings import as_in
from wise_ledger.service.paging import Cursor, following
from wise_ledger.service.representations import Columns, FormOf, Sort, chosen, represent
from wise_ledger.service.routes import calls
from wise_ledger.wire.columns import STATEMENT
from wise_ledger.wire.layout import Layout
from wise_ledger.wire.model import iso_text
from wise_ledger.wire.statements import (
    Restatement,
    Restatements,
    StatementAnswer,
    StatementsAnswer,
    StatementsRequest,
)
from wise_ledger.work import restatements
from wise_ledger.work.dates import as_instant, read_date, read_start
from wise_ledger.work.statements import Shape, Statement, read_statement, read_statements
from wise_ledger.work.viewpoint import Viewpoint

router = calls("statements")
_as_asked = partial(as_in, StatementsRequest)


@router.get("/statements", response_model=StatementAnswer)
def statement(
    desk: OpenDesk,
    form: FormOf,
    company: Annotated[str, Query(description="any identifier of the company")],
    viewpoint: asof.AskedOfCells,
    statement: Annotated[str, _as_asked("statement")] = "income",
    frequency: Annotated[str, _as_asked("frequency")] = "annual",
    versions: Annotated[Literal["latest", "first"], _as_asked("versions")] = "latest",
    figures: Annotated[Literal["normalised", "as_reported"], _as_asked("figures")] = "normalised",
    show: Annotated[str, _as_asked("show")] = "amounts",
    periods: Annotated[
        int | None, Query(ge=1, description="the newest so many; all there are without it")
    ] = None,
    start: Annotated[
        str | None, Query(description="YYYY-MM-DD: periods that end from then on")
    ] = None,
    end: Annotated[str | None, Query(description="YYYY-MM-DD, included")] = None,
    lines: Annotated[str, _as_asked("lines")] = "filled",
    basis: Annotated[
        str, Query(description="consolidated, or one of the answer's bases")
    ] = "consolidated",
    columns: Columns = None,
    sort: Sort = "oldest",
    layout: Layout = "tidy",
) -> StatementAnswer | Response:
    """A company's statement: lines down, periods across, oldest first."""
    shape = Shape(
        statement,
        frequency,
        first_reported=versions == "first",
        as_reported=figures == "as_reported",
        show=show,
        periods=periods,
        lines=lines,
        basis=basis,
        start=_day(start, "start"),
        end=_day(end, "end"),
    )
    found = read_statement(desk, viewpoint, company, shape)
    plain = _answer(found, viewpoint, versions, figures)
    body = json.dumps(plain, separators=(",", ":"), ensure_ascii=False, allow_nan=False).encode()
    if form.is_answer:
        return Response(body, media_type="application/json")
    answer = StatementAnswer.model_validate(plain)
    name = f"{answer.symbol or answer.company} {statement} {frequency}".replace("@", " ")
    rows = answer.rows(chosen(columns, STATEMENT), layout, sort)
    return represent(form, rows, name)


@router.post("/statements", response_model=StatementsAnswer)
def statements_of_several(
    asked: StatementsRequest,
    desk: OpenDesk,
    form: FormOf,
    columns: Columns = None,
    sort: Sort = "oldest",
    layout: Layout = "tidy",
) -> StatementsAnswer | Response:
    """The statements of a list, or of companies named: in order,
    each with its figures or what is wrong.
    """
    viewpoint = asof.read(desk, asked)
    shape = Shape(
        asked.statement,
        asked.frequency,
        first_reported=asked.versions == "first",
        as_reported=asked.figures == "as_reported",
        show=asked.show,
        periods=asked.periods,
        lines=asked.lines,
        start=_day(asked.start, "start"),
        end=_day(asked.end, "end"),
    )
    found = read_statements(desk, viewpoint, asked.list, asked.companies, shape)
    plain = {
        "statements": [_answer(s, viewpoint, asked.versions, asked.figures) for s in found.statements],
        "failed": asof.unanswered(found.failed),
        **asof.seen(viewpoint, found.batch), "known_on": iso_text(viewpoint.known_on),
    }  # fmt: skip
    body = json.dumps(plain, separators=(",", ":"), ensure_ascii=False, allow_nan=False).encode()
    if form.is_answer:
        return Response(body, media_type="application/json")
    answer = StatementsAnswer.model_validate(plain)
    rows = answer.rows(chosen(columns, STATEMENT), layout, sort)
    return represent(form, rows, "statements")


@router.get("/restatements")
def restated(
    desk: OpenDesk,
    viewpoint: asof.Asked,
    since: Annotated[str, Query(description="a date or an instant")] = "1900-01-01",
    company: Annotated[str | None, Query(description="any identifier of one company")] = None,
    list: Annotated[str | None, Query(description="only of members of a list")] = None,
    item: str | None = None,
    least: Annotated[float, Query(ge=0, description="percent; smaller changes are left out")] = 0.0,
    limit: Annotated[int, Query(ge=1, le=5000)] = 200,
    cursor: Cursor = 0,
) -> Restatements:
    """What was restated: from, to, when, by which document, and how large; the newest first."""
    begin = read_start(since, "since")
    found = restatements.log(
        desk,
        viewpoint,
        begin,
        company=company,
        list_name=list,
        item=item,
        least=least,
        limit=limit,
        skip=cursor,
    )
    entries = [
        Restatement.model_validate(
            vars(e.change)
            | {
                "company": e.company,
                "name": e.name,
                "period": e.period,
                "title": e.title,
                "percent": e.change.percent,
            }
        )
        for e in found.entries
    ]
    return Restatements(
        restatements=entries,
        total=found.total,
        since=begin,
        next=following(cursor, len(entries), found.total),
        **asof.seen(viewpoint, found.batch),
    )


def _day(text: str | None, at: str) -> date | None:
    return None if text is None else read_date(text, at)


def _answer(found: Statement, viewpoint: Viewpoint, versions: str, figures: str) -> dict[str, Any]:
    """As `StatementAnswer` has it, made as plain JSON:
    thousands of cells are too many for a model each.
    """
    asof.stamp(viewpoint.known_on, viewpoint.recorded_by, found.batch)
    laid = found.laid
    columns = [
        {
            "label": c.label,
            "calendar": c.calendar,
            "period_end": c.period_end.isoformat(),
            "nominal_end": c.nominal_end.isoformat(),
            "first_public_at": _instant(c.published),
            "currency": currency,
        }
        for c, currency in zip(laid.columns, laid.currencies, strict=True)
    ]
    lines = [
        {
            "item": x.item.code,
            "title": x.item.title,
            "statement": x.item.statement,
            "unit": x.item.unit,
            "nature": x.item.nature.value,
            "indent": x.item.indent,
            "applies": x.applies,
            "sign": x.item.sign_in(found.template) or 1,
            "of_which": x.item.is_of_which(found.template),
            "cells": [
                {
                    "value": c.value,
                    "reason": c.reason,
                    "marks": c.marks,
                    "formed": c.formed,
                    "restated": c.restated,
                    "restated_later": c.restated_later if viewpoint.hindsight else None,
                    "known_at": None if c.known is None else _instant(c.known),
                    "flags": c.flags,
                    "currency": c.currency,
                }
                for c in x.cells
            ],
        }
        for x in laid.lines
    ]
    return {
        "company": found.company,
        "name": found.name,
        "symbol": found.symbol,
        "template": found.template,
        "statement": found.statement,
        "frequency": found.frequency,
        "show": found.show,
        "versions": versions,
        "figures": figures,
        "currency": laid.currency,
        "known_on": iso_text(found.known_on),
        "basis": found.basis,
        "bases": found.bases,
        "batch": found.batch,
        "recorded_by": viewpoint.recorded_by,
        "leave_out": sorted(viewpoint.leave_out),
        "columns": columns,
        "lines": lines,
    }


@lru_cache(20_000)
def _instant(at: int) -> str:
    return iso_text(as_instant(at))
