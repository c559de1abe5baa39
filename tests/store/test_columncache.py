"""Column files: derived from the ledger, extended, and made anew when anything is wrong with them."""

import json
import shutil
from dataclasses import fields, replace
from datetime import UTC, date, datetime
from pathlib import Path
from unittest import mock

import numpy as np

from tests.store.test_ledger import REVENUE, LedgerCase
from wise_ledger.core.facts.columns import DTYPES, FactColumns, currency_code
from wise_ledger.core.fiscal.periods import ABSENT, day
from wise_ledger.store import columncache
from wise_ledger.store.columncache import ColumnCache


class Columns(LedgerCase):
    def setUp(self) -> None:
        super().setUp()
        self.folder = self.path.parent / "columns"
        self.write(REVENUE, replace(REVENUE, value=None, published_at=datetime(2023, 5, 1, tzinfo=UTC)))

    def columns(self, batch: int | None = None, item: str = "revenue") -> FactColumns:
        with self.ledger.database.read() as connection:
            last = self.ledger.last_batch() if batch is None else batch
            return ColumnCache(self.folder).columns(connection, item, last)

    def same(self, a: FactColumns, b: FactColumns) -> None:
        for field in fields(FactColumns):
            np.testing.assert_array_equal(getattr(a, field.name), getattr(b, field.name), field.name)

    def anew(self) -> FactColumns:
        shutil.rmtree(self.folder, ignore_errors=True)
        return self.columns()

    def test_columns_say_what_the_facts_say(self) -> None:
        found = self.columns()
        self.assertEqual([found.value[0], np.isnan(found.value[1])], [5e6, True])
        self.assertEqual(set(found.end.tolist()), {day(date(2022, 12, 31))})
        self.assertEqual(set(found.currency.tolist()), {currency_code("USD")})
        self.assertEqual(set(found.declared_end.tolist()), {ABSENT})
        self.assertEqual({n: getattr(found, n).dtype for n in DTYPES}, {n: np.dtype(t) for n, t in DTYPES.items()})
        self.assertEqual(len(self.columns(item="total_assets")), 0)

    def test_a_later_batch_extends_them_without_reading_the_rest_again(self) -> None:
        self.columns()
        self.write(replace(REVENUE, value=6e6, published_at=datetime(2023, 9, 1, tzinfo=UTC)), key="B")
        self.write(replace(REVENUE, value=7e6, published_at=datetime(2023, 9, 2, tzinfo=UTC)))
        with mock.patch.object(columncache, "_read", wraps=columncache._read) as read:
            extended = self.columns()
        self.assertEqual(read.call_args.args[2], 1)  # only what came after batch 1
        self.assertEqual(extended.company.tolist(), [0, 0, 0, 1])
        self.same(extended, self.anew())

    def test_an_older_state_is_cut_out_of_newer_columns_t7(self) -> None:
        before = self.columns()
        self.write(replace(REVENUE, value=6e6))
        self.assertEqual(len(self.columns()), 3)
        self.same(self.columns(batch=1), before)

    def test_damaged_short_and_missing_files_are_made_anew(self) -> None:
        whole = self.columns()
        place = self.folder / "revenue"

        def cut(path: Path) -> None:
            path.write_bytes(path.read_bytes()[:-8])

        covers = json.loads((place / "covers.json").read_text())
        damages = {
            "gone": lambda: shutil.rmtree(place),
            "one gone": lambda: (place / "value.npy").unlink(),
            "short": lambda: cut(place / "at.npy"),
            "empty": lambda: (place / "company.npy").write_bytes(b""),
            "not numpy": lambda: (place / "end.npy").write_bytes(b"x" * 400),
            "other type": lambda: np.save(place / "company.npy", np.zeros(2, np.float64)),
            "no covers": lambda: (place / "covers.json").write_text("{"),
            "wrong count": lambda: (place / "covers.json").write_text(json.dumps({**covers, "rows": 9})),
        }
        for name, damage in damages.items():
            with self.subTest(name):
                damage()
                self.same(self.columns(), whole)
                self.same(self.columns(), whole)

    def test_a_crash_while_writing_leaves_the_old_columns(self) -> None:
        whole = self.columns()
        self.write(replace(REVENUE, value=6e6))
        with (
            mock.patch.object(columncache.json, "dumps", side_effect=KeyboardInterrupt),
            self.assertRaises(KeyboardInterrupt),
        ):
            self.columns()
        self.assertEqual(len(self.columns(batch=1)), len(whole))
        self.assertEqual(len(self.columns()), 3)

    def test_columns_that_are_being_read_survive_their_replacement(self) -> None:
        old = self.columns()
        old = self.columns()  # now mapped from the files
        before = old.value.copy()
        self.write(replace(REVENUE, value=6e6))
        self.columns()
        np.testing.assert_array_equal(old.value, before)
