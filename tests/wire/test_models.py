"""Every body of the wire, whatever its fields hold: it comes back from its JSON as it was, its
schema knows it, and as a table it has the columns of its kind (4-interface).
"""

import unittest
from collections import Counter
from datetime import date, datetime
from typing import Any

import jsonschema_rs
from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from tests.wire.made import any_of, models
from wise_ledger.wire.estimates import AnnouncementsAnswer, EstimateHistoryAnswer
from wise_ledger.wire.model import Model
from wise_ledger.wire.panels import PanelSummary
from wise_ledger.wire.prices import PricesAnswer
from wise_ledger.wire.rows import Tabled
from wise_ledger.wire.series import SeriesAnswer

MODELS = sorted(models(), key=lambda m: m.__qualname__)
# Rows as they are; those of a summary have seven quantiles or none, which no field says.
TABLED = [
    m
    for m in MODELS
    if issubclass(m, Tabled) and m.rows is Tabled.rows and m not in (Tabled, PanelSummary)
]
# Those that can be laid out as a grid.
LAID = [AnnouncementsAnswer, EstimateHistoryAnswer, PricesAnswer, SeriesAnswer]


def bodies(of: list[type[Model]]) -> st.SearchStrategy[Model]:
    return st.sampled_from(of).flatmap(any_of)


class Bodies(unittest.TestCase):
    @examples(400)
    @given(bodies(MODELS))
    def test_a_body_comes_back_from_its_json_and_its_schema_knows_it(self, body: Model) -> None:
        kind = type(body)
        self.assertEqual(kind.model_validate_json(body.model_dump_json()), body)
        schema = kind.model_json_schema(mode="serialization")
        jsonschema_rs.validate(schema, body.model_dump(mode="json"))

    @examples(100)
    @given(bodies(TABLED))
    def test_each_row_of_a_table_has_the_columns_of_its_kind_and_plain_cells(
        self, body: Tabled
    ) -> None:
        empty = body.model_copy(update={body.part: []})
        rows = body.rows()
        self.assertEqual(rows.columns, empty.rows().columns)
        for row in rows:
            self.assertEqual(tuple(row), rows.columns)
            for name, cell in row.items():
                plain = str | int | float | date | datetime | None
                self.assertIsInstance(cell, plain, name)

    @examples(100)
    @given(bodies(LAID), st.sampled_from(["wide", "turned"]))
    def test_no_layout_loses_a_value(self, body: Any, layout: str) -> None:
        grid = body.rows(layout=layout)
        tidy = body.rows(layout="tidy")
        of = [row[grid.context["value"]] for row in tidy]
        beside = {"date", "symbol", "series", "period", "period_end"}
        heads = [name for name in grid.columns if name not in beside]
        cells = [row[name] for row in grid for name in heads]
        self.assertEqual(counted(cells), counted(of))


def counted(cells: list[Any]) -> Counter[str]:
    """How often there is each value."""
    return Counter(repr(cell) for cell in cells if cell is not None)


if __name__ == "__main__":
    unittest.main()
