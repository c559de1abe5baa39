"""POST /screens."""

from collections.abc import Sequence
from typing import Annotated, Any

from fastapi import APIRouter, Header, Query, Response

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.representations import FORMATS, represent, wanted
from wise_ledger.wire.figures import Cell
from wise_ledger.wire.screens import Column, Counts, ScreenAnswer, ScreenedCompany, ScreenRequest
from wise_ledger.work import industries, screen

router = APIRouter(prefix="/screens", tags=["screens"])


@router.post("", response_model=ScreenAnswer, responses={200: {"content": {kind: {} for kind in FORMATS.values()}}})
def run(
    asked: ScreenRequest,
    desk: OpenDesk,
    response: Response,
    accept: Annotated[str, Header()] = "*/*",
    format: Annotated[str | None, Query(description="json, csv, arrow, parquet or xlsx")] = None,
    schema: Annotated[str | None, Query(description="`table`: the Table Schema of the CSV instead")] = None,
) -> Any:
    """Who of a list passes a rule, who does not, and who is unknown and why."""
    desk.schedules.somebody_asked()
    found = screen.run_screen(
        desk.ledger,
        desk.snapshots,
        asked.rule,
        asked.list,
        asof.cutoff(asked.known_on),
        recorded_by=asked.recorded_by,
        with_assumed="assumed" not in asked.leave_out,
        hindsight=asked.hindsight,
        currency=asked.currency,
    )
    answer = _answer(found, asked)
    form = wanted(accept, format)
    asof.tag(response, answer)
    if form == "json" and schema is None:
        return answer
    return represent(form, _table(answer), "screen", schema=schema, headers=dict(response.headers))


def _answer(found: screen.ScreenAnswer, asked: ScreenRequest) -> ScreenAnswer:
    verdicts = [c.judged.verdict.value for c in found.companies]
    return ScreenAnswer(
        rule=found.rule,
        list=found.list,
        list_title=found.list_title,
        known_on=found.known_on,
        recorded_by=asked.recorded_by,
        batch=found.batch,
        counts=Counts(passed=verdicts.count("pass"), failed=verdicts.count("fail"), unknown=verdicts.count("unknown")),
        columns=[Column(**c.__dict__) for c in found.columns],
        companies=[_company(c) for c in found.companies],
    )


def _company(found: screen.ScreenedCompany) -> ScreenedCompany:
    return ScreenedCompany(
        company=found.id,
        name=found.name,
        symbol=found.symbol,
        industry=found.industry,
        industry_title=industries.title(found.industry),
        template=found.template,
        verdict=found.judged.verdict.value,
        reason=found.judged.reason,  # type: ignore[arg-type]
        cells=cells(found.judged.cells, found.periods),
    )


def cells(found: Sequence[screen.Cell], periods: Sequence[str | None]) -> list[Cell]:
    """Cells as they go on the wire."""
    return [
        Cell(
            value=cell.value,
            reason=cell.reason,  # type: ignore[arg-type]
            currency=cell.currency,
            period=period,
            period_end=cell.end,
            marks=list(cell.marks),  # type: ignore[arg-type]
            restated=cell.restated,
            restated_later=cell.restated_later,
        )
        for cell, period in zip(found, periods, strict=True)
    ]


def _table(answer: ScreenAnswer) -> list[dict[str, object]]:
    """One row a company; beside each figure its reason. Hindsight has no place in an export (T9)."""
    rows = []
    for company in answer.companies:
        row: dict[str, object] = {
            "company": company.company,
            "name": company.name,
            "symbol": company.symbol,
            "industry": company.industry,
            "verdict": company.verdict,
            "reason": company.reason,
        }
        for column, cell in zip(answer.columns, company.cells, strict=True):
            row[column.expression] = cell.value
            row[f"{column.expression} reason"] = cell.reason
            row[f"{column.expression} currency"] = cell.currency
            row[f"{column.expression} period"] = cell.period
            row[f"{column.expression} period_end"] = cell.period_end
            row[f"{column.expression} marks"] = " ".join(cell.marks)
        rows.append(row)
    return rows
