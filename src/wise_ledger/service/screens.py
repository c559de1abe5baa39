"""POST /screens."""

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.representations import FormOf, represented
from wise_ledger.service.routes import calls
from wise_ledger.wire.figures import Cell
from wise_ledger.wire.screens import (
    Column,
    Condition,
    Counts,
    ScreenAnswer,
    ScreenedCompany,
    ScreenRequest,
)
from wise_ledger.work import industries, screen
from wise_ledger.work.dates import as_instant
from wise_ledger.work.viewpoint import Viewpoint

router = calls("screens", "/screens")


@router.post("", response_model=ScreenAnswer)
def run(
    asked: ScreenRequest,
    desk: OpenDesk,
    form: FormOf,
) -> Any:
    """Who of a list passes a rule, who does not, and who is unknown and why."""
    desk.schedules.somebody_asked()
    viewpoint = asof.read(desk, asked)
    how = {"show": asked.show, "sort": asked.sort, "only": asked.only}
    found = screen.run_screen(desk, viewpoint, asked.rule, asked.list, asked.companies, **how)
    answer = _answer(found, viewpoint)
    return represented(form, answer, answer.rows, "screen")


def _answer(found: screen.ScreenAnswer, viewpoint: Viewpoint) -> ScreenAnswer:
    counts = {verdict.value: n for verdict, n in found.counts.items()}
    return ScreenAnswer(
        rule=found.rule,
        list=found.list,
        list_title=found.list_title,
        **asof.seen(viewpoint, found.batch),
        failed=asof.unanswered(found.failed),  # type: ignore[arg-type]
        counts=Counts(passed=counts["pass"], failed=counts["fail"], unknown=counts["unknown"]),
        conditions=[Condition.model_validate(asdict(c)) for c in found.conditions],
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
            known_at=None if cell.known_at is None else as_instant(cell.known_at),
            marks=list(cell.marks),  # type: ignore[arg-type]
            restated=cell.restated,
            restated_later=cell.restated_later,
        )
        for cell, period in zip(found, periods, strict=True)
    ]
