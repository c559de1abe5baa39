"""Lists and their members as of a date."""

import numpy as np

from wise_ledger.core.errors import Problem
from wise_ledger.core.language.check import plan_rule
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.time.instants import DAY
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.store import listreading
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.listreading import ListInfo
from wise_ledger.work import NotFound


def all_lists(ledger: Ledger) -> list[ListInfo]:
    """Every list of the ledger."""
    with ledger.database.read() as connection:
        return listreading.all_lists(connection)


def find_list(ledger: Ledger, name: str, batch: int | None = None) -> ListInfo:
    """A list by its name, as it is or as recorded by a batch; raises `NotFound`."""
    with ledger.database.read() as connection:
        lists = {entry.name: entry for entry in listreading.all_lists(connection, batch)}
    if name not in lists:
        mend = mend_for(name, lists) if lists else "collect from a source first"
        raise NotFound(Problem("list", name, "there is no list of this name", mend))
    return lists[name]


def members(ledger: Ledger, snapshot: Snapshot, name: str, cutoff: int) -> list[int]:
    """The numbers of the companies on a list on the day of an instant,
    both ends of a stay included (T9).

    On a list kept by a rule stand all companies of which the rule is true as known at the instant.
    """
    return sorted(weights(ledger, snapshot, name, cutoff))


def weights(ledger: Ledger, snapshot: Snapshot, name: str, cutoff: int) -> dict[int, float | None]:
    """The same, each with the weight where the list's keeper gives one."""
    info = find_list(ledger, name, snapshot.batch)
    if info.rule is not None:
        everybody = np.arange(len(snapshot.ids))
        values, _ = Evaluation(snapshot.view, everybody, np.array([cutoff], np.int64)).run(
            plan_rule(info.rule, snapshot.view.vocabulary)
        )
        return {int(n): None for n in everybody[(values.value[:, 0] != 0) & values.there[:, 0]]}
    today = cutoff // DAY
    with ledger.database.read() as connection:
        stays = listreading.stays(connection, name, snapshot.batch)
    return {
        s.company: s.weight
        for s in stays
        if s.valid_from <= today and (s.valid_to is None or today <= s.valid_to)
    }
