"""The command line as people run it: exit status, pipes, formats,
errors with the mend (4-interface).
"""

import csv
import json
import os
import re
import subprocess
import sys
import tempfile
from contextlib import ExitStack
from pathlib import Path

import pandas as pd

from tests.live import RULE, Live, LiveLedger, run_command, worked
from tests.terminal import on_a_terminal

SCREEN = ("screen", RULE, "--list", "first-look", "--known-on")


def shown_by(live: LiveLedger, *arguments: str, columns: int = 120) -> str:
    """What a command shows on a terminal of so many columns, without colours and faces."""
    environment = {"WISE_LEDGER_URL": live.url, "WISE_LEDGER_TOKEN": live.token, "TERM": "xterm"}
    return re.sub(r"\x1b\[[0-9;]*m", "", on_a_terminal(list(arguments), environment, columns))


class Commands(Live):
    def test_a_terminal_gets_a_table_that_fits(self) -> None:
        for columns in (120, 80):
            shown = shown_by(self.live, *SCREEN, "2024-01-31", columns=columns)
            self.assertLessEqual(max(len(line) for line in shown.splitlines()), columns)
            line = next(line for line in shown.splitlines() if "AGK@ZALD" in line)
            self.assertRegex(line, r"fail +Ashgrove.* AGK@ZALD .*12\.4 +FY2023Q3 +restated")
            self.assertIn("n/a bank", shown)
            self.assertIn("11 pass, 10 fail, 3 unknown", shown)
            self.assertIn("operating_income", shown)

    def test_a_figure_says_its_currency_where_its_row_has_several_m2(self) -> None:
        asked = (
            "screen",
            "revenue > 1mn EUR",
            "--company",
            "ISK@ZCAL",
            "--show",
            "total_assets",
            "--known-on",
        )
        members = ("lists", "members", "first-look", "--show", "revenue", "--known-on")
        line = next(
            x
            for x in shown_by(self.live, *asked, "2024-01-31", columns=160).splitlines()
            if "ISK@ZCAL" in x
        )
        self.assertRegex(line, r"EUR [\d,.]+ +JPY [\d,.]+ +several")
        line = next(
            x
            for x in shown_by(self.live, *members, "2024-01-31", columns=160).splitlines()
            if "ISK@ZCAL" in x
        )
        self.assertRegex(line, r" [\d,.]+ +JPY *$")

    def test_explain_shows_inputs_facts_and_versions(self) -> None:
        shown = shown_by(
            self.live,
            "explain",
            "AGK@ZALD",
            "operating_income / revenue",
            "--known-on",
            "2024-01-31",
        )
        for words in (
            "0.124",
            "FY2023Q3",
            "four quarters",
            "Restated accounts 2022 and 2023",
            "counts",
            "2023-11-10",
        ):
            self.assertIn(words, shown)
        missing = shown_by(
            self.live, "explain", "DMB@ZALD", "operating_income", "--known-on", "2024-01-31"
        )
        self.assertIn("n/a", missing)

    def test_formats_say_the_same(self) -> None:
        whole = json.loads(self.live.command(*SCREEN, "2023-06-30", "--format", "json").stdout)
        self.assertEqual(whole["counts"], {"passed": 12, "failed": 9, "unknown": 2})
        names = [c["name"] for c in whole["companies"]]
        plain = self.live.command(*SCREEN, "2023-06-30", "--format", "csv").stdout
        self.assertEqual([r["name"] for r in csv.DictReader(plain.splitlines())], names)
        with tempfile.TemporaryDirectory() as folder:
            for kind, read in (
                ("parquet", pd.read_parquet),
                ("xlsx", pd.read_excel),
                ("csv", pd.read_csv),
            ):
                path = Path(folder) / f"screen.{kind}"
                # The ending says the format.
                ended = self.live.command(*SCREEN, "2023-06-30", "--output", str(path))
                self.assertEqual((ended.returncode, ended.stdout), (0, ""), ended.stderr)
                self.assertEqual(read(path)["name"].tolist(), names)
            drawn = Path(folder) / "screen.txt"
            self.live.command(*SCREEN, "2023-06-30", "--format", "table", "--output", str(drawn))
            piped = self.live.command(*SCREEN, "2023-06-30", "--format", "table").stdout
            self.assertEqual(drawn.read_text(), piped)
            self.assertIn("12 pass, 9 fail, 2 unknown", piped)
            plain = self.live.command(*SCREEN, "2023-06-30").stdout.splitlines()
            name = plain[0].split("\t").index("name")
            self.assertEqual([line.split("\t")[name] for line in plain[1:]], names)

    def test_an_answer_without_a_row_keeps_the_heads_of_one_with_rows(self) -> None:
        with ExitStack() as stack:
            empty = LiveLedger(stack, self.source)  # nothing is collected
            for command in (
                ("batches",),
                ("catalogue", "search", "zzzz"),
                ("companies", "search", "zz"),
                ("listings",),
                ("lists",),
                ("venues", "--known-on", "2024-01-31"),
                ("securities",),
                ("quality",),
                ("runs",),
                ("restatements",),
                ("schedules",),
                ("sources", "tags", "fernmark", "--unmapped"),
            ):
                with self.subTest(command):
                    (heads,) = empty.command(*command, "--format", "csv").stdout.splitlines()
                    filled = self.live.command(*command, "--format", "csv").stdout.splitlines()
                    self.assertEqual(heads, filled[0])
        nobody, someone = (
            self.live.command(*SCREEN, on, "--format", "csv").stdout.splitlines()
            for on in ("1999-12-31", "2023-06-30")
        )
        self.assertEqual(nobody, someone[:1])

    def test_wrong_usage_ends_with_2_and_says_the_mend(self) -> None:
        wrong = {
            (*SCREEN, "03/04/2024"): "write 2024-04-03 or 2024-03-04",
            (
                *SCREEN[:2],
                "--list",
                "first-lok",
                "--known-on",
                "2023-06-30",
            ): "did you mean first-look?",
            (
                "screen",
                "operating_incom / revenue > 15%",
                *SCREEN[2:],
                "2023-06-30",
            ): "did you mean operating_income",
            (
                "screen",
                "medan(revenue) > 1",
                *SCREEN[2:],
                "2023-06-30",
            ): "there is no function medan",
            ("explain", "AGK@ZALB", "revenue", "--known-on", "2023-06-30"): "AGK@ZALD",
            (*SCREEN, "2023-06-30", "--format", "parquet"): "--output",
            ("scren", "x"): "did you mean screen?",
            ("collect", "fernmrk"): "did you mean fernmark?",
            SCREEN: "requires an argument",
        }
        for arguments, mend in wrong.items():
            ended = self.live.command(*arguments)
            self.assertEqual((ended.returncode, ended.stdout), (2, ""), (arguments, ended.stderr))
            self.assertIn(mend, ended.stderr)

    def test_a_service_that_is_not_there_or_refuses_ends_with_1(self) -> None:
        gone = self.live.command("lists", url="http://127.0.0.1:9")
        self.assertEqual(gone.returncode, 1)
        self.assertIn("wise-ledger serve", gone.stderr)
        stranger = run_command(
            "lists",
            environment={**os.environ, "WISE_LEDGER_URL": self.live.url, "WISE_LEDGER_TOKEN": "no"},
        )
        self.assertEqual(stranger.returncode, 1)
        self.assertIn("token", stranger.stderr)

    def test_a_wrong_rule_is_drawn_with_its_place(self) -> None:
        ended = self.live.command("screen", "net_income / revenue > 5 %")
        self.assertEqual(ended.returncode, 2)
        lines = ended.stderr.splitlines()
        place = lines.index("  net_income / revenue > 5 %")
        self.assertEqual(lines[place + 1], " " * 25 + "^^^")
        self.assertEqual(lines[place + 3].strip(), "write 5%")

    def test_a_csv_file_has_its_schema_and_how_it_was_asked_beside_it(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "screen.csv"
            ended = self.live.command(
                "screen", RULE, "--known-on", "2023-06-30", "--output", str(path)
            )
            schema = json.loads(path.with_suffix(".schema.json").read_text("utf-8"))
            self.assertIn("screen.schema.json", ended.stderr)
        self.assertEqual(schema["context"]["rule"], RULE)
        heads = [field["name"] for field in schema["fields"]]
        self.assertEqual(heads[:4], ["list", "known_on", "batch", "company"])

    def test_the_shell_completes_names_that_the_service_has(self) -> None:
        about = {
            **os.environ,
            "WISE_LEDGER_URL": self.live.url,
            "WISE_LEDGER_TOKEN": self.live.token,
        }
        for words, found in (
            ("screen active --list fi", "first-look"),
            ("catalogue show total_a", "total_assets"),
            ("explain AG", "AGK@ZALD"),
            ("lists members nobo", ""),
        ):
            typed = f"wise-ledger {words}"
            asked = {"COMP_WORDS": typed, "COMP_CWORD": str(len(typed.split()) - 1)}
            ended = run_command(
                environment={**about, **asked, "_WISE_LEDGER_COMPLETE": "bash_complete"}
            )
            self.assertEqual(
                ended.stdout.split(), [f"plain,{found}"] if found else [], ended.stderr
            )

    def test_what_the_ledger_holds(self) -> None:
        self.assertIn("first-look\tFirst look\t24", self.live.command("lists").stdout)
        self.assertIn("operating_income\t", self.live.command("catalogue").stdout)
        self.assertIn("fernmark\tFernmark Data", self.live.command("sources").stdout)
        self.assertEqual(len(self.live.command("batches", "--last", "3").stdout.splitlines()), 4)
        self.assertRegex(
            self.live.command("verify").stdout, r"the chain holds: 25 batches, 5,248 facts"
        )
        address = (
            self.ledger.explain("AGK@ZALD", "revenue", "2023-06-30")
            .answer.inputs[0]
            .facts[0]
            .document.sha256
        )
        self.assertEqual(
            json.loads(self.live.command("documents", address[:12]).stdout)["company"], "FM-0001"
        )
        for noun in ("lists", "catalogue", "batches"):
            self.assertGreater(len(shown_by(self.live, noun).splitlines()), 3, noun)

    def test_help_is_there_for_every_command_and_at_once(self) -> None:
        run_command("--help")
        began = worked()
        ended = run_command("--help")
        # Half of the time is the interpreter's own start; the bound of 0.3 s is
        # given room for a slow machine.
        self.assertLess(worked() - began, 0.6)
        nouns = [
            line.split()[0]
            for line in ended.stdout.partition("Commands:")[2].splitlines()
            if line.strip()
        ]
        self.assertIn("demo", nouns)
        for noun in nouns:
            self.assertIn("Usage: wise-ledger " + noun, run_command(noun, "--help").stdout)

    def test_help_imports_nothing_heavy(self) -> None:
        code = "import sys; sys.argv = ['x', '--help']\nfrom wise_ledger.launch.main import main\n"
        code += "try: main()\nexcept SystemExit: pass\n"
        code += "heavy = {'pandas', 'numpy', 'httpx', 'sqlalchemy', 'fastapi', 'rich'} & set(sys.modules)\n"
        code += "assert not heavy, heavy"
        ended = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=False
        )
        self.assertEqual(ended.returncode, 0, ended.stderr)


class Partly(Live):
    def test_a_collection_that_failed_for_some_ends_with_3_and_names_them(self) -> None:
        self.source.fault("down", "/v1/companies/FM-0007")
        self.addCleanup(self.source.fault, None)
        ended = self.live.command(
            "collect", "fernmark", "--list", "first-look", "--since", "2012-01-01"
        )
        self.assertEqual(ended.returncode, 3)
        self.assertIn("23 companies collected (23 unchanged), 1 failed", ended.stdout)
        self.assertIn("Vennet Harbour Lines: the source answers with an error: 503", ended.stderr)
        self.source.fault(None)
        ended = self.live.command("collect", "fernmark", "--failed-only")
        self.assertEqual(
            (ended.returncode, "1 company collected" in ended.stdout), (0, True), ended
        )
        self.source.fault("refused")
        ended = self.live.command("collect", "fernmark", "--yes")
        self.assertEqual(ended.returncode, 1)
        self.assertIn("check the key", ended.stderr)
