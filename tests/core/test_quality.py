"""The checks of Q1 on made-up companies: each finds its own slip and nothing else."""

import random
import unittest
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace
from statistics import median

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.catalogue.items import ITEMS, Nature, unit_fits
from wise_ledger.core.quality.beforehand import examine_beforehand
from wise_ledger.core.quality.checks import examine
from wise_ledger.core.quality.held import Figure, Held
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import CONSOLIDATED, FactRecord
from wise_ledger.core.time.instants import DAY, as_instant
from wise_ledger.core.time.periods import as_date

DAY0, QUARTER = 18_000, 91
LINES = {  # one quarter's statements, which add up
    "revenue": 1000, "cost_of_revenue": 600, "gross_profit": 400, "selling_general_administrative": 250,
    "operating_income": 150, "net_change_in_cash": 10,
}  # fmt: skip
SHEET = {"total_assets": 5000, "total_liabilities": 3000, "shareholders_equity": 2000}


def company(quarters: int, growth: float = 1.02) -> list[Figure]:
    """Quarters whose lines add up and whose cash rolls forward."""
    out: list[Figure] = []

    def add(item: str, start: int | None, end: int, value: float, document: int) -> None:
        span = 0 if start is None else 3
        out.append(
            Figure(len(out), item, start, end, span, end + 40, value, "EUR", document, 0, True)
        )

    cash = 100.0
    for n in range(quarters):
        start, end, factor = DAY0 + n * QUARTER, DAY0 + (n + 1) * QUARTER - 1, growth**n
        for item, value in LINES.items():
            add(item, start, end, value * factor, n)
        cash += LINES["net_change_in_cash"] * factor
        for item, value in SHEET.items():
            add(item, None, end, value * factor, n)
        add("cash_and_equivalents", None, end, cash, n)
    return out


def checks(held: list[Figure]) -> set[tuple[int, str]]:
    return {(f.fact, f.check) for f in examine(ITEMS, columns(held), "industrial")}


def columns(figures: list[Figure]) -> Held:
    """As the ledger gives them: those that are new behind the others."""
    return Held.joined([of([h for h in figures if h.new is new], new) for new in (False, True)])


def of(figures: list[Figure], new: bool) -> Held:
    rows = [
        (h.fact, h.item, h.start, h.end, h.published * DAY, h.value, h.unit, h.document, h.source)
        for h in figures
    ]
    return Held.of(*(zip(*rows, strict=True) if rows else [()] * 9), new=new)


class Checks(unittest.TestCase):
    def one(self, held: list[Figure], item: str, document: int) -> Figure:
        return next(h for h in held if (h.item, h.document) == (item, document))

    def changed(self, item: str, document: int, **how: object) -> set[str]:
        held = company(8)
        h = self.one(held, item, document)
        return {c for _, c in checks([x._replace(**how) if x is h else x for x in held])}  # type: ignore[arg-type]

    @examples(30)
    @given(st.integers(1, 14), st.floats(0.9, 1.15))
    def test_what_adds_up_is_never_flagged(self, quarters: int, growth: float) -> None:
        self.assertEqual(checks(company(quarters, growth)), set())

    def test_each_slip_is_found_by_its_own_check(self) -> None:
        self.assertEqual(self.changed("revenue", 3, unit="shares"), {"unit"})
        self.assertEqual(self.changed("revenue", 3, start=DAY0 + 9 * QUARTER), {"period_order"})
        self.assertEqual(self.changed("revenue", 3, published=DAY0), {"published_early"})
        self.assertEqual(self.changed("total_assets", 3, value=6000.0), {"balance"})
        self.assertEqual(self.changed("gross_profit", 3, value=300.0), {"subtotal"})
        self.assertEqual(self.changed("net_change_in_cash", 3, value=40.0), {"cash"})
        self.assertEqual(self.changed("cash_and_equivalents", 7, value=-5.0), {"sign", "cash"})

    def test_a_document_in_the_wrong_scale_is_quarantined_whole_and_no_other(self) -> None:
        held = company(10)
        wrong = [h._replace(value=(h.value or 0) / 1000) if h.document == 4 else h for h in held]
        found = checks(wrong)
        self.assertEqual(
            {f for f, c in found if c == "scale"}, {h.fact for h in held if h.document == 4}
        )
        self.assertEqual({c for _, c in found}, {"scale"})
        # A small loss among profits, growth and a company that shrinks are no slips of scale.
        self.assertEqual(self.changed("operating_income", 4, value=-0.15), {"subtotal"})
        self.assertEqual(self.changed("operating_income", 4, value=0.15), {"scale"})
        for growth in (0.4, 3.0):
            self.assertNotIn("scale", {c for _, c in checks(company(8, growth))})

    def test_a_year_is_its_quarters_and_sources_are_compared_in_one_currency(self) -> None:
        held = company(4)
        total = sum(h.value or 0 for h in held if h.item == "revenue")
        year = Figure(
            999, "revenue", DAY0, DAY0 + 4 * QUARTER - 1, 12, DAY0 + 500, total, "EUR", 99, 0, True
        )
        self.assertEqual(checks([*held, year]), set())
        self.assertEqual(checks([*held, year._replace(value=total * 1.1)]), {(999, "quarters")})
        other = self.one(held, "revenue", 2)._replace(fact=998, source=1, value=1.0e3, document=98)
        self.assertEqual(
            checks([*held, other]),
            {(998, "sources"), (self.one(held, "revenue", 2).fact, "sources")},
        )
        self.assertEqual(checks([*held, other._replace(unit="USD")]), set())
        twice = self.one(held, "revenue", 2)._replace(fact=997, value=2.0e3)
        self.assertIn((997, "duplicate"), checks([*held, twice]))

    def test_only_what_is_new_is_looked_at(self) -> None:
        held = [h._replace(new=False, value=-1.0) for h in company(3)]
        self.assertEqual(checks(held), set())


