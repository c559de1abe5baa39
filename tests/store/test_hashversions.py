"""Chains of old still verify, and rows and columns have one hash however they come."""

import random
from collections.abc import Sequence
from datetime import UTC, datetime

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from tests.store.test_ledger import REVENUE, LedgerCase
from wise_ledger.store import chain
from wise_ledger.store.errors import ChainBroken
from wise_ledger.store.tables import LEDGER, facts


def as_array(column: Sequence[float | None]) -> np.ndarray:
    """What is missing is masked, as it comes from figures."""
    missing = [v is None for v in column]
    return (
        np.ma.masked_array([0 if v is None else v for v in column], missing)
        if any(missing)
        else np.array(column)
    )


class HashVersions(LedgerCase):
    @examples(60)
    @given(
        st.lists(st.tuples(st.integers(0, 2600), st.booleans()), max_size=5),
        st.randoms(use_true_random=False),
    )
    def test_rows_and_columns_have_one_hash_however_they_come(
        self, parts: list[tuple[int, bool]], rnd: random.Random
    ) -> None:
        kinds = {
            "INTEGER": lambda: rnd.choice((0, 7, -3)),
            "FLOAT": lambda: rnd.choice((1.5, -0.0)),
            "TEXT": str,
        }
        makers = [
            (kinds.get(str(c.type), lambda: rnd.choice((0, 1))), c.nullable) for c in facts.columns
        ]
        gap = rnd.choice((0.0, 0.3, 1.0))
        rows = [
            [None if may and rnd.random() < gap else make() for make, may in makers]
            for _ in range(50)
        ]
        plain, either = chain.ContentHash(), chain.ContentHash()
        for count, as_columns in parts:
            given_rows = [rows[n % 50] for n in range(count)]
            plain.add(facts, given_rows)
            if as_columns and count:
                columns = zip(facts.columns, zip(*given_rows, strict=True), strict=True)
                either.add_columns(
                    facts,
                    [
                        rnd.choice((list, as_array))(c) if str(t.type) != "TEXT" else c
                        for t, c in columns
                    ],
                )
            else:
                either.add(facts, given_rows)
            self.assertEqual(plain.rows, either.rows)
        self.assertEqual(plain.hex, either.hex)

    def test_chains_of_old_hold_and_go_on_with_the_new_ways_of_hashing(self) -> None:
        for version in (1, 2, 3):
            self.write(
                REVENUE._replace(value=-0.0, published_at=datetime(2023, 9, version, tzinfo=UTC))
            )
            self.hash_last_as(version)
        kept = [
            content for (content,) in self.by_hand("SELECT content FROM batches ORDER BY number")
        ]
        self.assertEqual([content.rpartition(":")[0] for content in kept], ["", "2", "3"])
        self.assertEqual(self.ledger.verify().batches, 3)
        self.by_hand("DROP TRIGGER facts_no_update", "SELECT 1")
        for number, column in [
            (1, "batch"),
            *((n, c) for n in (1, 2, 3) for c in ("scale", "assumed", "place")),
        ]:
            with self.subTest(number=number, column=column):
                (before,) = self.by_hand(f"SELECT {column} FROM facts WHERE batch = {number}")[0]
                other = "'x'" if isinstance(before, str) else 1 - before if column != "batch" else 2
                self.by_hand(f"UPDATE facts SET {column} = {other} WHERE id = {number - 1}")
                with self.assertRaises(ChainBroken):
                    self.ledger.verify()
                self.by_hand(f"UPDATE facts SET {column} = {before!r} WHERE id = {number - 1}")
        self.assertEqual(self.ledger.verify().batches, 3)

    def hash_last_as(self, version: int) -> None:
        """Hash the last batch as was the way then;
        of the newest it must be the very hash that was written.
        """
        content = chain.ContentHash(version)
        (batch,) = self.by_hand("SELECT * FROM batches ORDER BY number DESC LIMIT 1")
        for table in LEDGER:
            names = ", ".join(f'"{c.name}"' for c in table.columns)
            content.add(
                table,
                self.by_hand(
                    f"SELECT {names} FROM {table.name} WHERE batch = {batch[0]} ORDER BY 1"
                ),
            )
        if version == 3:
            self.assertEqual(content.hex, batch[5])
        hashed = chain.batch_hash(*batch[:5], content.hex, batch[6])
        self.by_hand(
            "DROP TRIGGER IF EXISTS batches_no_update",
            f"UPDATE batches SET content = '{content.hex}', hash = '{hashed}' WHERE number = {batch[0]}",
        )
