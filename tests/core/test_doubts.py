"""Q1, Q2, T9: prices and rates that cannot be are found,
and nothing published later changes which they are.
"""

import unittest
from typing import Any

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.quality.doubts import Doubt, Quoted, Verdicts, doubts_of_columns, walk
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import RecordColumns

# Where a day's value lies around its level, and whether the row is a hundred times what it
# should be; in long runs too.
MOVES = st.lists(
    st.tuples(st.floats(0.9, 1.1), st.sampled_from([1, 1, 1, 1, 100, 0.01])),
    min_size=2,
    max_size=40,
)
LATE = st.lists(st.integers(0, 30), min_size=40, max_size=40)


def rows_of(
    moves: list[tuple[float, float]], late: list[int], split: int | None = None
) -> list[Quoted]:
    level, out = 40.0, []
    for n, (place, off) in enumerate(moves):
        if n == split:
            level /= 100
        out.append(Quoted(n, 0, n, n + late[n], 1, level * place * (off if n else 1.0)))
    return out


def columns(rows: list[Quoted], owner: int = 3) -> RecordColumns:
    _, source, day, known, batch, value = zip(*rows, strict=True)
    given = {"date": day, "close": value, "known_at": known, "source": source, "batch": batch}
    return RecordColumns.of(PRICES, listing=[owner] * len(rows), **given)


def found(
    rows: list[Quoted], verdicts: Verdicts | None = None, factor: Any = lambda *_: 1.0
) -> list[Doubt]:
    return walk("prices", 3, rows, factor, verdicts or {})


class Scale(unittest.TestCase):
    @given(MOVES)
    @examples(200)
    def test_just_the_rows_that_are_a_hundred_times_off_are_found(
        self, moves: list[tuple[float, float]]
    ) -> None:
        rows = rows_of(moves, [0] * 40)
        off = [n for n, (_, factor) in enumerate(moves) if n and factor != 1]
        self.assertEqual([d.row.day for d in found(rows)], off)
        reported = doubts_of_columns(columns(rows), "close", lambda *_: 1.0, {})
        self.assertEqual([(d.row.row, d.check) for d in reported], [(n, "scale") for n in off])

    @given(MOVES, LATE, st.integers(0, 70))
    # eight rows that were published after it stand between a row and the last one known
    @example([(1.0, 1)] * 13 + [(1.0, 100)], [0] * 5 + [*range(9, 1, -1)] + [0] * 27, 13)
    @examples(200)
    def test_what_is_published_later_changes_nothing_t9(
        self, moves: list[tuple[float, float]], late: list[int], cutoff: int
    ) -> None:
        rows = rows_of(moves, late)
        known = [r for r in rows if r.known <= cutoff]
        self.assertEqual([d for d in found(rows) if d.row.known <= cutoff], found(known))

    def test_after_the_first_of_a_new_scale_is_accepted_the_rest_is_held_against_it_q2(
        self,
    ) -> None:
        rows = rows_of([(1.0, 1)] * 5 + [(1.0, 100)] * 5 + [(1.0, 1)], [0] * 40)
        self.assertEqual([d.row.day for d in found(rows)], [5, 6, 7, 8, 9])
        self.assertEqual([d.row.day for d in found(rows, {("prices", 3, 5): True})], [5, 10])
        self.assertEqual(
            [d.row.day for d in found(rows, {("prices", 3, 5): False})], [5, 6, 7, 8, 9]
        )

    def test_a_split_that_was_known_explains_the_jump_m3(self) -> None:
        rows = rows_of([(1.0, 1)] * 10, [0] * 40, split=5)

        def split(after: int, upto: int, known: int) -> float:
            return 100.0 if after < 5 <= upto and known >= 4 else 1.0

        self.assertEqual(found(rows, factor=split), [])
        self.assertEqual([d.row.day for d in found(rows)], [5, 6, 7, 8, 9])

    @given(st.floats(0.2, 0.7), st.integers(1, 9))
    def test_a_rate_upside_down_is_found_beside_its_neighbours(
        self, rate: float, place: int
    ) -> None:
        rows = [Quoted(n, 0, n, n, 1, 1 / rate if n == place else rate) for n in range(10)]
        pair = (1, 2)
        reported = walk("rates", pair, rows, lambda *_: 1.0, {}, invertible=True)
        self.assertEqual([(d.row.day, d.check) for d in reported], [(place, "inverted")])

    def test_of_two_sources_each_is_held_against_itself_t5(self) -> None:
        rows = [Quoted(n, n % 2, n // 2, n // 2, 1, (40.0, 4000.0)[n % 2]) for n in range(10)]
        self.assertEqual(found(rows), [])
        self.assertEqual(doubts_of_columns(columns(rows), "close", lambda *_: 1.0, {}), [])
        self.assertEqual(np.unique(columns(rows)["source"]).tolist(), [0, 1])


if __name__ == "__main__":
    unittest.main()
