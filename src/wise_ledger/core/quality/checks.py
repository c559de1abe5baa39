"""The checks of Q1 on the figures of one company: what cannot be, and what does not fit together.

A hard finding keeps a fact from being used until a person accepts it (Q2); a soft one is a flag.
Sums are compared within half a percent: companies round.
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from statistics import median
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.catalogue.items import Item, Nature, unit_fits
from wise_ledger.core.quality.held import Figure, Held, Mask, Rows, keys
from wise_ledger.core.time.periods import ABSENT

CHECKS: Mapping[str, tuple[bool, str]] = {  # whether hard, and what it looks at
    "unit": (True, "a unit that the item cannot have"),
    "period_order": (True, "a period that begins after it ends"),
    "published_early": (True, "published before its period ended"),
    "scale": (
        True,
        "a thousand or a million times its neighbours, as when thousands are reported as units",
    ),
    "balance": (False, "assets that are not liabilities and equity"),
    "subtotal": (False, "a subtotal that its lines do not add up to"),
    "cash": (False, "a change of cash that is not the difference of the balances"),
    "quarters": (False, "four quarters that do not add up to their year"),
    "sign": (False, "below nothing, where nothing can be"),
    "duplicate": (False, "two figures for one line and period in one document"),
    "sources": (False, "another source reports it otherwise"),
}
_NEVER_NEGATIVE = frozenset(
    "total_assets current_assets cash_and_equivalents receivables inventory property_plant_equipment goodwill "
    "total_liabilities current_liabilities payables shares_outstanding weighted_average_shares employees "
    "loans_to_customers customer_deposits insurance_reserves".split()
)
_NEAR = 0.005
_ROUND = (250.0, 4000.0)  # a thousand, give or take growth and season
_REACH = 760  # days; neighbours are looked for so far
AROUND = 800  # days; figures of periods that end further away say nothing of one
_MOST = 4


@dataclass(frozen=True)
class Finding:
    """What a check found wrong with a fact, in words."""

    fact: int
    check: str
    detail: str

    @property
    def hard(self) -> bool:
        """Whether the fact is quarantined."""
        return CHECKS[self.check][0]


def examine(items: Mapping[str, Item], held: Held, template: str | None) -> list[Finding]:
    """The findings on the new figures of a company, hard ones first; one a fact and check."""
    held = held.of_known(items)
    if not held.new.any():
        return []
    misfits = _misfits(items, held)
    # no start: the least number
    odd = held.new & ((held.published < held.end) | (held.start > held.end) | misfits)
    alone = zip(held.figures(odd), misfits[odd].tolist(), strict=True)
    found = [f for h, misfit in alone for f in _alone(items, h, misfit)]
    good = held.without({f.fact for f in found})
    scale = list(_scale(items, good))
    good = good.without({f.fact for f in scale})
    good = good.where(~np.isnan(good.value))
    sheets = Sheets.of(good)
    soft = [
        *_signs(good), *_duplicates(good), *_balances(sheets), *_subtotals(items, sheets, template), *_cash(good),
        *_quarters(items, good), *_sources(good),
    ]  # fmt: skip
    unique = {(f.fact, f.check): f for f in (*found, *scale, *soft)}
    return list(unique.values())


def _misfits(items: Mapping[str, Item], held: Held) -> Mask:
    """Which figures have a unit that their item cannot have."""
    fits = np.ones((len(held.codes), len(held.units)), np.bool_)
    for pair in np.unique(held.item * len(held.units) + held.unit).tolist():
        item, unit = divmod(pair, len(held.units))
        fits[item, unit] = unit_fits(items[held.codes[item]], held.units[unit])
    return ~fits[held.item, held.unit]


def _alone(items: Mapping[str, Item], h: Figure, misfit: bool) -> Iterable[Finding]:
    if misfit:
        yield Finding(h.fact, "unit", f"{h.item} is {items[h.item].unit}, which {h.unit} is not")
    if h.start is not None and h.start > h.end:
        yield Finding(h.fact, "period_order", "the period begins after it ends")
    if h.published < h.end:
        yield Finding(h.fact, "published_early", "it was published before its period ended")


def _scale(items: Mapping[str, Item], held: Held) -> Iterable[Finding]:
    """A document most of whose amounts are a thousand (a million) times off
    their neighbours, or one such figure.
    """
    quiet, loud = _by_size(items, held)
    powers: dict[int, list[tuple[Figure, int, bool]]] = defaultdict(list)
    for rows in loud:
        group = held.figures(rows)
        for n, h in enumerate(group):
            if not h.new:
                continue
            values = _neighbours(group, n)
            if len(values) < 2:
                continue
            sizes = [abs(v) for v in values]
            ratio = abs(h.value or 0.0) / median(sizes)
            sign = 1 if ratio > 1 else -1
            size = ratio**sign
            power = (
                3
                if _ROUND[0] < size < _ROUND[1]
                else 6
                if _ROUND[0] < size / 1000 < _ROUND[1]
                else 0
            )
            # A single figure is taken for a slip only where its neighbours show a scale: flows of
            # cash come and go, and so does what is left over; a small loss among profits is near
            # zero, since no slip of scale changes a sign.
            steady = items[h.item].statement != "cash_flow" and not items[h.item].optional
            steady = steady and not h.item.startswith("other_")
            alike = steady and len(values) >= 3 and max(sizes) / min(sizes) < 3
            alike = alike and all((v > 0) == ((h.value or 0.0) > 0) for v in values)
            powers[h.document].append((h, sign * power, alike))
    # The quiet ones count only beside what is off in the same document.
    doubted = {document for document, looked in powers.items() if any(p for _, p, _ in looked)}
    for rows in quiet if doubted else ():
        group = held.figures(rows)
        for n, h in enumerate(group):
            if h.new and h.document in doubted and _has_two(group, n):
                powers[h.document].append((h, 0, False))
    for looked in powers.values():
        off = [p for _, p, _ in looked if p]
        whole = len(looked) >= 3 and len(off) >= 0.6 * len(looked)
        for h, power, sure in looked:
            if power and (whole or sure):
                share = f"{10**power:,} times" if power > 0 else f"1/{10**-power:,} of"
                yield Finding(h.fact, "scale", f"it is about {share} its neighbours")
            # in a document of the wrong scale its other amounts are not to be trusted either
            elif whole:
                yield Finding(
                    h.fact, "scale", "most amounts of its document are off by the same power of ten"
                )


def _by_size(items: Mapping[str, Item], held: Held) -> tuple[list[Rows], list[Rows]]:
    """Amounts that are looked at together, by their ends:
    those among which nothing can be off, and the others.
    """
    money = np.array([items[c].unit == "money" for c in held.codes], np.bool_)
    rows = np.flatnonzero(money[held.item] & ~np.isnan(held.value) & (held.value != 0))
    if not len(rows):
        return [], []
    key = keys(held.item[rows], held.span[rows], held.source[rows], held.unit[rows])
    order = np.lexsort((held.end[rows], key))
    rows, key = rows[order], key[order]
    begins = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
    sizes = np.abs(held.value[rows])
    looked = np.logical_or.reduceat(held.new[rows], begins)
    near = np.maximum.reduceat(sizes, begins) < _ROUND[0] * np.minimum.reduceat(sizes, begins)
    groups = np.split(rows, begins[1:])
    quiet = [groups[n] for n in np.flatnonzero(looked & near)]
    return quiet, [groups[n] for n in np.flatnonzero(looked & ~near)]


def _neighbours(group: Sequence[Figure], n: int) -> list[float]:
    """The nearest figures of other ends and documents, in a group sorted by end."""
    near = sorted(_around(group, n), key=lambda found: (found[0], abs(found[1]), found[1]))
    return [value for _, value in near[:_MOST]]


def _has_two(group: Sequence[Figure], n: int) -> bool:
    """Whether a figure has as many neighbours as it takes to judge it."""
    return len(list(islice(_around(group, n), 2))) == 2


def _around(group: Sequence[Figure], n: int) -> Iterator[tuple[int, float]]:
    """How far away, and what, figures of other ends and documents are:
    up to six before and six after.
    """
    h = group[n]
    for k in (*range(n - 1, max(-1, n - 7), -1), *range(n + 1, min(len(group), n + 7))):
        other = group[k]
        away = abs(other.end - h.end)
        if other.document != h.document and 0 < away <= _REACH:
            yield away, other.value or 0.0


def _signs(held: Held) -> Iterable[Finding]:
    below = held.new & (held.value < 0) & held.has(_NEVER_NEGATIVE)
    return [Finding(fact, "sign", "it is below nothing") for fact in held.fact[below].tolist()]


def _duplicates(held: Held) -> Iterable[Finding]:
    """Two publications of one figure in one file are versions of it, no duplicates."""
    key = keys(held.document, held.item, held.start, held.end, held.published)
    _, which, count = np.unique(key, return_inverse=True, return_counts=True)
    first: dict[tuple[int, str, int | None, int, int], Figure] = {}
    for h in held.figures(count[which] > 1):
        other = first.setdefault((h.document, h.item, h.start, h.end, h.published), h)
        if h.new and other.value != h.value:
            yield Finding(
                h.fact, "duplicate", f"the document reports {other.value:,.0f} and {h.value:,.0f}"
            )


@dataclass(frozen=True)
class Sheets:
    """What each document reports of each period: one row each, one column an item."""

    held: Held
    at: Rows  # sheet x item: the row of the figure reported last, -1 where there is none
    balance: Mask  # sheet: of a day, not over a period

    @classmethod
    def of(cls, held: Held) -> Self:
        """Out of figures of any order."""
        _, first, sheet = np.unique(
            keys(held.document, held.start, held.end), return_index=True, return_inverse=True
        )
        at = np.full((len(first), len(held.codes)), -1, np.int64)
        at[sheet, held.item] = np.arange(len(held))
        return cls(held, at, held.start[first] == ABSENT)

    def column(self, code: str) -> Rows:
        """For each sheet the row of an item's figure, -1 where there is none."""
        if code not in self.held.codes:
            return np.full(len(self.at), -1, np.int64)
        return self.at[:, self.held.codes.index(code)]

    def values(self, rows: Rows) -> NDArray[np.float64]:
        """The values of rows, NaN where there is none."""
        return np.where(rows >= 0, self.held.value[rows], np.nan)

    def new(self, rows: Rows) -> Mask:
        """Which rows are there, and new."""
        return (rows >= 0) & self.held.new[rows]


