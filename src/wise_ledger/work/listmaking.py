"""Lists that people make: from companies they name, or out of other lists;
every change is a version.
"""

from collections.abc import Callable, Sequence
from datetime import date

from wise_ledger.core.errors import bad_input
from wise_ledger.core.language.check import plan_rule
from wise_ledger.core.records.records import ListRecord, MemberRecord
from wise_ledger.core.time.instants import end_of_day, micros
from wise_ledger.core.time.periods import as_date, day
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import listreading
from wise_ledger.store.ledger import Ledger
from wise_ledger.work import lists
from wise_ledger.work.kept import check_name

PEOPLE = ("people", "People")
_ALWAYS = date(1900, 1, 1)


def keep_list(
    ledger: Ledger,
    snapshots: Snapshots,
    name: str,
    title: str,
    companies: Sequence[str],
    who: str,
    *,
    until_ended: bool = False,
) -> int:
    """Keep a list of companies (any identifiers): new, or changed to be
    exactly these; returns the batch.

    Who left stays a member until yesterday, who came is one from today on; the first version holds
    for all dates. With `until_ended` companies that are no more stand on it until the day they
    ended.
    """
    check_name(name, "list", "steady-earners")
    if not companies:
        raise bad_input("companies", "", "a list needs a company", "name at least one")
    snapshot = snapshots.at()
    wanted = {snapshot.number(c) for c in companies}
    return _keep(
        ledger, snapshot, name, title, who, lambda standing: wanted, until_ended=until_ended
    )


def change_members(
    ledger: Ledger,
    snapshots: Snapshots,
    name: str,
    add: Sequence[str],
    remove: Sequence[str],
    who: str,
) -> int:
    """Put companies (any identifiers) on a list from today on,
    and take others off from today on.
    """
    lists.find_list(ledger, name)
    snapshot = snapshots.at()
    come, go = ({snapshot.number(c) for c in given} for given in (add, remove))
    for number in come & go:
        raise bad_input("add", snapshot.ids[number], "it is to come and to go", "name it once")

    def after(standing: set[int]) -> set[int]:
        for number in go - standing:
            raise bad_input(
                "remove",
                snapshot.ids[number],
                "it does not stand on the list",
                "look at its members",
            )
        return (standing | come) - go

    return _keep(ledger, snapshot, name, "", who, after)


def _keep(
    ledger: Ledger,
    snapshot: Snapshot,
    name: str,
    title: str,
    who: str,
    after: Callable[[set[int]], set[int]],
    *,
    until_ended: bool = False,
) -> int:
    """Write who came and who left; `after` says who is to stand, of those who do."""
    known = {entry.name: entry for entry in lists.all_lists(ledger)}
    info = known.get(name)
    _check_keeper(name, info, who)
    today = ledger.now().date()
    with ledger.database.read() as connection:
        stays = listreading.stays(connection, name, snapshot.batch) if info else []
    open_ = {s.company: s for s in stays if s.valid_to is None}
    wanted = after(set(open_))
    endings = {
        n: snapshot.universe.activity[n].ending(day(today))
        for n in wanted
        if until_ended and n not in open_
    }
    ended = {n: ending.span.since - 1 for n, ending in endings.items() if ending is not None}
    had = {(s.company, s.valid_to) for s in stays}
    rows = [
        MemberRecord(snapshot.ids[n], today if info else _ALWAYS)
        for n in sorted(wanted) if n not in open_ and n not in ended
    ]  # fmt: skip
    # One that is no more stood on it until it ended: a study of the past sees it.
    rows += [
        MemberRecord(snapshot.ids[n], _ALWAYS, as_date(end))
        for n, end in sorted(ended.items()) if (n, end) not in had and n not in open_
    ]  # fmt: skip
    yesterday = as_date((today - date(1970, 1, 1)).days - 1)
    rows += [
        MemberRecord(snapshot.ids[n], as_date(s.valid_from), yesterday)
        for n, s in open_.items()
        if n not in wanted
    ]
    numbers = {snapshot.ids[n]: n for n in {*wanted, *open_}}
    called = title.strip() or (info.title if info else name)
    with ledger.batch("list", f"list {name} kept by {who.strip()}") as batch:
        batch.add_list(batch.source(*PEOPLE), ListRecord(name, called, tuple(rows)), numbers)
        if rows or info is None or called != info.title:
            noted = (info.description, info.archived) if info else ("", False)
            batch.add_list_note(name, called, *noted, who.strip())
    return ledger.last_batch()