@st.composite
def anything(draw: st.DrawFn) -> list[Figure]:
    """Quarters and years that add up, until some figures say something else."""
    rnd = draw(st.randoms(use_true_random=False))
    out = company(draw(st.integers(1, 6)), draw(st.sampled_from((1.0, 1.02))))
    for end in (DAY0 + n * QUARTER - 1 for n in range(4, 7)):
        parts = [h for h in out if h.item == "revenue" and end - 4 * QUARTER < h.end <= end]
        total = sum(h.value or 0.0 for h in parts)
        out.append(
            Figure(
                0,
                "revenue",
                end + 1 - 4 * QUARTER,
                end,
                12,
                end + 50,
                total,
                "EUR",
                rnd.randrange(9),
                0,
                True,
            )
        )
    out += rnd.sample(out, len(out) // 4)  # reported again
    spoilt = rnd.choice((0.05, 0.3))
    for n, h in enumerate(out):
        how: dict[str, object] = {"fact": n, "new": n > len(out) // 3}
        if rnd.random() < spoilt:
            how |= {"value": rnd.choice((None, 0.0, -5.0, 1000.0, 4000.0, (h.value or 0.0) * 1.01))}
        if rnd.random() < spoilt:
            how |= rnd.choice(
                ({"document": rnd.randrange(9)}, {"source": 1}, {"published": h.end + 90})
            )
        if rnd.random() < spoilt / 5:
            how |= rnd.choice(
                (
                    {"unit": "USD"},
                    {"unit": "shares"},
                    {"published": h.end - 3},
                    {"start": h.end + 2, "span": -1},
                    {"item": "unheard_of"},
                    {"item": "total_equity"},
                    {"item": "minority_interests"},
                )
            )
        out[n] = h._replace(**how)  # type: ignore[arg-type]
    return out


class Plainly(unittest.TestCase):
    """Q1, reckoned figure by figure: what the columns find is the same."""

    @examples(150)
    @given(anything())
    def test_columns_find_what_figures_find(self, figures: list[Figure]) -> None:
        found = examine(ITEMS, columns(figures), "industrial")
        hard = {f.fact for f in found if f.hard}
        alone = {(f.fact, f.check) for f in found if f.hard and f.check != "scale"}
        self.assertEqual(
            alone,
            {(h.fact, c) for h in figures if h.new and h.item in ITEMS for c in wrong_alone(h)},
        )
        good = [
            h for h in figures if h.item in ITEMS and h.value is not None and h.fact not in hard
        ]
        expected = {(h.fact, check) for check, of in SOFT.items() for h in of(good) if h.new}
        self.assertEqual({(f.fact, f.check) for f in found if not f.hard}, expected)

    @examples(100)
    @given(anything(), st.randoms(use_true_random=False))
    def test_slips_of_scale_are_those_of_figures_beside_their_neighbours(
        self, figures: list[Figure], rnd: random.Random
    ) -> None:
        for document in rnd.sample(range(9), 2):  # some of their figures, or all
            power, part = 10.0 ** rnd.choice((-6, -3, 3, 6)), rnd.choice((0.4, 0.7, 1.0))
            power *= rnd.choice((1, 1, -1))
            figures = [
                h._replace(value=h.value * power)
                if h.document == document and h.value and rnd.random() < part
                else h
                for h in figures
            ]
        found = {
            f.fact for f in examine(ITEMS, columns(figures), "industrial") if f.check == "scale"
        }
        known = [h for h in figures if h.item in ITEMS and not (h.new and any(wrong_alone(h)))]
        self.assertEqual(
            found, set(scale([h for new in (False, True) for h in known if h.new is new]))
        )


class BeforeKept(unittest.TestCase):
    """Q1, of a company that is new: what checks find before its figures are kept is what they find
    in the ledger, or they look again.
    """

    @examples(100)
    @given(anything(), st.randoms(use_true_random=False))
    def test_what_is_found_beforehand_is_found_in_what_is_kept(
        self, figures: list[Figure], rnd: random.Random
    ) -> None:
        documents: dict[int, list[FactRecord]] = defaultdict(list)
        for h in figures:
            documents[h.document].append(record(h, rnd.choice((CONSOLIDATED,) * 9 + ("parent",))))
        parts = [Figures.of(documents[n]) for n in sorted(documents)]
        before = examine_beforehand(ITEMS, parts, "industrial")
        whole, first = Figures.joined(parts), rnd.randrange(1000)
        numbers = sorted(rnd.sample(range(100), len(parts)))
        for document in (numbers, rnd.sample(numbers, len(numbers))):
            of_each = np.repeat(document, [len(p) for p in parts])
            held = Held.of_figures(whole, np.arange(len(whole)) + first, of_each, rnd.randrange(9))
            found = before.of(held, "industrial")
            if found is None:  # they are kept in another order
                self.assertNotEqual(document, numbers)
            else:
                self.assertEqual(found, examine(ITEMS, held, "industrial"))
        self.assertIsNone(before.of(held, "bank"))
        fewer = held.where(np.arange(len(held)) > 0)
        beside = Held.joined([replace(fewer, new=fewer.new & False), held])
        for other in (fewer, beside):
            self.assertIsNone(before.of(other, "industrial"))


def record(h: Figure, basis: str) -> FactRecord:
    start = None if h.start is None else as_date(h.start)
    at = as_instant(h.published * DAY)
    said = str(h.value)
    return FactRecord(h.item, start, as_date(h.end), h.value, said, 0, h.unit, at, "", False, basis)


def scale(good: list[Figure]) -> Iterator[int]:
    """The facts that are off by a power of ten; figures in the order in which they are held."""
    groups: dict[tuple[object, ...], list[Figure]] = defaultdict(list)
    for h in sorted(good, key=lambda h: h.end):
        if h.value and ITEMS[h.item].unit == "money":
            groups[h.item, h.span, h.source, h.unit].append(h)
    # by document: fact, whether off, whether sure
    looked: dict[int, list[tuple[int, bool, bool]]] = defaultdict(list)
    for group in groups.values():
        for n, h in enumerate(group):
            around = [
                x
                for x in group[max(0, n - 6) : n + 7]
                if x.document != h.document and x.end != h.end
            ]
            near = sorted((abs(x.end - h.end), abs(x.value or 0), x.value or 0) for x in around)
            values = [size for away, size, _ in near[:4] if away <= 760]
            alike = len({value > 0 for away, _, value in near[:4] if away <= 760} | {h.value > 0})
            if h.new and len(values) > 1:
                ratio = abs(h.value or 0) / median(values)
                off = any(
                    250 < size / more < 4000 for size in (ratio, 1 / ratio) for more in (1, 1000)
                )
                item = ITEMS[h.item]
                left_over = item.optional or item.code.startswith("other_")
                steady = item.statement != "cash_flow" and not left_over
                sure = steady and len(values) > 2 and max(values) / min(values) < 3
                sure = sure and alike == 1
                looked[h.document].append((h.fact, off, sure))
    for reported in looked.values():
        wrong = sum(off for _, off, _ in reported)
        whole = len(reported) > 2 and wrong >= 0.6 * len(reported)
        yield from (fact for fact, off, sure in reported if (whole and wrong) or (off and sure))


def wrong_alone(h: Figure) -> Iterator[str]:
    if not unit_fits(ITEMS[h.item], h.unit):
        yield "unit"
    if h.start is not None and h.start > h.end:
        yield "period_order"
    if h.published < h.end:
        yield "published_early"


def off(gap: float, *among: float) -> bool:
    return abs(gap) > 0.005 * max(map(abs, among))


def last(figures: Iterable[Figure]) -> Figure | None:
    """What was published last of some figures."""
    return max(figures, key=lambda h: (h.published, h.fact), default=None)


def sheets(good: list[Figure]) -> list[dict[str, Figure]]:
    found: dict[tuple[int, int | None, int], dict[str, Figure]] = defaultdict(dict)
    for h in good:
        found[h.document, h.start, h.end][h.item] = h
    return list(found.values())


def value(sheet: dict[str, Figure], code: str) -> float:
    return (sheet[code].value or 0.0) if code in sheet else 0.0


def balances(good: list[Figure]) -> Iterator[Figure]:
    for sheet in sheets(good):
        own = (
            {"total_equity"}
            if "total_equity" in sheet
            else {"shareholders_equity", "minority_interests"}
        )
        if {"total_assets", "total_liabilities", max(own)} <= sheet.keys() and sheet[
            "total_assets"
        ].start is None:
            assets = value(sheet, "total_assets")
            if off(
                assets - value(sheet, "total_liabilities") - sum(value(sheet, c) for c in own),
                assets,
            ):
                yield sheet["total_assets"]


def subtotals(good: list[Figure]) -> Iterator[Figure]:
    for sheet in sheets(good):
        for total in sheet:
            parts = [
                (i, p.sign)
                for i in ITEMS.values()
                for p in i.parts_of
                if p.into == total and "industrial" in p.templates
            ]
            given = [value(sheet, i.code) * sign for i, sign in parts if i.code in sheet]
            whole = len(given) > 1 and all(i.code in sheet for i, _ in parts if not i.optional)
            if whole and off(value(sheet, total) - sum(given), value(sheet, total), *given):
                yield sheet[total]


def cash(good: list[Figure]) -> Iterator[Figure]:
    def published(like: Figure, item: str, start: int | None, end: int) -> Figure | None:
        same = (like.source, item, start, end)
        return last(h for h in good if (h.source, h.item, h.start, h.end) == same)

    for h in good:
        if (
            h.item == "net_change_in_cash"
            and h.start is not None
            and h is published(h, h.item, h.start, h.end)
        ):
            before, after = (
                published(h, "cash_and_equivalents", None, end) for end in (h.start - 1, h.end)
            )
            if before and after and before.unit == after.unit == h.unit:
                gap = (after.value or 0.0) - (before.value or 0.0) - (h.value or 0.0)
                if off(gap, after.value or 0.0, h.value or 0.0):
                    yield h


def quarters(good: list[Figure]) -> Iterator[Figure]:
    flows = [h for h in good if ITEMS[h.item].nature is Nature.FLOW and ITEMS[h.item].additive]
    for year in flows:
        same = [h for h in flows if (h.source, h.item) == (year.source, year.item)]
        if year.span != 12 or year is not last(
            h for h in same if (h.start, h.end) == (year.start, year.end)
        ):
            continue
        ends = [year.end - n * QUARTER for n in range(4)]
        parts = [last(h for h in same if h.span == 3 and h.end == end) for end in ends]
        values = [p.value or 0.0 for p in parts if p and p.unit == year.unit]
        if len(values) == 4 and off((year.value or 0.0) - sum(values), year.value or 0.0, *values):
            yield year


def duplicates(good: list[Figure]) -> Iterator[Figure]:
    first: dict[tuple[object, ...], Figure] = {}
    for h in good:
        if first.setdefault((h.document, h.item, h.start, h.end, h.published), h).value != h.value:
            yield h


def sources(good: list[Figure]) -> Iterator[Figure]:
    for h in good:
        same = [x for x in good if (x.item, x.start, x.end) == (h.item, h.start, h.end)]
        if h is not last(x for x in same if x.source == h.source):
            continue  # restated since
        others = sorted((x for x in same if x.source != h.source), key=lambda x: x.published)
        other = next(
            (x for x in reversed(others) if x.published <= h.published),
            others[0] if others else None,
        )
        if (
            other
            and other.unit == h.unit
            and off((h.value or 0) - (other.value or 0), h.value or 0, other.value or 0)
        ):
            yield h


SOFT: dict[str, Callable[[list[Figure]], Iterable[Figure]]] = {
    "sign": lambda good: [h for h in good if h.item in NEVER_NEGATIVE and (h.value or 0.0) < 0],
    "duplicate": duplicates, "balance": balances, "subtotal": subtotals, "cash": cash, "quarters": quarters,
    "sources": sources,
}  # fmt: skip
NEVER_NEGATIVE = {"total_assets", "total_liabilities", "cash_and_equivalents"}