def _balances(sheets: Sheets) -> Iterable[Finding]:
    reported = sheets.column("total_assets")
    assets, owed, equity, shareholders, minority = (
        sheets.values(sheets.column(code))
        for code in (
            "total_assets",
            "total_liabilities",
            "total_equity",
            "shareholders_equity",
            "minority_interests",
        )
    )
    own = np.where(np.isnan(equity), shareholders + np.nan_to_num(minority), equity)
    gap = assets - owed - own
    off = sheets.balance & sheets.new(reported) & (np.abs(gap) > _NEAR * np.abs(assets))
    for n in np.flatnonzero(off):
        left = f"{gap[n] / assets[n] * 100:+.1f} % of assets" if assets[n] else f"{gap[n]:,.0f}"
        fact = int(sheets.held.fact[reported[n]])
        yield Finding(fact, "balance", f"liabilities and equity leave {left} unexplained")


def _subtotals(
    items: Mapping[str, Item], sheets: Sheets, template: str | None
) -> Iterable[Finding]:
    lines: dict[str, list[tuple[str, int]]] = defaultdict(list)
    for item in items.values():
        for part in item.parts_of:
            if template is None or template in part.templates:
                lines[part.into].append((item.code, part.sign))
    there = set(sheets.held.codes)
    lines = {
        total: parts
        for total, parts in lines.items()
        if total in there and {c for c, _ in parts if not items[c].optional} <= there
    }
    for total in _may_be_off(items, sheets, lines):
        parts = lines[total]
        reported = sheets.column(total)
        ok = sheets.new(reported)
        for code, _ in parts:
            if not items[code].optional:
                ok &= sheets.column(code) >= 0
        if not ok.any():
            continue
        given = np.array(
            [sheets.values(sheets.column(c)[ok]) * sign for c, sign in parts if c in there]
        )
        value = sheets.values(reported[ok])
        gap = value - np.nansum(given, axis=0)
        largest = np.maximum(np.abs(value), np.nanmax(np.abs(given), axis=0, initial=0.0))
        off = ((~np.isnan(given)).sum(axis=0) >= 2) & (np.abs(gap) > _NEAR * largest)
        facts = sheets.held.fact[reported[ok]]
        for n in np.flatnonzero(off):
            yield Finding(int(facts[n]), "subtotal", f"its lines leave {gap[n]:,.0f} unexplained")


