"""The currency that somebody asks for answers in."""

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import bad_input
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.nearest import mend_for
from wise_ledger.engine.snapshot import Snapshot

_FEW = 12


def currencies(snapshot: Snapshot) -> tuple[str, ...]:
    """The currencies that companies report in, and those that there are rates of."""
    rated = {name for code in snapshot.view.rates.currencies if (name := currency_name(code))}
    return tuple(sorted(rated | {a.value for a in snapshot.attributes.versions("currency")}))


def in_currency(snapshot: Snapshot, viewpoint: Viewpoint) -> Viewpoint:
    """The viewpoint, once its currency is known to be one that amounts can be
    shown in; raises `BadInput`.
    """
    read_currency(snapshot, viewpoint.currency)
    return viewpoint


def read_currency(snapshot: Snapshot, text: str | None) -> str | None:
    """The code asked for; raises `BadInput` where nothing could be stated in it."""
    if text is None:
        return None
    known = currencies(snapshot)
    if text not in known:
        if not len(snapshot.view.rates):
            raise bad_input(
                "currency",
                text,
                "there are no rates yet",
                "collect them, or: wise-ledger load rates FILE",
            )
        mend = f"write {', '.join(known)}" if len(known) <= _FEW else mend_for(text, known)
        raise bad_input("currency", text, "no rate to it is known", mend)
    return text
