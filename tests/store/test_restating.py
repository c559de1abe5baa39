"""What batches restated or took back, against versions followed one by one (T5, T6, Q2)."""

import tempfile
import unittest
from collections import defaultdict
from contextlib import closing
from dataclasses import replace
from datetime import UTC, date, datetime
from itertools import pairwise
from pathlib import Path
from typing import Any
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from tests.store.test_ledger import DOCUMENT, NOW, REVENUE
from wise_ledger.core.quality.checks import Finding
from wise_ledger.store import restating
from wise_ledger.store.ledger import Ledger

_few = st.integers(0, 2)
_figures = st.lists(
    st.tuples(
        _few,
        st.sampled_from(["revenue", "net_income"]),
        st.booleans(),
        _few,
        st.sampled_from([None, 1.0, 2.0]),
        st.integers(1, 4),
        st.booleans(),
    ),
    max_size=8,
)


class Restated(unittest.TestCase):
    @given(st.lists(_figures, min_size=1, max_size=4), st.sets(st.integers(1, 4), min_size=1))
    @examples(30)
    def test_versions_of_one_source_are_followed_without_those_in_quarantine(
        self, given_: list[Any], asked: set[int]
    ) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            closing(Ledger(Path(folder) / "l.sqlite", lambda: NOW)) as ledger,
        ):
            versions: dict[tuple[Any, ...], list[tuple[Any, ...]]] = defaultdict(list)
            fact = 0
            for figures in given_:
                with ledger.batch("collection", "test") as batch:
                    for company, item, other, year, value, published, held_back in figures:
                        source = batch.source("other" if other else "fernmark", "A source")
                        (document,) = batch.documents(
                            source, [replace(DOCUMENT, content=bytes([other]))]
                        )
                        number = batch.company(source, "any", f"C{company}", 0)
                        end, at = (
                            date(2020 + year, 12, 31),
                            datetime(2023, published, 1, tzinfo=UTC),
                        )
                        record = REVENUE._replace(
                            item=item, period_end=end, value=value, published_at=at
                        )
                        if batch.add_facts(number, source, [(document, record)]):
                            if held_back:
                                batch.add_findings([Finding(fact, "scale", "")])
                            else:
                                key = (number, item, source, end)
                                versions[key].append((at, fact, value, batch.number))
                            fact += 1
            batches = sorted(asked)
            expected = []
            for (company, item, _, end), reported in versions.items():
                reported = sorted(v for v in reported if v[3] <= max(asked))
                for (_, _, before, _), (at, _, value, of) in pairwise(reported):
                    if of in asked and before != value:
                        expected.append(
                            (company, at, item, end, before, value, reported[0][2], reported[-1][2])
                        )
            with ledger.database.read() as connection, mock.patch.object(restating, "_AT_ONCE", 2):
                found = restating.of_batches(connection, batches)
            got = [
                (
                    c.company,
                    c.published_at,
                    c.item,
                    c.period_end,
                    c.old,
                    c.new,
                    c.original,
                    c.latest,
                )
                for c in found
            ]
            self.assertEqual(got, sorted(got, key=lambda r: r[:4]))
            self.assertCountEqual(got, expected)