def _may_be_off(
    items: Mapping[str, Item], sheets: Sheets, lines: Mapping[str, Sequence[tuple[str, int]]]
) -> list[str]:
    """Of subtotals, each with its lines and their signs, those that do not add up at sight:
    all that are off, and more.

    All are summed at once, so in another order than one by one: hence less than `_NEAR`.
    """
    place = {code: n for n, code in enumerate(sheets.held.codes)}
    signs, needed = np.zeros((2, len(place), len(lines)))  # item x subtotal
    for n, parts in enumerate(lines.values()):
        for code, sign in parts:
            if code in place:
                signs[place[code], n] += sign
                needed[place[code], n] = not items[code].optional
    values = sheets.values(sheets.at)
    total = values[:, [place[code] for code in lines]]
    gap = np.abs(total - np.nan_to_num(values) @ signs)
    whole = (sheets.at >= 0) @ needed == needed.sum(axis=0)
    off = whole & (gap > 0.9 * _NEAR * np.abs(total))  # sheet x subtotal
    codes = list(lines)
    return [codes[n] for n in np.flatnonzero(off.any(axis=0))]


def _latest(held: Iterable[Figure]) -> dict[tuple[int, str, int | None, int], Figure]:
    out: dict[tuple[int, str, int | None, int], Figure] = {}
    for h in sorted(held, key=lambda h: (h.published, h.fact)):
        out[h.source, h.item, h.start, h.end] = h
    return out