def _check_keeper(name: str, info: listreading.ListInfo | None, who: str) -> None:
    if not who.strip():
        raise bad_input("who", "", "it is empty", "say who keeps the list")
    if info is not None and info.rule is not None:
        raise bad_input("name", name, "this list is kept by a rule", "choose another name")
    if info is not None and info.kept_by is not None:
        mend = f"copy it under another name: the union of {name} alone is its copy"
        raise bad_input("name", name, f"this list is kept by {info.kept_by}", mend)


def keep_rule_list(
    ledger: Ledger, snapshots: Snapshots, name: str, title: str, rule: str, who: str
) -> int:
    """Keep a list by a rule: on it stand, on any date,
    the companies of which the rule is true then.
    """
    check_name(name, "list", "steady-earners")
    plan_rule(rule, snapshots.at().view.vocabulary)
    if name in {entry.name for entry in lists.all_lists(ledger)}:
        raise bad_input(
            "name", name, "there is a list of this name", "choose another: the rule of a list stays"
        )
    if not who.strip():
        raise bad_input("who", "", "it is empty", "say who keeps the list")
    with ledger.batch("list", f"list {name} kept by {who.strip()}, by a rule") as batch:
        source = batch.source(*PEOPLE)
        batch.add_list(source, ListRecord(name, title.strip() or name, (), rule), {})
        batch.add_list_note(name, title.strip() or name, "", archived=False, who=who.strip())
    return ledger.last_batch()


def describe_list(
    ledger: Ledger,
    name: str,
    *,
    title: str | None,
    description: str | None,
    archived: bool | None,
    who: str,
) -> int:
    """Change what a list is called, what it is for, or that it is archived;
    None leaves a thing as it is.
    """
    info = lists.find_list(ledger, name)
    if not who.strip():
        raise bad_input("who", "", "it is empty", "say who changes the list")
    noted = (
        info.title if title is None else title.strip() or name,
        info.description if description is None else description.strip(),
        info.archived if archived is None else archived,
    )
    with ledger.batch("list", f"list {name} described by {who.strip()}") as batch:
        batch.add_list_note(name, *noted, who.strip())
    return ledger.last_batch()


def combine_lists(
    ledger: Ledger, snapshots: Snapshots, how: str, names: Sequence[str], on: date
) -> list[str]:
    """The ids of companies in the union, intersection or difference of lists on a day;
    raises `BadInput` where nobody is.
    """
    if how not in ("union", "intersection", "difference"):
        raise bad_input(
            "how",
            how,
            "lists are not combined like this",
            "write union, intersection or difference",
        )
    if not names or (len(names) < 2 and how != "union"):  # the union of one list is a copy of it
        raise bad_input("lists", ", ".join(names), "two lists or more are combined", "name another")
    snapshot, cutoff = snapshots.at(), micros(end_of_day(on))
    first, *rest = (set(lists.members(ledger, snapshot, n, cutoff)) for n in names)
    for other in rest:
        first = (
            first | other
            if how == "union"
            else first & other
            if how == "intersection"
            else first - other
        )
    if not first:
        problem = f"nobody stands in their {how} on {on}"
        raise bad_input("lists", ", ".join(names), problem, "name other lists, or another day")
    return [snapshot.ids[n] for n in sorted(first)]
