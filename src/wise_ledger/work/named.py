"""Which rows of the ledger the texts of a column name: each text is looked up once,
and read on the row's own day.
"""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.identity.schemes import read_identifier
from wise_ledger.core.identity.symbols import read_symbol
from wise_ledger.core.identity.universe import Listing, Stretch, Universe
from wise_ledger.core.nearest import mend_for, nearest
from wise_ledger.core.time.periods import as_date
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.work import NotFound

ALWAYS = Stretch()


@dataclass(frozen=True)
class Named:
    """What a text names: the number of a row of the ledger, for a stretch;
    the one to be taken first goes first.
    """

    number: int
    span: Stretch = ALWAYS


LookUp = Callable[[str], list[Named]]


def listings_named(snapshot: Snapshot) -> LookUp:
    """Listings, by id, symbol and venue, or by any identifier of a security or company:
    then its primary listing.
    """
    universe, ids = snapshot.universe, snapshot.listing_ids
    by_id = {ids[x.number]: x for x in universe.listings}

    def look(text: str) -> list[Named]:
        if text in by_id:
            return [_as_named(by_id[text])]
        return [_as_named(x) for x in _listings(snapshot, universe, text)]

    return look


def primary_listing(snapshot: Snapshot, text: str, cutoff: int) -> int | None:
    """Of the company or security that a text names its primary listing, by number, as known at a
    cut-off (M4); None where it names listings themselves, or nothing that was listed by then.
    """
    universe, listed = snapshot.universe, snapshot.view.market.listed
    if text in snapshot.listing_ids or _by_symbol(universe, text):
        return None
    securities, company = _securities(snapshot, universe, text)
    chosen, of = listed.of_companies, company
    if company is None:
        chosen, of = listed.of_securities, securities[0]
    found = int(chosen.read(np.array([of], np.int64), np.array([cutoff], np.int64))[0, 0])
    return found if found >= 0 else None


def _as_named(listing: Listing) -> Named:
    return Named(listing.number, listing.span)


def _by_symbol(universe: Universe, text: str) -> list[Listing]:
    for reading in read_symbol(text, universe.places):
        found = [
            x for x in universe.by_symbol.get(reading.key, []) if reading.place in (None, x.mic)
        ]
        if found:
            return found
    return []


def _listings(snapshot: Snapshot, universe: Universe, text: str) -> list[Listing]:
    if named := _by_symbol(universe, text):
        return named
    securities, _ = _securities(snapshot, universe, text)
    found = [x for s in dict.fromkeys(securities) for x in universe.listings_of.get(s, [])]
    if not found:
        raise bad_input("listing", text, "it is listed nowhere", "load its listing first")
    return sorted(found, key=lambda x: (securities.index(x.security), not x.primary, x.span.since))


def _securities(snapshot: Snapshot, universe: Universe, text: str) -> tuple[list[int], int | None]:
    """The securities that an identifier names, or those of a company, and which it is."""
    reading_ = read_identifier(text, (*snapshot.source_names, "company"))
    if reading_ is not None and reading_.problem:
        raise bad_input("listing", text, reading_.problem, "check it against where it came from")
    value = reading_.value if reading_ else text
    spans = (
        [s for (_, v), found in universe.by_value.items() if v == value for s in found]
        if reading_
        else []
    )
    securities = [s.security for s in spans if s.security is not None]
    if securities:
        return securities, None
    try:
        company = snapshot.number(text)
    except NotFound as error:
        near = nearest(text.upper(), [f"{x.symbol}@{x.mic}" for x in universe.listings])
        mend = f"did you mean {', '.join(near)}?" if near else "load its listing first"
        raise NotFound(replace(error.problems[0], at="listing", mend=mend)) from None
    of = universe.securities_of.get(company, [])
    ordered = sorted(of, key=lambda s: (s.type != "ordinary", s.number))
    return [s.number for s in ordered], company


def companies_named(snapshot: Snapshot) -> LookUp:
    """Companies, by anything that names one."""
    return lambda text: [Named(snapshot.number(text))]


def lists_named(numbers: Mapping[str, int]) -> LookUp:
    """Lists by name."""

    def look(text: str) -> list[Named]:
        if text not in numbers:
            raise NotFound(Problem("list", text, "there is no such list", mend_for(text, numbers)))
        return [Named(numbers[text])]

    return look


@dataclass(frozen=True, eq=False)
class Looked:
    """The number that each row's text names, -1 where none does; and why, by text or by row."""

    number: NDArray[np.int32]
    problems: dict[int, Problem]  # by row


def look_up(
    at: str,
    texts: list[str],
    which: NDArray[np.int64],
    days: NDArray[np.int64],
    look: LookUp,
    without: Collection[int],
) -> Looked:
    """Rows name `texts[which]`, each on its own day; of the rows in `without` nothing is said."""
    number = np.full(len(which), -1, np.int32)
    problems: dict[int, Problem] = {}
    order = np.argsort(which, kind="stable")
    bounds = np.searchsorted(which[order], np.arange(len(texts) + 1))
    for n, text in enumerate(texts):
        rows = order[bounds[n] : bounds[n + 1]]
        try:
            found = look(text) if text else []
        except (BadInput, NotFound) as error:
            problems |= dict.fromkeys(rows.tolist(), error.problems[0])
            continue
        if not text:
            problems |= dict.fromkeys(
                rows.tolist(), Problem(at, "", "the cell is empty", "every row needs it")
            )
            continue
        own = number[rows]
        for one in reversed(found):  # the first of them is taken where several stand
            own[(days[rows] >= one.span.since) & (days[rows] <= one.span.until)] = one.number
        number[rows] = own
        for row in rows[own < 0].tolist():
            if row in without:
                continue
            first = min(one.span.since for one in found)
            problem = f"it named nothing on {as_date(int(days[row]))}"
            mend = (
                f"it is listed from {as_date(first)} on: mend the date, or load its earlier listing"
            )
            problems[row] = Problem(at, text, problem, mend)
    return Looked(number, problems)
