"""/panels: many measures of many companies on many dates; and questions that are kept."""

from typing import Annotated, Any, TypeVar

from fastapi import Query
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ValidationError

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.representations import FormOf, represent, represent_batches
from wise_ledger.service.routes import API, calls
from wise_ledger.wire.panels import (
    ColumnSummary,
    ExtractInfo,
    PanelAnswer,
    PanelColumn,
    PanelPlan,
    PanelRequest,
    PanelSummary,
    QuestionArchive,
    QuestionInfo,
    QuestionRequest,
    Questions,
)
from wise_ledger.wire.rows import Rows
from wise_ledger.wire.screens import ScreenRequest
from wise_ledger.work import BadInput, Problem, questions
from wise_ledger.work import panelreading as reading
from wise_ledger.work.extractpanels import ask_extract
from wise_ledger.work.extracts import FORMATS as EXTRACTED
from wise_ledger.work.panels import Panel, PanelAsked, read_panel
from wise_ledger.work.paneltable import batches, context_of, refuse_layout
from wise_ledger.work.viewpoint import Viewpoint

router = calls("panels")
M = TypeVar("M", bound=BaseModel)
_MOST_JSON, _MOST_SHEET = 50_000, 1_000_000  # rows


def asked_of(asked: PanelRequest) -> PanelAsked:
    """What is asked, as the jobs take it."""
    return PanelAsked(
        tuple(asked.expressions),
        asked.list,
        tuple(asked.companies),
        tuple(asked.dates),
        asked.periods,
        asked.where,
        asked.lag,
        asked.at_close,
        asked.first_reported,
        tuple(asked.ahead),
        tuple(asked.beside),
    )


_LATER = {
    202: {
        "model": ExtractInfo,
        "description": "it is too large to be answered at once: an extract, and where it is",
    }
}


@router.post("/panels", response_model=PanelAnswer, responses=_LATER)  # type: ignore[arg-type]
def panel(
    asked: PanelRequest,
    desk: OpenDesk,
    form: FormOf,
    limit: Annotated[
        int, Query(ge=1, le=_MOST_JSON, description="of JSON: rows at the most")
    ] = 1_000,
    summary: Annotated[bool, Query(description="of JSON: also how the columns lie")] = False,
) -> Any:
    """Measures of a list, of companies or of everybody, on dates or by fiscal period."""
    desk.schedules.somebody_asked()
    viewpoint = asof.read(desk, asked)
    found = read_panel(desk, viewpoint, asked_of(asked))
    _seen(found, viewpoint)  # for the headers, whatever the form
    if form.is_answer:
        return _answer(found, viewpoint, asked, limit, summary)
    if (
        form.name in EXTRACTED
        and not form.schema
        and reading.size_of(found).cells > reading.AT_ONCE
    ):
        extract = ask_extract(desk, viewpoint, asked_of(asked), asked.layout, form.name)
        shown = ExtractInfo.model_validate(vars(extract)).model_dump(mode="json")
        return JSONResponse(shown, 202, {"Location": f"{API}/extracts/{extract.id}"})
    reading.refuse_large(found)
    made = batches(found, asked.layout)
    if form.name in ("parquet", "arrow", "csv") and not form.schema:
        return represent_batches(form, made, "panel")
    reading.refuse_more_rows(found, _MOST_SHEET, form.name)
    rows = _rows(list(made), context_of(found, asked.layout))
    return represent(form, rows, "panel")


@router.post("/panels/plan")
def plan(asked: PanelRequest, desk: OpenDesk) -> PanelPlan:
    """How large a panel would be, and how long it would take; it is checked, and not evaluated."""
    viewpoint = asof.read(desk, asked)
    found = read_panel(desk, viewpoint, asked_of(asked))
    refuse_layout(found, asked.layout)
    size = reading.size_of(found)
    return PanelPlan.model_validate(
        {**_seen(found, viewpoint), "columns": _columns(found)}
        | {"companies": size.companies, "dates": size.dates, "rows": size.rows, "cells": size.cells}
        | {"seconds": size.seconds, "at_once": size.cells <= reading.AT_ONCE}
    )


@router.post("/panels/summary")
def summary(asked: PanelRequest, desk: OpenDesk) -> PanelSummary:
    """How the columns of a panel lie: filled, missing by reason, quantiles, extremes by name."""
    viewpoint = asof.read(desk, asked)
    found = read_panel(desk, viewpoint, asked_of(asked))
    reading.refuse_large(found)
    shown = reading.summarise(found)
    return PanelSummary.model_validate(
        {**_seen(found, viewpoint), "rows_found": shown.rows, "unknown": shown.unknown,
         "summary": _summary(found, shown)}
    )  # fmt: skip


