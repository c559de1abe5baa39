"""Every command that has files says the same in each of them: columns, rows, cells (4-interface)."""

import contextlib
import csv
import io
import json
import math
import re
import tempfile
import unittest
from datetime import date, datetime
from pathlib import Path
from typing import Any

import click
import openpyxl
import pyarrow.parquet as pq
from click.testing import CliRunner

from tests.cli.test_files import commands
from tests.cli.test_odd import LONG, plain
from tests.live import Live
from wise_ledger.cli import main
from wise_ledger.cli.main import root
from wise_ledger.client import Ledger

# What is asked, where the plainest question has nothing to show.
ASKED = {
    "prices": "AGK@ZALD AGK@ZALD --columns close,date,close", "market": "--list first-look",
    "statements": "AGK@ZALD DMB@ZALD --columns item,value,item", "explain": "AGK@ZALD current_ratio",
    "screen": "revenue>0 --list first-look --show name:revenue --show industry --hindsight",
    "panel": "revenue current_ratio country --list first-look --dates 2023-06-30 --beside reason",
    "match": "AGK@ZALD Ashgrove nobody", "restatements": "--list first-look",
    "lists levels": "index-of-aldmoor", "lists versions": "first-look",
    "lists members": "first-look --show revenue --show country",
    "series show": "OUTPUT/Q.XA", "series compare": "OUTPUT/Q.XA PRICES/Q.XA",
    "catalogue search": "revenue", "estimates history": "AGK@ZALD", "companies find": "a",
    "measures history": "net_margin", "questions versions": "sellers", "quality coverage": "first-look",
    **{f"series sheets {verb}": "both" for verb in ("show", "versions")},
    "series sheets refresh": "both --since 2020-01-01",
}  # fmt: skip
# Calls of the client that commands make under another name, and what a command has no use for.
IN_OTHER_WORDS = {
    "panel", "panel_answer", "prices", "screen", "collect", "kept_panel", "kept_screen", "sheet", "extract",
    "extracts", "wait", "close",
}  # fmt: skip
TWO = b"series,period,value,released_at\n" + b"".join(
    f"{key}/Q.XA,{2018 + n // 4}Q{1 + n % 4},{1 + (n * step) % 5},{2019 + n // 4}-02-01\n".encode()
    for key, step in (("OUTPUT", 2), ("PRICES", 3))
    for n in range(12)
)


def cell(value: Any) -> str:
    """A value as any file may write it, in one spelling."""
    if value is None or (isinstance(value, float) and math.isnan(value)):
        return ""
    if isinstance(value, datetime):
        return value.isoformat()[:19].replace("T00:00:00", "")
    if isinstance(value, date):
        return value.isoformat()
    text = str(value).removeprefix("'")
    if text.lower() in ("true", "false"):
        return text.lower()
    with contextlib.suppress(ValueError):
        return f"{float(text):.10g}"
    with contextlib.suppress(ValueError):
        return cell(datetime.fromisoformat(text)) if "-" in text and "T" in text else text
    return text


def read(form: str, path: Path) -> list[list[str]]:
    """The heads and the cells of a file."""
    if form in ("csv", "tsv"):
        text = path.read_text("utf-8")
        rows: Any = csv.reader(io.StringIO(text), delimiter="," if form == "csv" else "\t")
    elif form == "parquet":
        table = pq.read_table(path)
        rows = [table.column_names, *(row.values() for row in table.to_pylist())]
    else:
        rows = openpyxl.load_workbook(path)["Figures"].iter_rows(values_only=True)
    return [[cell(value) for value in row] for row in rows]


class Files(Live):
    def test_each_command_says_the_same_in_every_kind_of_file(self) -> None:
        self.assertEqual(self.ledger.load("series", TWO).bad, [])
        kept = {"rule": "revenue > 0", "list": "first-look"}
        self.ledger.keep_question("sellers", "screen", kept, "ada")
        self.ledger.keep_sheet("both", ["OUTPUT/Q.XA", "PRICES/Q.XA"], "ada")
        known = {"WISE_LEDGER_URL": self.live.url, "WISE_LEDGER_TOKEN": self.live.token}
        tried = set()
        for words, command in commands(root):
            if words[0] in LONG | {"runs", "tokens"}:
                continue
            if not {"output", "format_"} <= {p.name for p in command.params}:
                continue
            if isinstance(command, click.Group) and not command.invoke_without_command:
                continue
            name = " ".join(words)
            needed = [
                plain(p) for p in command.params if isinstance(p, click.Argument) and p.required
            ]
            asked = [*words, *(ASKED[name].split() if name in ASKED else needed)]
            with tempfile.TemporaryDirectory() as folder, self.subTest(name):
                files = {}
                for kind in ("csv", "tsv", "parquet", "xlsx", "json"):
                    path = Path(folder, f"it.{kind}")
                    given = [*asked, "--format", kind, "--output", str(path)]
                    ended = CliRunner(env=known).invoke(root, given)
                    self.assertIn(ended.exit_code, (0, 3), (given, ended.output, ended.exception))
                    files[kind] = path
                json.loads(files.pop("json").read_bytes())
                first = read("csv", files.pop("csv"))
                for kind, path in files.items():
                    self.assertEqual(read(kind, path), first, kind)
                tried.add((name, len(first) > 1))
        self.assertGreater(sum(filled for _, filled in tried), 25, tried)


class Doors(unittest.TestCase):
    def test_whatever_the_client_asks_a_command_asks_too(self) -> None:
        written = "".join(
            path.read_text("utf-8") for path in Path(main.__file__).parent.glob("*.py")
        )
        calls = {name for name in dir(Ledger) if not name.startswith("_")}
        without = {name for name in calls if not re.search(rf"\.{name}\(", written)}
        self.assertEqual(without, IN_OTHER_WORDS)


if __name__ == "__main__":
    unittest.main()
