"""Which companies a question is about: a list, companies by name, or everything there was."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from wise_ledger.core.errors import NotFound, Problem, bad_input
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.words import counted
from wise_ledger.work import lists
from wise_ledger.work.desk import Desk


@dataclass(frozen=True)
class Whom:
    """Companies (numbers), the list they stand on if it is one, and what to call them."""

    numbers: tuple[int, ...]
    list: str | None
    title: str
    # who was named and is not found; the others are answered all the same
    failed: tuple[Problem, ...] = ()


def read_whom(
    desk: Desk,
    snapshot: Snapshot,
    cutoff: int,
    list_name: str | None = None,
    companies: Sequence[str] = (),
) -> Whom:
    """The members of a list on the day of a cut-off, companies by any identifier,
    or without either everybody.

    Everybody are the companies of which anything was known by then, those no longer active left
    out. Raises `BadInput` and `NotFound`: of companies where none of them is found.
    """
    if list_name is not None and companies:
        raise bad_input(
            "list", list_name, "companies are named beside a list", "name a list, or companies"
        )
    if list_name is not None:
        info = lists.find_list(desk.ledger, list_name, snapshot.batch)
        return Whom(
            tuple(lists.members(desk.ledger, snapshot, list_name, cutoff)), info.name, info.title
        )
    if companies:
        numbers, failed = _named(snapshot, cutoff, companies)
        few = ", ".join(snapshot.name(n, cutoff) for n in numbers[:3])
        return Whom(
            numbers,
            None,
            few if len(numbers) <= 3 else f"{few} and {len(numbers) - 3} more",
            failed,
        )
    everybody, at = np.arange(len(snapshot.ids)), np.array([cutoff], np.int64)
    named = snapshot.attributes.read("name", everybody, at)
    active = snapshot.attributes.read("active", everybody, at)
    gone = active.there[:, 0] & (active.value[:, 0] == 0)  # a truth: no longer active
    numbers = tuple(everybody[named.there[:, 0] & ~gone].tolist())
    return Whom(
        numbers,
        None,
        f"all {counted(len(numbers), 'company')} active then"
        if len(numbers) != 1
        else "the one company active then",
    )


def as_failed(problems: Sequence[Problem]) -> list[dict[str, object]]:
    """Who is not found, as answers and files say it."""
    return [{"asked": p.value, "problem": p.problem, "mend": p.mend} for p in problems]


def _named(
    snapshot: Snapshot, cutoff: int, companies: Sequence[str]
) -> tuple[tuple[int, ...], tuple[Problem, ...]]:
    """Each company once, in the order in which they are named,
    and what is wrong with the other names.
    """
    numbers: dict[int, None] = {}
    failed = []
    for company in companies:
        try:
            numbers[snapshot.number(company, cutoff)] = None
        except NotFound as error:
            failed.append(replace(error.problems[0], value=company))
    if not numbers:
        raise NotFound(*failed)
    return tuple(numbers), tuple(failed)
