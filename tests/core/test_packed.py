"""Files of whole columns: read as they were written, and never past what may be read, however
little they weigh packed.
"""

import io
import unittest
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.records.packed import TooLarge, read_packed

AMPLE = {"rows": 10**6, "size": 1 << 30}
TEXTS = st.lists(st.sampled_from(["", "EUR", "x" * 60, None]), min_size=1, max_size=40)
FORMS = [("parquet", c) for c in ("none", "zstd", "snappy")]
FORMS += [(form, c) for form in ("file", "stream") for c in (None, "lz4", "zstd")]


def packed(table: pa.Table, form: str, compression: Any, rows: int | None = None) -> bytes:
    """A table as a file, so many rows a batch."""
    out = io.BytesIO()
    if form == "parquet":
        pq.write_table(table, out, compression=compression, row_group_size=rows)
        return out.getvalue()
    opened = pa.ipc.new_file if form == "file" else pa.ipc.new_stream
    options = pa.ipc.IpcWriteOptions(compression=compression)
    with opened(out, table.schema, options=options) as writer:
        writer.write_table(table, max_chunksize=rows)
    return out.getvalue()


class Packed(unittest.TestCase):
    @given(TEXTS, st.sampled_from(FORMS), st.integers(1, 50), st.data())
    @examples(60)
    def test_a_table_comes_back_and_not_with_a_row_or_a_byte_more_than_is_allowed(
        self, texts: list[str | None], form: tuple[str, Any], rows: int, data: Any
    ) -> None:
        plain = pa.table({"a": pa.array(texts, pa.string()), "b": np.arange(len(texts)) / 8})
        codes = pa.table({"a": plain["a"].dictionary_encode(), "b": plain["b"]})
        content = packed(data.draw(st.sampled_from([plain, codes])), *form, rows)
        self.assertEqual(read_packed(content, **AMPLE), plain)
        self.assertEqual(read_packed(content, len(texts)), plain)
        for less in ({"rows": len(texts) - 1}, {"size": 7}):
            with self.assertRaises(TooLarge):
                read_packed(content, **less)

    def test_a_few_kilobytes_that_stand_for_gigabytes_are_refused_before_they_are_unpacked(
        self,
    ) -> None:
        few = pa.array(np.zeros(100_000, np.int32))
        zeros = pa.table({"a": np.zeros(2_000_000)})
        nothing = pa.table({"a": pa.nulls(10**9)})
        long = {"a": pa.DictionaryArray.from_arrays(few, pa.array(["x" * 100_000]))}
        for table, form, found in (
            (zeros, ("stream", "zstd"), "2,000,000 rows, 16,000,000 bytes"),
            (zeros, ("file", "lz4"), "2,000,000 rows, 16,000,000 bytes"),
            (zeros, ("parquet", "zstd"), "2,000,000 rows"),
            (nothing, ("stream", None), "1,000,000,000 rows"),
            (pa.table(long), ("stream", "zstd"), "100,000 rows, 10,000,000,000 b"),
            (pa.table(long), ("parquet", "zstd"), "100,000 rows, 10,000,000,000 b"),
        ):
            content = packed(table, *form)
            before = pa.total_allocated_bytes()
            with self.subTest(form, found=found):
                with self.assertRaisesRegex(TooLarge, found):
                    read_packed(content, **AMPLE)
                self.assertLess(pa.total_allocated_bytes() - before, 1 << 22)
        for kind in (pa.string(), pa.large_string(), pa.string_view(), pa.large_binary()):
            texts = pa.table({"a": pa.array([b"x" * 100_000] * 300).cast(kind)})
            with self.assertRaisesRegex(TooLarge, "300 rows, 30,000,000 b"):
                read_packed(packed(texts, "parquet", "zstd"), size=1 << 20)