def _cash(held: Held) -> Iterable[Finding]:
    change = held.has({"net_change_in_cash"})
    latest = _latest(held.figures(change | held.has({"cash_and_equivalents"})))
    for (source, item, start, end), h in latest.items():
        if item != "net_change_in_cash" or start is None or not h.new:
            continue
        before = latest.get((source, "cash_and_equivalents", None, start - 1))
        after = latest.get((source, "cash_and_equivalents", None, end))
        if before is None or after is None or not before.unit == after.unit == h.unit:
            continue
        gap = (after.value or 0.0) - (before.value or 0.0) - (h.value or 0.0)
        if abs(gap) > _NEAR * max(abs(after.value or 0.0), abs(h.value or 0.0)):
            yield Finding(h.fact, "cash", f"the balances leave {gap:,.0f} unexplained")


def _quarters(items: Mapping[str, Item], held: Held) -> Iterable[Finding]:
    adds = np.array(
        [items[c].nature is Nature.FLOW and items[c].additive for c in held.codes], np.bool_
    )
    about = np.array([items[c].approximate for c in held.codes], np.bool_)
    held = held.where(adds[held.item] & ((held.span == 3) | (held.span == 12)))
    held = _published_last(held, held.start)
    quarters = _published_last(held.where(held.span == 3))
    years = held.where((held.span == 12) & held.new & ~about[held.item])
    if not len(quarters) or not len(years):
        return
    line = keys(
        *(np.r_[getattr(quarters, n), getattr(years, n)] for n in ("source", "item", "unit"))
    )
    of_quarter, of_year = line[: len(quarters)], line[len(quarters) :]
    place = _Places(of_quarter, quarters.end)
    at, parts = years.end.astype(np.int64), []
    whole = np.ones(len(years), np.bool_)
    for _ in range(4):
        row = place.of(of_year, at)
        whole &= row >= 0  # where there is none, what follows says nothing, and is left out
        parts.append(quarters.value[row])
        at = quarters.start[row].astype(np.int64) - 1
    whole &= at == years.start.astype(np.int64) - 1
    gap = years.value - sum(parts)
    off = whole & (
        np.abs(gap) > _NEAR * np.maximum(np.abs(years.value), np.max(np.abs(parts), axis=0))
    )
    for n in np.flatnonzero(off):
        yield Finding(
            int(years.fact[n]), "quarters", f"its quarters leave {gap[n]:,.0f} unexplained"
        )


def _published_last(held: Held, *more: NDArray[np.int32]) -> Held:
    """Of each source, item and end (and what more is given) what was published last."""
    key = keys(held.source, held.item, held.end, *more)
    order = np.lexsort((held.fact, held.published, key))
    last = np.r_[key[order][1:] != key[order][:-1], np.ones(min(1, len(order)), np.bool_)]
    return held.where(np.sort(order[last]))


class _Places:
    """Where the row of a key and a day is."""

    def __init__(self, key: Rows, day: NDArray[np.int32]) -> None:
        self._both = key << 32 | (day.astype(np.int64) + (1 << 31))
        self._order = np.argsort(self._both)

    def of(self, key: Rows, day: Rows) -> Rows:
        """The rows, -1 where there is none."""
        wanted = key << 32 | (day + (1 << 31))
        found = np.minimum(
            np.searchsorted(self._both, wanted, sorter=self._order), len(self._both) - 1
        )
        rows = self._order[found]
        return np.where(self._both[rows] == wanted, rows, -1)


def _sources(held: Held) -> Iterable[Finding]:
    if not len(held) or (held.source == held.source[0]).all():
        return
    by_period: dict[tuple[str, int | None, int], dict[int, list[Figure]]] = defaultdict(
        lambda: defaultdict(list)
    )
    for h in sorted(held.figures(_of_several(held)), key=lambda h: h.published):
        by_period[h.item, h.start, h.end][h.source].append(h)
    for of_source in by_period.values():
        newest = {source: versions[-1] for source, versions in of_source.items()}
        for h in newest.values():
            for source, versions in of_source.items():
                if not h.new or h.value is None or source == h.source:
                    continue
                # What the other source said at the same time; it may have restated it since.
                other = next(
                    (v for v in reversed(versions) if v.published <= h.published), versions[0]
                )
                if other.value is None or h.unit != other.unit:
                    continue
                if abs(h.value - other.value) > _NEAR * max(abs(h.value), abs(other.value)):
                    yield Finding(h.fact, "sources", f"another source reports {other.value:,.12g}")


def _of_several(held: Held) -> Mask:
    """Which figures are of an item and period that more than one source reports."""
    key = keys(held.item, held.start, held.end)
    pairs = np.unique(np.stack([key, held.source]), axis=1)[0]
    return np.isin(key, pairs[1:][pairs[1:] == pairs[:-1]])
