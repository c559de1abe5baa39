"""Calls about limits: when a figure is stale, how late one is that no source dates."""

from wise_ledger.client.answers import body_of
from wise_ledger.client.given import request_of
from wise_ledger.client.transport import Transport
from wise_ledger.wire.limits import LimitList, LimitRequest


class LimitCalls:
    """A part of `Ledger`."""

    _transport: Transport

    def limits(self, *, recorded_by: int | None = None) -> LimitList:
        """The limits that stand, in days: `stale_after` a period's end (F12), the lags after
        which a figure without a publication date is taken to be known (T4), and how long an
        estimate stands (E2).
        """
        return body_of(LimitList, self._transport.get("/limits", recorded_by=recorded_by))

    def set_limit(
        self, name: str, days: int | None, who: str, *, source: str | None = None, why: str = ""
    ) -> LimitList:
        """Say how many days a limit is, of all sources or of one; None takes an earlier word back.

        Whatever is asked as recorded by an earlier batch keeps the limits of then. Raises
        `BadInput` and `NotFound`.
        """
        asked = request_of(LimitRequest, name=name, days=days, source=source, who=who, why=why)
        return body_of(LimitList, self._transport.post("/limits", asked.model_dump()))
