"""States of the ledger by batch: what did not change between two of them is the same in both."""

import threading
from collections import OrderedDict, defaultdict
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection

from wise_ledger.core.answers.viewpoint import Viewpoint, marks_of
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.catalogue.measures import SHIPPED
from wise_ledger.core.dated.attributes import Attributes
from wise_ledger.core.errors import bad_input
from wise_ledger.core.estimates.known import EstimateRows
from wise_ledger.core.estimates.onesource import of_first_source
from wise_ledger.core.language.view import LedgerView
from wise_ledger.core.market.factors import Factors
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.prices import Prices
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.market.whose import Listed
from wise_ledger.core.money.rates import RateTable
from wise_ledger.core.quality.doubts import Doubt, Verdicts, doubts_of_columns, out_of_use
from wise_ledger.core.records.columnkinds import (
    ACTUALS,
    ANNOUNCEMENTS,
    COLUMN_KINDS,
    CONSENSUS,
    ESTIMATES,
    LEVELS,
    PRICES,
    SERIES,
)
from wise_ledger.core.records.columns import ColumnKind, RecordColumns
from wise_ledger.core.records.kinds import RATES
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.series.vintages import Vintages
from wise_ledger.engine.columns import Columns
from wise_ledger.engine.histories import Histories
from wise_ledger.engine.identity import Identity, read_identity
from wise_ledger.engine.line import Line
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.view import EngineView
from wise_ledger.engine.yearendfile import YearEndFile
from wise_ledger.store import (
    changes,
    examining,
    keptreading,
    limitreading,
    listreading,
    marketreading,
    naming,
    ratereading,
    reading,
    seriesreading,
)
from wise_ledger.store.ledger import Ledger

_KEPT = 4
_NAMING = (
    "attributes",
    "identifiers",
    "securities",
    "listings",
    "companies",
    "venues",
    "venue_words",
)
BUDGET = 1 << 30  # bytes of timelines and the like that are kept
T = TypeVar("T")