@router.get("/questions")
def kept(
    desk: OpenDesk,
    kind: Annotated[str | None, Query(pattern="^(panel|screen)$")] = None,
    archived: Annotated[bool, Query(description="archived ones too")] = False,
) -> Questions:
    """Questions that are kept: panels and screens, to be asked again by anybody."""
    found = questions.all_questions(desk.ledger, archived=archived)
    return Questions(questions=[_question(q) for q in found if kind in (None, q.content["kind"])])


@router.get("/questions/{name}")
def question(
    desk: OpenDesk, name: str, version: int | None = None, recorded_by: asof.RecordedBy = None
) -> QuestionInfo:
    """A kept question, its newest version without one: as recorded by a batch if one is named."""
    return _question(questions.find_question(desk.ledger, name, version, recorded_by))


@router.get("/questions/{name}/versions")
def question_versions(desk: OpenDesk, name: str) -> Questions:
    """Every version of a question, the newest first."""
    return Questions(
        questions=[_question(q) for q in questions.question_versions(desk.ledger, name)]
    )


@router.put("/questions/{name}")
def keep(desk: OpenDesk, name: str, asked: QuestionRequest) -> QuestionInfo:
    """Keep a question: new, or another version; what it asks is checked first."""
    about = (asked.kind, name, asked.title, asked.description)
    if asked.kind == "panel":
        shown = _read(PanelRequest, asked.question)
        read_panel(desk, asof.read(desk, shown), asked_of(shown))
        expressions = [*shown.expressions, *([shown.where] if shown.where else [])]
        body = shown.model_dump(mode="json", exclude_defaults=True)
    else:
        screen = _read(ScreenRequest, asked.question)
        questions.check_rule(desk, screen.rule)
        expressions = [screen.rule, *screen.show]
        body = screen.model_dump(mode="json", exclude_defaults=True)
    return _question(questions.keep_question(desk.ledger, *about, body, expressions, asked.who))


@router.patch("/questions/{name}")
def archive(desk: OpenDesk, name: str, asked: QuestionArchive) -> QuestionInfo:
    """Archive a question, or bring it back; its versions stay."""
    return _question(
        questions.archive_question(desk.ledger, name, asked.who, archived=asked.archived)
    )


def _read(kind: type[M], body: dict[str, Any]) -> M:
    """What a question to be kept asks; raises `BadInput` where it is none of its kind."""
    try:
        return kind.model_validate(body)
    except ValidationError as error:
        raise BadInput(
            *(
                Problem(
                    ".".join(("question", *map(str, e["loc"]))),
                    str(e["input"])[:80],
                    e["msg"],
                    "see /openapi.json",
                )
                for e in error.errors()
            )
        ) from None


def _question(found: questions.Kept) -> QuestionInfo:
    kind, question = found.content["kind"], dict(found.content["question"])
    if kind == "panel":  # took the word once, and passed over it
        question.pop("hindsight", None)
    return QuestionInfo.model_validate({**vars(found), "kind": kind, "question": question})


def _columns(found: Panel) -> list[PanelColumn]:
    return [
        PanelColumn(
            name=c.name, expression=c.expression, unit=c.unit, looks_ahead=c.ahead is not None
        )
        for c in found.columns
    ]


def _seen(found: Panel, viewpoint: Viewpoint) -> dict[str, object]:
    """What every answer about a panel says of it."""
    return {
        **asof.seen(viewpoint, found.batch),
        "failed": asof.unanswered(found.failed),
        "title": found.title,
    }


def _answer(
    found: Panel, viewpoint: Viewpoint, asked: PanelRequest, limit: int, summary: bool
) -> PanelAnswer:
    if summary:
        reading.refuse_large(found)
    shown = reading.first_rows(found, asked.layout, limit, with_summary=summary)
    return PanelAnswer.model_validate(
        {**_seen(found, viewpoint), "list": asked.list, "columns": _columns(found)}
        | {
            "companies": len(found.question.members),
            "dates": found.date_labels,
            "heads": shown.heads,
        }
        | {"records": shown.records, "total": shown.total, "unknown": shown.unknown}
        | {"summary": _summary(found, shown) if summary else []}
    )


def _summary(found: Panel, shown: reading.Summarised) -> list[ColumnSummary]:
    labels, columns = found.date_labels, {c.name: c for c in found.columns}

    def extreme(at: reading.Extreme | None) -> dict[str, object] | None:
        if at is None:
            return None
        about = {"company": found.ids[at.company], "name": found.names[at.company]}
        return {**about, "date": labels[at.date], "value": at.value}

    return [
        ColumnSummary.model_validate(
            {
                **vars(s),
                "expression": columns[s.name].expression,
                "unit": columns[s.name].unit,
                "quantiles": list(s.quantiles),
                "lowest": extreme(s.lowest),
                "highest": extreme(s.highest),
            }
        )
        for s in shown.columns
    ]


def _rows(made: list[Any], context: dict[str, Any]) -> Rows:
    names = made[0].schema.names
    return Rows(names, (row for batch in made for row in batch.to_pylist()), context)
