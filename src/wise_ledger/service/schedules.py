"""/schedules: collections at set times."""

from fastapi import Response

from wise_ledger.service.access import OpenDesk
from wise_ledger.service.collections import asked_for
from wise_ledger.service.routes import calls
from wise_ledger.service.runs import shown
from wise_ledger.wire.collecting import (
    Run,
    Schedule,
    ScheduleChange,
    ScheduleRequest,
    Schedules,
    Timing,
)
from wise_ledger.work import schedules
from wise_ledger.work.desk import Desk

router = calls("schedules", "/schedules")


@router.get("")
def every(desk: OpenDesk) -> Schedules:
    """Every schedule by name: its last run, when it is due next, what changed."""
    return Schedules(schedules=[_shown(desk, s) for s in desk.schedules.all()])


@router.post("", status_code=201)
def keep(asked: ScheduleRequest, desk: OpenDesk) -> Schedule:
    """Keep a new schedule."""
    timing = schedules.Timing(
        asked.timing.every, tuple(asked.timing.at), asked.timing.days, asked.timing.older_than
    )
    wanted = asked_for(desk, asked.collection)
    return _shown(
        desk, desk.schedules.keep(asked.name, wanted, timing, tuple(asked.notify), asked.who)
    )


@router.get("/{name}")
def one(desk: OpenDesk, name: str) -> Schedule:
    """One schedule."""
    return _shown(desk, desk.schedules.find(name))


@router.patch("/{name}")
def change(desk: OpenDesk, name: str, asked: ScheduleChange) -> Schedule:
    """Hold a schedule, or let it go on."""
    return _shown(desk, desk.schedules.pause(name, paused=asked.paused))


@router.delete("/{name}", status_code=204)
def remove(desk: OpenDesk, name: str) -> Response:
    """Forget a schedule; its runs stay."""
    desk.schedules.remove(name)
    return Response(status_code=204)


@router.post("/{name}/runs", status_code=202)
def run_now(desk: OpenDesk, name: str, response: Response) -> Run:
    """Queue its collection now."""
    run = desk.schedules.run_now(name)
    response.headers["Location"] = f"/api/v1/runs/{run.id}"
    return shown(desk, run.id, with_outcomes=False)


def _shown(desk: Desk, found: schedules.Schedule) -> Schedule:
    last = found.last
    return Schedule(
        name=found.name,
        source=found.asked.source,
        list=found.asked.list,
        timing=Timing(
            every=found.timing.every,
            at=list(found.timing.at),
            days=found.timing.days,
            older_than=found.timing.older_than,
        ),
        notify=list(found.notify),
        who=found.who,
        paused=found.paused,
        next_at=found.next_at,
        last_run=last.id if last else None,
        last_state=last.state if last else None,  # type: ignore[arg-type]
        last_ended=last.ended_at if last else None,
        last_facts=desk.runs.report(last.id).tally.facts if last else None,
        problem=found.problem,
    )
