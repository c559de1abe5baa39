"""Every declared kind of record: written, left out where it says nothing new,
hashed and read again.
"""

import string
import tempfile
import unittest
from contextlib import closing
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.records import fields
from wise_ledger.core.records.kinds import KINDS
from wise_ledger.core.records.recordkind import RecordKind, Reference
from wise_ledger.core.records.records import ListingRecord, SecurityRecord
from wise_ledger.store.changes import between
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.tables import metadata

NOW = datetime(2026, 1, 1, tzinfo=UTC)
FEW = {  # few values of each type, so that records meet
    fields.TEXT: st.sampled_from(["website", "name", "seat"]),
    fields.DAY: st.dates(date(2020, 1, 1), date(2020, 1, 3)),
    fields.PAST_DAY: st.dates(date(2020, 1, 1), date(2020, 1, 3)),
    fields.INSTANT: st.sampled_from([datetime(2021, 5, d, tzinfo=UTC) for d in (1, 2)]),
    fields.NUMBER: st.sampled_from([0.25, 0.5]),
    fields.POSITIVE: st.sampled_from([2.0, 3.0]),
    fields.MIC: st.sampled_from(["ZALD", "ZBRE"]),
    fields.COUNTRY: st.sampled_from(["XA", "XB"]),
    fields.ZONE: st.sampled_from(["UTC", "Etc/GMT+1"]),
    fields.TIME: st.sampled_from(["16:30", "17:30"]),
    fields.DIVIDEND_KIND: st.sampled_from(["ordinary", "special"]),
    fields.LOSS_AT_WORST: st.sampled_from([-1.0, 0.25]),
    fields.SERIES_WORD: st.sampled_from(["title", "unit"]),
    fields.CURRENCY: st.sampled_from(["EUR", "USD"]),
}
WRITTEN = [k for k in KINDS.values() if k.name != "listings"]  # these come with their security


@st.composite
def records(draw: Any, kind: RecordKind) -> Any:
    """A record of a kind without a problem."""
    values = {}
    for field in kind.fields:
        some = FEW.get(field.type, st.sampled_from(string.ascii_uppercase[:3]))
        values[field.attribute or field.name] = draw(some if field.needed else st.none() | some)
    if "company_key" in getattr(kind.make, "__dataclass_fields__", {}):
        values["company_key"] = "A"
    return kind.make(**values)


def _is_new(before: list[dict[str, Any]], row: dict[str, Any], instant: str | None) -> bool:
    """Whether a row differs from the last of its own instant; none is of an instant that was
    replaced by a row without one, which itself differs from the last of all.
    """
    if instant is None or row[instant] is None:
        return before[-1:] != [row]
    since = max((n + 1 for n, r in enumerate(before) if r[instant] is None), default=0)
    return [r for r in before[since:] if r[instant] == row[instant]][-1:] != [row]


class Kinds(unittest.TestCase):
    @given(st.sampled_from(WRITTEN), st.data())
    @examples(60)
    def test_the_last_of_the_same_counts_and_what_says_nothing_new_leaves_no_row_t8(
        self, kind: RecordKind, data: Any
    ) -> None:
        batches = data.draw(st.lists(st.lists(records(kind), max_size=4), min_size=1, max_size=4))
        told: dict[Any, list[Any]] = {}  # by key, in order
        with (
            tempfile.TemporaryDirectory() as folder,
            closing(Ledger(Path(folder) / "l", lambda: NOW)) as ledger,
        ):
            with ledger.batch("collection", "whom they are of") as batch:
                source = batch.source("s", "S")
                company = batch.company(source, "s", "A", 0)
                listing = ListingRecord("A", "ZALD", "USD", date(2012, 1, 1))
                batch.add_securities(
                    company,
                    source,
                    [SecurityRecord("A-1", "ordinary", "Ordinary", None, (listing,))],
                )
                batch.add_list_note("l", "L", "", False, "Ada")
                batch.series("OUTPUT/Q.XA")
            numbers = {
                "companies": company,
                "securities": 0,
                "lists": 0,
                "sources": source,
                "listings": 0,
                "series": 0,
            }
            of = {c.name: numbers[c.table] for c in kind.columns if isinstance(c, Reference)}
            for given_ in batches:
                before = ledger.last_batch()
                good = [r for r in given_ if next(kind.problems(r, NOW), None) is None]
                with ledger.batch("collection", "some") as batch:
                    added = batch.add(kind, given_, **of)
                expected = 0
                for record in good:
                    row = {
                        f.in_table: f.of(kind.complete(record) if kind.complete else record)
                        for f in kind.fields
                    }
                    key = tuple(row[n] for n in kind.key if n in row)
                    if _is_new(told.setdefault(key, []), row, kind.instant):
                        expected += 1
                        told[key].append(row)
                self.assertEqual(added, expected)
                with ledger.database.read() as connection:
                    touched = between(connection, before, ledger.last_batch())
                if not added:
                    self.assertFalse(touched.rates or touched.anything)
            ledger.verify()

    def test_every_kind_has_its_table_and_an_example_that_passes(self) -> None:
        for kind in KINDS.values():
            names = [c.in_table for c in kind.columns]
            self.assertLessEqual(
                set(names), set(metadata.tables[kind.name].columns.keys()), kind.name
            )
            cells = {f.name: f.example for f in kind.fields if f.example}
            own = {"company_key": "A"} if kind.name == "members" else {}
            made = {
                f.attribute or f.name: f.type.read(cells[f.name], f.name)
                for f in kind.fields
                if f.name in cells
            }
            self.assertEqual(list(kind.problems(kind.make(**made, **own), NOW)), [], kind.name)
