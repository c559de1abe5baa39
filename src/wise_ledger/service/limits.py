"""/limits: when a figure is stale, and how late publications are that no source dates."""

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.routes import calls
from wise_ledger.wire.limits import Limit, LimitList, LimitRequest
from wise_ledger.work import limits as work

router = calls("limits", "/limits")


@router.get("")
def limits(desk: OpenDesk, recorded_by: asof.RecordedBy = None) -> LimitList:
    """The limits that stand (T4, F12), those of sources after those of all."""
    found, batch = work.limits(desk.ledger, desk.snapshots, recorded_by)
    return LimitList(limits=[Limit.model_validate(vars(one)) for one in found], batch=batch)


@router.post("", status_code=201)
def set_limit(desk: OpenDesk, asked: LimitRequest) -> LimitList:
    """Say how many days a limit is; answers of earlier batches keep theirs (T7)."""
    work.set_limit(desk.ledger, desk.snapshots, **asked.model_dump())
    return limits(desk)
