"""Which source goes before which, and where sources disagree (T5)."""

from dataclasses import dataclass

from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import reading
from wise_ledger.store.ledger import Ledger
from wise_ledger.work import NotFound


@dataclass(frozen=True)
class Order:
    """An order that stands: for all, for an item, a company, or an item of a company."""

    item: str | None
    company: str | None
    name: str | None
    sources: tuple[str, ...]


def orders(ledger: Ledger, snapshots: Snapshots) -> list[Order]:
    """The orders that stand; the general one first, also where nobody said any."""
    snapshot = snapshots.at()
    names = snapshot.source_names
    with ledger.database.read() as connection:
        orders = reading.source_orders(connection, snapshot.batch, names)
    last = {(o.item, o.company): o for o in orders}
    out = (
        []
        if (None, None) in last and last[None, None].sources
        else [Order(None, None, None, tuple(names))]
    )
    for (item, company), order in last.items():
        if order.sources:
            named = None if company is None else snapshot.newest_name(company)
            id_ = None if company is None else snapshot.ids[company]
            out.append(Order(item, id_, named, tuple(names[n] for n in order.sources)))
    return sorted(
        out, key=lambda o: (o.item is not None, o.company is not None, o.item or "", o.name or "")
    )


def source_number(snapshot: Snapshot, name: str, at: str = "source") -> int:
    """The number of a source that the ledger has something from; raises `NotFound`."""
    names = snapshot.source_names
    if name not in names:
        mend = mend_for(name, names) or f"there are {', '.join(names)}"
        raise NotFound(Problem(at, name, "the ledger has nothing from a source of this name", mend))
    return names.index(name)


def prefer(
    ledger: Ledger,
    snapshots: Snapshots,
    sources: list[str],
    who: str,
    why: str,
    *,
    item: str | None = None,
    company: str | None = None,
) -> int:
    """Say which sources go first, for an item, a company, both or all;
    none takes an earlier word back.

    Returns the batch; raises `BadInput` and `NotFound`.
    """
    snapshot = snapshots.at()
    if not who.strip():
        raise bad_input("who", "", "it is empty", "say who says so")
    if len(set(sources)) != len(sources):
        raise bad_input(
            "sources", " ".join(sources), "a source stands in it twice", "name each once"
        )
    for name in sources:
        source_number(snapshot, name, "sources")
    items = snapshot.view.items
    if item is not None and item not in items:
        raise NotFound(
            Problem("item", item, "there is no item of this code", mend_for(item, items))
        )
    number = None if company is None else snapshot.number(company)
    what = f"{item or 'all items'} of {'all companies' if number is None else snapshot.newest_name(number)}"
    with ledger.batch(
        "sources", f"{' before '.join(sources) or 'the usual order'} for {what}, says {who}"
    ) as batch:
        batch.add_source_order(item, number, sources, who.strip(), why.strip())
    return ledger.last_batch()
