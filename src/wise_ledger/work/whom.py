"""Which companies a question is about: a list, companies by name, or everything there was."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_ledger.core.errors import bad_input
from wise_ledger.engine.snapshots import Snapshot
from wise_ledger.work import lists
from wise_ledger.work.desk import Desk


@dataclass(frozen=True)
class Whom:
    """Companies (numbers), the list they stand on if it is one, and what to call them."""

    numbers: tuple[int, ...]
    list: str | None
    title: str


def read_whom(
    desk: Desk, snapshot: Snapshot, cutoff: int, list_name: str | None = None, companies: Sequence[str] = ()
) -> Whom:
    """The members of a list on the day of a cut-off, companies by any identifier, or without either everybody.

    Everybody are the companies of which anything was known by then, those no longer active left out. Raises `BadInput`
    and `NotFound`.
    """
    if list_name is not None and companies:
        raise bad_input("list", list_name, "companies are named beside a list", "name a list, or companies")
    if list_name is not None:
        info = lists.find_list(desk.ledger, list_name)
        return Whom(tuple(lists.members(desk.ledger, snapshot, list_name, cutoff)), info.name, info.title)
    if companies:
        numbers = tuple(dict.fromkeys(snapshot.number(c, cutoff) for c in companies))
        few = ", ".join(snapshot.name(n, cutoff) for n in numbers[:3])
        return Whom(numbers, None, few if len(numbers) <= 3 else f"{few} and {len(numbers) - 3} more")
    everybody, at = np.arange(len(snapshot.ids)), np.array([cutoff], np.int64)
    named = snapshot.attributes.read("name", everybody, at)
    active = snapshot.attributes.read("active", everybody, at)
    gone = active.there[:, 0] & (active.value[:, 0] == 0)  # a truth: no longer active
    numbers = tuple(everybody[named.there[:, 0] & ~gone].tolist())
    return Whom(numbers, None, f"all {len(numbers)} companies active then")
