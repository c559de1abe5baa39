"""The checks of Q1 on the figures of one company: what cannot be, and what does not fit together.

A hard finding keeps a fact from being used until a person accepts it (Q2); a soft one is a flag. Sums are compared
within half a percent: companies round.
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from statistics import median
from typing import NamedTuple

from wise_ledger.core.catalogue.items import Item, Nature, unit_fits

CHECKS: Mapping[str, tuple[bool, str]] = {  # whether hard, and what it looks at
    "unit": (True, "a unit that the item cannot have"),
    "period_order": (True, "a period that begins after it ends"),
    "published_early": (True, "published before its period ended"),
    "scale": (True, "a thousand or a million times its neighbours, as when thousands are reported as units"),
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


class Held(NamedTuple):
    """A figure of the company; `new` ones are looked at, the others stand beside. Many are made: a plain tuple."""

    fact: int
    item: str
    start: int | None
    end: int
    span: int
    published: int  # day
    value: float | None
    unit: str
    scale: int
    document: int
    source: int
    new: bool


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


def examine(items: Mapping[str, Item], held: Sequence[Held], template: str | None) -> list[Finding]:
    """The findings on the new figures of a company, hard ones first; one a fact and check."""
    told = {(h.item, h.unit) for h in held}
    strange = {code for code, _ in told if code not in items}
    misfits = {(code, unit) for code, unit in told if code in items and not unit_fits(items[code], unit)}
    good = [h for h in held if h.item not in strange] if strange else held
    odd = [
        h for h in good
        if h.new and (h.published < h.end or (h.start is not None and h.start > h.end) or (h.item, h.unit) in misfits)
    ]  # fmt: skip
    found = [f for h in odd for f in _alone(items[h.item], h, (h.item, h.unit) not in misfits)]
    good = _without(good, found)
    scale = list(_scale(items, good))
    good = [h for h in _without(good, scale) if h.value is not None]
    sheets = _sheets(good)
    soft = [
        *_signs(good), *_duplicates(good), *_balances(sheets), *_subtotals(items, sheets, template), *_cash(good),
        *_quarters(items, good), *_sources(good),
    ]  # fmt: skip
    unique = {(f.fact, f.check): f for f in (*found, *scale, *soft)}
    return list(unique.values())


def _without(held: Sequence[Held], found: Sequence[Finding]) -> Sequence[Held]:
    if not found:
        return held
    spoilt = {f.fact for f in found}
    return [h for h in held if h.fact not in spoilt]


def _alone(item: Item, h: Held, fits: bool) -> Iterable[Finding]:
    if not fits:
        yield Finding(h.fact, "unit", f"{item.code} is {item.unit}, which {h.unit} is not")
    if h.start is not None and h.start > h.end:
        yield Finding(h.fact, "period_order", "the period begins after it ends")
    if h.published < h.end:
        yield Finding(h.fact, "published_early", "it was published before its period ended")


def _scale(items: Mapping[str, Item], held: Sequence[Held]) -> Iterable[Finding]:
    """A document most of whose amounts are a thousand (a million) times off their neighbours, or one such figure."""
    told: dict[tuple[str, int, int, str], list[Held]] = defaultdict(list)
    for h in held:
        if items[h.item].unit == "money" and h.value:
            told[h.item, h.span, h.source, h.unit].append(h)
    quiet: list[list[Held]] = []  # groups in which nothing is off, whatever the neighbours are
    powers: dict[int, list[tuple[Held, int, bool]]] = defaultdict(list)
    for group in told.values():
        if not any(h.new for h in group):
            continue
        sizes = [abs(h.value or 0.0) for h in group]
        if max(sizes) < _ROUND[0] * min(sizes):
            quiet.append(group)
            continue
        group.sort(key=lambda h: h.end)
        for n, h in enumerate(group):
            if not h.new:
                continue
            values = _neighbours(group, n)
            if len(values) < 2:
                continue
            ratio = abs(h.value or 0.0) / median(values)
            sign = 1 if ratio > 1 else -1
            size = ratio**sign
            power = 3 if _ROUND[0] < size < _ROUND[1] else 6 if _ROUND[0] < size / 1000 < _ROUND[1] else 0
            # A single figure is taken for a slip only where its neighbours tell a scale: flows of cash come and go,
            # and so does what is left over.
            steady = items[h.item].statement != "cash_flow" and not items[h.item].optional
            steady = steady and not h.item.startswith("other_")
            alike = steady and len(values) >= 3 and max(values) / min(values) < 3
            powers[h.document].append((h, sign * power, alike))
    # The quiet ones count only beside what is off in the same document.
    doubted = {document for document, looked in powers.items() if any(p for _, p, _ in looked)}
    for group in quiet if doubted else ():
        group.sort(key=lambda h: h.end)
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
            elif whole:  # in a document told in the wrong scale its other amounts are not to be trusted either
                yield Finding(h.fact, "scale", "most amounts of its document are off by the same power of ten")


def _neighbours(group: Sequence[Held], n: int) -> list[float]:
    """The sizes of the nearest figures of other ends and documents, in a group sorted by end."""
    near = sorted(_around(group, n))
    return [value for _, value in near[:_MOST]]


def _has_two(group: Sequence[Held], n: int) -> bool:
    """Whether a figure has as many neighbours as it takes to judge it."""
    h = group[n]
    if 0 < n < len(group) - 1:  # mostly the ones next to it are
        before, after = group[n - 1], group[n + 1]
        others = before.document != h.document != after.document and before.end < h.end < after.end
        if others and after.end - h.end <= _REACH and h.end - before.end <= _REACH:
            return True
    return len(list(islice(_around(group, n), 2))) == 2


def _around(group: Sequence[Held], n: int) -> Iterator[tuple[int, float]]:
    """How far away, and how large, figures of other ends and documents are: up to six before and six after."""
    h = group[n]
    for k in (*range(n - 1, max(-1, n - 7), -1), *range(n + 1, min(len(group), n + 7))):
        other = group[k]
        away = abs(other.end - h.end)
        if other.document != h.document and 0 < away <= _REACH:
            yield away, abs(other.value or 0.0)


def _signs(held: Sequence[Held]) -> Iterable[Finding]:
    for h in held:
        if h.new and h.item in _NEVER_NEGATIVE and (h.value or 0.0) < 0:
            yield Finding(h.fact, "sign", "it is below nothing")


def _duplicates(held: Sequence[Held]) -> Iterable[Finding]:
    """Two publications of one figure in one file are versions of it, no duplicates."""
    if len({(h.document, h.item, h.start, h.end, h.published) for h in held}) == len(held):
        return
    first: dict[tuple[int, str, int | None, int, int], Held] = {}
    for h in held:
        other = first.setdefault((h.document, h.item, h.start, h.end, h.published), h)
        if h.new and other.value != h.value:
            yield Finding(h.fact, "duplicate", f"the document reports {other.value:,.0f} and {h.value:,.0f}")


Sheets = Mapping[tuple[int, int | None, int], Mapping[str, Held]]


def _balances(sheets: Sheets) -> Iterable[Finding]:
    for (_, start, _), sheet in sheets.items():
        if start is not None:
            continue
        if not {"total_assets", "total_liabilities"} <= sheet.keys() or not sheet["total_assets"].new:
            continue
        assets, owed = (sheet[c].value or 0.0 for c in ("total_assets", "total_liabilities"))
        if "total_equity" in sheet:
            equity = sheet["total_equity"].value or 0.0
        elif "shareholders_equity" in sheet:
            equity = sum((sheet[c].value or 0.0) for c in ("shareholders_equity", "minority_interests") if c in sheet)
        else:
            continue
        if abs(assets - owed - equity) > _NEAR * abs(assets):
            gap = (assets - owed - equity) / assets * 100
            detail = f"liabilities and equity leave {gap:+.1f} % of assets unexplained"
            yield Finding(sheet["total_assets"].fact, "balance", detail)


def _subtotals(items: Mapping[str, Item], sheets: Sheets, template: str | None) -> Iterable[Finding]:
    lines: dict[str, list[tuple[str, int]]] = defaultdict(list)
    for item in items.values():
        for part in item.parts_of:
            if template is None or template in part.templates:
                lines[part.into].append((item.code, part.sign))
    needed = {total: {c for c, _ in parts if not items[c].optional} for total, parts in lines.items()}
    for sheet in sheets.values():
        for total, parts in lines.items():
            told = sheet.get(total)
            if told is None or not told.new or not needed[total] <= sheet.keys():
                continue
            given = [(sheet[c].value or 0.0) * sign for c, sign in parts if c in sheet]
            if len(given) < 2:
                continue
            gap = (told.value or 0.0) - sum(given)
            if abs(gap) > _NEAR * max(abs(told.value or 0.0), max(abs(g) for g in given)):
                yield Finding(told.fact, "subtotal", f"its lines leave {gap:,.0f} unexplained")


def _sheets(held: Iterable[Held]) -> Sheets:
    """What each document tells of each period, by item."""
    sheets: dict[tuple[int, int | None, int], dict[str, Held]] = defaultdict(dict)
    for h in held:
        sheets[h.document, h.start, h.end][h.item] = h
    return sheets


def _latest(held: Iterable[Held]) -> dict[tuple[int, str, int | None, int], Held]:
    out: dict[tuple[int, str, int | None, int], Held] = {}
    for h in sorted(held, key=lambda h: (h.published, h.fact)):
        out[h.source, h.item, h.start, h.end] = h
    return out


def _cash(held: Sequence[Held]) -> Iterable[Finding]:
    latest = _latest(h for h in held if h.item in ("net_change_in_cash", "cash_and_equivalents"))
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


def _quarters(items: Mapping[str, Item], held: Sequence[Held]) -> Iterable[Finding]:
    flows = [h for h in held if h.span in (3, 12) and items[h.item].nature is Nature.FLOW and items[h.item].additive]
    latest = _latest(flows)
    by_end: dict[tuple[int, str, int], Held] = {
        (source, item, end): h for (source, item, _, end), h in latest.items() if h.span == 3
    }
    for (source, item, start, end), year in latest.items():
        if year.span != 12 or not year.new or start is None or items[item].approximate:
            continue
        parts, at = [], end
        for _ in range(4):
            quarter = by_end.get((source, item, at))
            if quarter is None or quarter.start is None or quarter.unit != year.unit:
                break
            parts.append(quarter.value or 0.0)
            at = quarter.start - 1
        if len(parts) == 4 and at == start - 1:
            gap = (year.value or 0.0) - sum(parts)
            if abs(gap) > _NEAR * max(abs(year.value or 0.0), max(abs(p) for p in parts)):
                yield Finding(year.fact, "quarters", f"its quarters leave {gap:,.0f} unexplained")


def _sources(held: Sequence[Held]) -> Iterable[Finding]:
    if len({h.source for h in held}) < 2:
        return
    by_period: dict[tuple[str, int | None, int], dict[int, list[Held]]] = defaultdict(lambda: defaultdict(list))
    for h in sorted(held, key=lambda h: h.published):
        by_period[h.item, h.start, h.end][h.source].append(h)
    for told in by_period.values():
        newest = {source: versions[-1] for source, versions in told.items()}
        for h in newest.values() if len(told) > 1 else ():
            for source, versions in told.items():
                if not h.new or h.value is None or source == h.source:
                    continue
                # What the other source said at the same time; it may have restated it since.
                other = next((v for v in reversed(versions) if v.published <= h.published), versions[0])
                if other.value is None or h.unit != other.unit:
                    continue
                if abs(h.value - other.value) > _NEAR * max(abs(h.value), abs(other.value)):
                    yield Finding(h.fact, "sources", f"another source reports {other.value:,.12g}")