class Snapshots:
    """Snapshots of a ledger by batch; the newest ones are kept, in so many bytes.

    Safe for many threads.
    """

    def __init__(self, ledger: Ledger, columns: Path, budget: int = BUDGET) -> None:
        self._ledger = ledger
        self._folder = columns
        self._columns = Columns(ledger, columns)
        self._histories = Histories(ledger, columns)
        self._budget = budget
        self._lock = threading.RLock()
        self._making: dict[str, threading.Lock] = defaultdict(threading.Lock)
        self._made: tuple[int, dict[str, Any]] = (-1, {})
        self._parts: dict[str, tuple[tuple[int, ...], Any]] = {}
        self._kept: OrderedDict[tuple[int, frozenset[str]], Snapshot] = OrderedDict()
        self._lines: dict[frozenset[str], Line] = {}

    def verify_columns(self, step: Callable[[], None] = lambda: None) -> tuple[int, int]:
        """How many files of columns were compared with the ledger,
        and how many of them are made again.
        """
        of_facts, of_kinds = (
            self._columns.verify(step),
            self._histories.verify(COLUMN_KINDS.values(), step),
        )
        of_year_ends = self._verify_year_ends(step)
        compared, again = zip(of_facts, of_kinds, of_year_ends, strict=True)
        return sum(compared), sum(again)

    def _verify_year_ends(self, step: Callable[[], None]) -> tuple[int, int]:
        compared = again = 0
        for leave_out in {frozenset[str](), *self._lines}:
            step()
            kept = self._year_ends(leave_out).read(self._ledger.last_batch())
            if kept is None:
                continue
            compared += 1
            if self.at(kept[0], leave_out=leave_out).view.tracing_all().stages != kept[1]:
                again += 1
                self._year_ends(leave_out).forget()
                with self._lock:  # nothing that was formed by them is kept
                    self._lines.pop(leave_out, None)
                    for key in [k for k in self._kept if k[1] == leave_out]:
                        del self._kept[key]
        return compared, again

    def of(self, viewpoint: Viewpoint) -> Snapshot:
        """The ledger as it is seen from a viewpoint."""
        return self.at(viewpoint.recorded_by, leave_out=viewpoint.leave_out)

    def at(
        self, recorded_by: int | None = None, *, leave_out: frozenset[str] = frozenset()
    ) -> Snapshot:
        """The ledger as recorded by a batch (T7), by default the newest,
        without figures of some marks.
        """
        last = self._ledger.last_batch()
        if recorded_by is not None and not 0 <= recorded_by <= last:
            raise bad_input(
                "recorded_by", recorded_by, "there is no such batch", f"the newest is {last}"
            )
        batch = last if recorded_by is None else recorded_by
        with self._lock:
            key = (batch, leave_out)
            if key not in self._kept:
                self._kept[key] = self._read(batch, leave_out, newest=batch == last)
            self._kept.move_to_end(key)
            while len(self._kept) > _KEPT:
                self._kept.popitem(last=False)
            return self._kept[key]

    def once(self, name: str, make: Callable[[], T]) -> T:
        """Something that is the same until the next batch: made once, by one, kept under a name."""
        last = self._ledger.last_batch()
        with self._lock:
            if self._made[0] != last:
                self._made = (last, {})
            kept = self._made[1]
            making = self._making[name]
        with making:
            if name not in kept:
                kept[name] = make()
        found: T = kept[name]
        return found

    def refresh(self) -> None:
        """Bring what was asked for lately up to the newest batch, before anybody asks again."""
        if frozenset() in self._lines:
            self.at().view.refresh()

    def _part(
        self, name: str, newest: dict[str, int], tables: Sequence[str], read: Callable[[], T]
    ) -> T:
        """Something read from some tables: as it was, unless a batch brought rows of them."""
        stamp = tuple(newest[table] for table in tables)
        kept = self._parts.get(name)
        if kept is None or kept[0] != stamp:
            kept = self._parts[name] = (stamp, read())
        found: T = kept[1]
        return found

    def _read(self, batch: int, leave_out: frozenset[str], *, newest: bool) -> Snapshot:
        with self._ledger.database.read() as connection:
            stamps = changes.newest(connection, batch)

            def part(name: str, tables: Sequence[str], read: Callable[[Connection], T]) -> T:
                return self._part(name, stamps, tables, lambda: read(connection))

            ids = part("ids", ["companies"], lambda c: reading.company_ids(c, batch))
            attributes = part(
                "attributes",
                ["attributes"],
                lambda c: Attributes(reading.attribute_versions(c), batch),
            )
            names = part("sources", ["sources"], lambda c: tuple(reading.source_names(c)))
            decisions = part(
                "decisions", ["decisions"], lambda c: tuple(naming.all_decisions(c, batch))
            )
            preference = part(
                "preference", ["source_orders", "sources"],
                lambda c: reading.preference(c, batch),
            )  # fmt: skip
            limits = part("limits", ["limits"], lambda c: limitreading.limits(c, batch))
            flagged = part("flagged", ["findings"], lambda c: examining.flagged(c, batch))
            quarantined = part(
                "quarantined", ["findings", "verdicts"], lambda c: examining.quarantined(c, batch)
            )
            splits = part(
                "splits",
                ["splits", "securities", "listings", "source_orders", "sources"],
                lambda c: marketreading.splits_of_companies(c, batch, preference.ranks),
            )
            bases = part("share bases", ["share_bases"], lambda c: reading.share_bases(c, batch))
            items = part(
                "items",
                ["item_definitions"],
                lambda c: {**ITEMS, **reading.registered_items(c, batch)},
            )
            measures = part(
                "measures",
                ["measures"],
                lambda c: {**SHIPPED, **keptreading.kept_measures(c, batch)},
            )
        identity = self._lazily(
            "identity", stamps, _NAMING, lambda c: read_identity(c, ids, attributes, batch)
        )
        rates = self._lazily(
            "rates",
            stamps,
            ("rates", "market_verdicts", "source_orders", "sources"),
            lambda c: ratereading.rates(c, batch, preference.ranks(RATES.name, -1).tolist()),
        )
        market = self._market(batch, stamps, identity, rates)
        estimated = self._lazily(
            "estimates",
            stamps,
            ("blocks", "contributors", "source_orders"),
            lambda c: self._estimate_rows(c, batch),
        )
        series = self._lazily(
            f"series {sorted(leave_out & {'assumed'})}",
            stamps,
            ("blocks", "series", "series_bases", "series_attributes", "source_orders"),
            lambda c: self._series_book(c, batch, with_assumed="assumed" not in leave_out),
        )
        how: dict[str, Any] = {
            "companies": len(ids),
            "attributes": attributes,
            "with_assumed": "assumed" not in leave_out,
            "marks_out": marks_of(leave_out),
            "quarantined": quarantined,
            "flagged": flagged,
            "preference": preference,
            "limits": limits,
            "items": items,
            "measures": measures,
            "splits": splits,
            "share_bases": bases if splits else {},
            "read_rates": rates,
            "given_market": market,
            "given_estimates": estimated,
            "given_series": series,
            "derived": lambda: identity().derived,
            "values": self._values,
        }
        line = self._line(leave_out) if newest else Line(self._ledger, self._budget)

        def former(companies: NDArray[np.int64] | None, traced: bool) -> LedgerView:
            return LedgerView(
                traced=traced,
                columns=lambda item: self._columns.of(item, batch, companies),
                only=companies,
                given_calendar=lambda: view.calendar,
                **how,
            )

        plain = LedgerView(columns=lambda item: self._columns.of(item, batch), **how)
        view = EngineView(batch, line, plain, former)
        return Snapshot(batch, view, attributes, ids, decisions, names, identity)

    def _estimate_rows(self, connection: Connection, batch: int) -> EstimateRows:
        names, codes = reading.source_names(connection), marketreading.item_codes(connection)
        preference = reading.preference(connection, batch)

        def first(kind: ColumnKind) -> RecordColumns:
            rows = self._histories.of(kind, batch)
            sources = rows["source"].astype(np.int16)
            if not len(sources) or sources.min() == sources.max():
                return rows
            rank = sources.astype(np.int64)
            for number in np.unique(rows["measure"]).tolist() if preference else ():
                own = rows["measure"] == number
                rank[own] = preference.ranked(codes[number], rows["company"][own], sources[own])
            return of_first_source(rows, rank, contributed=kind is ESTIMATES)

        return EstimateRows(
            first(ESTIMATES),
            first(ACTUALS),
            self._histories.of(CONSENSUS, batch),
            self._histories.of(ANNOUNCEMENTS, batch),
            codes,
            marketreading.contributors(connection),
            names,
        )

    def _series_book(self, connection: Connection, batch: int, *, with_assumed: bool) -> SeriesBook:
        rows = self._histories.of(SERIES, batch)
        sources = rows["source"].astype(np.int16)
        rank = None
        if len(sources) and sources.min() != sources.max():
            preference = reading.preference(connection, batch)
            rank = preference.ranked(SERIES.name, np.full(len(sources), -1, np.int64), sources)
        return SeriesBook(
            seriesreading.series_keys(connection),
            Vintages.of(rows, rank, with_assumed=with_assumed),
            Attributes(seriesreading.series_attributes(connection, batch), batch),
            seriesreading.series_bases(connection),
        )

    def _market(
        self,
        batch: int,
        stamps: dict[str, int],
        identity: Callable[[], Identity],
        rates: Callable[[], RateTable],
    ) -> Callable[[], tuple[Market, ShareCounts]]:
        """The market up to a batch: made when first asked for,
        again when a batch brought something of it.
        """

        def read(connection: Connection) -> tuple[Market, ShareCounts]:
            universe = identity().universe
            preference = reading.preference(connection, batch)
            ranks = preference.ranks
            ended = marketreading.delistings(connection, batch, ranks)
            splits = Factors.of(marketreading.splits_of_securities(connection, batch, ranks))
            ratios = marketreading.receipt_ratios(connection, batch, ranks)
            listed = Listed.of(universe.securities, universe.listings, ended, ratios)
            numbers = listreading.list_numbers(connection)
            verdicts = _market_verdicts(
                ratereading.market_verdicts(connection, batch), identity().listing_ids, numbers
            )
            doubts: list[Doubt] = []

            def split(listing: int, after: int, upto: int, known: int) -> float:
                of = (
                    listed.security[listing : listing + 1],
                    *(np.array([n]) for n in (after, upto, known)),
                )
                return float(splits.between(*of)[0])

            def prices_of(kind: ColumnKind, column: str) -> Prices:
                rows = self._histories.of(kind, batch)
                factor = split if kind is PRICES else lambda *_: 1.0
                found = doubts_of_columns(rows, column, factor, verdicts)
                doubts.extend(found)
                if len(unused := out_of_use(found, verdicts)):
                    rows = rows.where(np.delete(np.arange(len(rows)), unused))
                sources = rows["source"].astype(np.int16)
                several = len(sources) and sources.min() != sources.max()
                owners = np.full(len(sources), -1, np.int64)
                if several and kind is PRICES:
                    owners = listed.company[listed.security[rows["listing"]]]
                return Prices.of(
                    rows, preference.ranked(kind.name, owners, sources) if several else None
                )

            market = Market(
                prices_of(PRICES, "close"),
                listed,
                splits,
                marketreading.dividends(connection, batch, ranks),
                ended,
                prices_of(LEVELS, "level"),
                numbers,
                lambda source, target, day, at: rates().on(
                    source.astype(np.int16), target.astype(np.int16), day, at
                ),
                doubts,
            )
            return market, marketreading.share_counts(connection, batch, ranks)

        tables = (
            "blocks", "splits", "dividends", "delistings", "shares", "rates", "source_orders", "lists",
            "market_verdicts", "receipt_ratios",
        )  # fmt: skip
        return self._lazily("market", stamps, (*tables, *_NAMING), read)

    def _values(self, attribute: str) -> dict[str, str]:
        """The codes of an attribute that the newest state of the ledger has,
        with the names shown for them.
        """
        if attribute == "venue":
            universe = self.at().universe
            named = {mic: of[-1].name or mic for mic, of in universe.venues.items()}
            return {x.mic: x.mic for x in universe.listings} | named
        if attribute == "list":
            with self._ledger.database.read() as connection:
                return {name: name for name in listreading.list_numbers(connection)}
        if attribute == "country":
            return {a.value: a.value for a in self.at().attributes.versions("country")}
        return {}

    def _line(self, leave_out: frozenset[str]) -> Line:
        if leave_out not in self._lines:
            self._lines[leave_out] = Line(self._ledger, self._budget, self._year_ends(leave_out))
        return self._lines[leave_out]

    def _year_ends(self, leave_out: frozenset[str]) -> YearEndFile:
        name = "-without-".join(["all", *sorted(leave_out)])
        return YearEndFile(self._folder / "year-ends" / f"{name}.columns", self._ledger.hash_of)

    def _lazily(
        self,
        name: str,
        stamps: dict[str, int],
        tables: Sequence[str],
        read: Callable[[Connection], T],
    ) -> Callable[[], T]:
        """A part that is read when first asked for."""

        def found() -> T:
            with self._lock:
                kept = self._parts.get(name)
                stamp = tuple(stamps[table] for table in tables)
                if kept is not None and kept[0] == stamp:
                    return kept[1]  # type: ignore[no-any-return]
                with self._ledger.database.read() as connection:
                    return self._part(name, stamps, tables, lambda: read(connection))

        return found


def _market_verdicts(
    verdicts: Mapping[tuple[str, str, int], tuple[bool, str, str]],
    listings: Sequence[str],
    lists: Mapping[str, int],
) -> Verdicts:
    """Whether people accept prices and levels in quarantine,
    by number of listing or list and day.
    """
    number = (
        {"prices": {id_: n for n, id_ in enumerate(listings)}, "levels": lists} if verdicts else {}
    )
    return {
        (kind, number[kind][subject], day): accepted
        for (kind, subject, day), (accepted, *_) in verdicts.items()
        if kind in number and subject in number[kind]
    }
