"""The kinds of long work: what is given to each, how it is begun, and what it answers."""

import threading
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict
from datetime import date
from typing import Any

from wise_ledger.core.records.records import TagMeaning
from wise_ledger.store.operations import Run
from wise_ledger.work import mappings, match
from wise_ledger.work.desk import Desk
from wise_ledger.work.longwork import Step, Work

VERIFICATION, MATCH, MEANING = "verification", "match", "meaning"


def begin_verification(desk: Desk, key: str | None = None) -> Run:
    """Have the ledger verified."""
    return desk.runs.queue(VERIFICATION, "verification of the ledger", {}, request_key=key)


def begin_match(
    desk: Desk, terms: Sequence[match.Term], on: date, how: Mapping[str, Any], key: str | None
) -> Run:
    """Have many terms matched; `how` as for `match_terms`. Raises `BadInput` at once."""
    match.check(
        desk.snapshots, terms, types=how["types"], to=how["to"], recorded_by=how["recorded_by"]
    )
    given = {"terms": [asdict(t) for t in terms], "on": on, **how, "types": sorted(how["types"])}
    return desk.runs.queue(MATCH, f"match of {len(terms):,} terms", given, request_key=key)


def begin_meaning(
    desk: Desk,
    source: str,
    rule: TagMeaning,
    who: str,
    why: str,
    *,
    expected: bool = False,
    key: str | None = None,
) -> Run:
    """Have a tag's new meaning kept and the kept documents read by it;
    raises `BadInput` and `NotFound` at once.
    """
    mappings.check(desk.ledger, desk.runs.opener(source), rule, who, expected=expected)
    given = {"source": source, "rule": asdict(rule), "who": who, "why": why}
    return desk.runs.queue(
        MEANING, f"{rule.tag} of {source} means {rule.item}", given, request_key=key
    )


def kinds_of_work(desk: Desk) -> Mapping[str, Work]:
    """What does each kind."""

    def verify(given: Mapping[str, Any], step: Step) -> Mapping[str, Any]:
        over = threading.Event()

        def still() -> None:
            step(0, 0)
            if over.is_set():
                raise InterruptedError

        # a large ledger is looked at by a process of its own, the columns here in the meantime
        with ThreadPoolExecutor(1, thread_name_prefix="verify") as beside:
            compared = beside.submit(desk.snapshots.verify_columns, still)
            try:
                found = desk.ledger.verify(step)
            except BaseException:
                over.set()  # damage of the ledger goes first
                raise
            columns, again = compared.result()
        return {**asdict(found), "columns": columns, "made_again": again}

    def match_many(given: Mapping[str, Any], step: Step) -> Mapping[str, Any]:
        how = {k: v for k, v in given.items() if k not in ("terms", "on", "types")}
        terms = [match.Term(**t) for t in given["terms"]]
        on, types = date.fromisoformat(given["on"]), frozenset(given["types"])
        return asdict(match.match_terms(desk.snapshots, terms, on, types=types, step=step, **how))

    def read_again(given: Mapping[str, Any], step: Step) -> Mapping[str, Any]:
        source, rule = given["source"], TagMeaning(**given["rule"])
        opener = desk.runs.opener(source)
        found = mappings.apply(desk.ledger, opener, rule, given["who"], given["why"], step)
        desk.snapshots.refresh()
        return asdict(found)

    return {VERIFICATION: verify, MATCH: match_many, MEANING: read_again}
