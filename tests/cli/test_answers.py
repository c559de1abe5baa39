"""Whatever the service may answer, each command shows it, as a table and in any form (4-interface):
names with brackets, amounts without a currency, figures that are missing.
"""

import re
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import click
from click.testing import CliRunner, Result
from hypothesis import given, note
from hypothesis import strategies as st

from tests.answers import PLURALS, Answering, Operation, Refused, operations, single, varied
from tests.cli.test_files import commands
from tests.cli.test_forms import ASKED
from tests.cli.test_odd import plain
from tests.properties import examples
from wise_ledger import client
from wise_ledger.cli.ink import BOLD, DIM, END, inked
from wise_ledger.cli.main import root

# `sources map` waits for a run of another kind than the one that is the example.
ALL = [
    (words, command)
    for words, command in commands(root)
    if words != ("sources", "map")
    and (not isinstance(command, click.Group) or command.invoke_without_command)
]
# What is a machine's, or was meant for the library that draws.
ODD = re.compile(r".{0,40}(?:\bNone\b|\bnan\b|Traceback|[\ue000-\ue006]|\x1b).{0,40}")


def least(words: tuple[str, ...], command: click.Command) -> list[str]:
    """A command with the least that it must have, and the plainest question."""
    name, out = " ".join(words), [*words]
    if name in ASKED:
        return out + ASKED[name].split()
    for p in command.params:
        if p.required:
            out += [plain(p)] if isinstance(p, click.Argument) else [p.opts[0], plain(p)]
    return out


def run(arguments: list[str], transport: Answering) -> Result:
    """The command before a service that answers so."""
    ledger = client.connect("http://ledger.example", "a-token", transport=transport)
    with mock.patch("wise_ledger.client.connect", lambda **_: ledger):
        return CliRunner().invoke(root, arguments)


class Shown(unittest.TestCase):
    def test_each_command_shows_the_examples_and_most_calls_are_made(self) -> None:
        reached = set[str]()
        for words, command in ALL:
            with self.subTest(" ".join(words)):
                asked = Answering(lambda operation: operation.example)
                ended = run(least(words, command), asked)
                self.assertIn(ended.exit_code, (0, 2, 3), ended.output)
                self.assertTrue(ended.output.strip())
                reached |= asked.asked
        self.assertGreater(len(reached), 0.7 * len(operations()))

    @examples(250)
    @given(st.sampled_from(ALL), st.sampled_from(["table", "table", "csv", "json"]), st.data())
    def test_whatever_comes_is_shown(
        self, asked: tuple[tuple[str, ...], click.Command], form: str, data: st.DataObject
    ) -> None:
        words, command = asked
        arguments = least(words, command)
        drawn = any(p.name == "format_" for p in command.params)

        def answer(operation: Operation) -> Any:
            found = data.draw(varied(operation.schema, operation.example))
            if re.search("/(runs|extracts)/", operation.path) and isinstance(found, dict):
                kept = {k: operation.example[k] for k in ("state", "kind") if k in found}
                return found | kept  # work that went on would be waited for
            return found

        ended = run(arguments + ["--format", form] * drawn, Answering(answer))
        note(f"{arguments}: {ended.output[:2000]}")
        if ended.exception is not None and not isinstance(ended.exception, SystemExit):
            raise ended.exception
        self.assertIn(ended.exit_code, (0, 1, 2, 3))
        if form == "table":
            self.assertEqual(ODD.findall(ended.output), [])

    def test_one_is_said_where_there_is_one(self) -> None:
        for words, command in ALL:
            with self.subTest(" ".join(words)):
                drawn = any(p.name == "format_" for p in command.params)
                arguments = least(words, command) + ["--format", "table"] * drawn
                ended = run(arguments, Answering(lambda o: single(o.example)))
                self.assertEqual(PLURALS.findall(ended.output), [])

    def test_whatever_is_wrong_is_said_and_ends_with_its_status(self) -> None:
        odd = "[/] [bold]x \x1b[31m \x9b1m Tarrow [in liquidation]"
        wrong = {
            "at": "line 1, column 3",
            "value": odd,
            "problem": odd,
            "mend": odd,
            "line": f"a {odd}",
        }
        for status, exits in ((401, 1), (404, 2), (422, 2), (500, 1), (503, 1)):
            problem = {"type": "/problems/x", "title": odd, "status": status, "detail": odd}
            body = {**problem, "errors": [wrong] if status == 422 else []}
            for words, command in ALL:
                with self.subTest(" ".join(words), status=status):
                    ended = run(least(words, command), Answering(lambda _, b=body: Refused(b)))
                    if ended.exit_code != 2:  # what is refused before anything is asked
                        self.assertEqual(ended.exit_code, exits, ended.output)
                        self.assertIn("[bold]x", ended.output)
                    self.assertIsInstance(ended.exception, SystemExit)
                    self.assertEqual(ODD.findall(ended.output), [])

    @examples(12)
    @given(
        st.sampled_from([a for a in ALL if any(p.name == "plot" for p in a[1].params)]), st.data()
    )
    def test_whatever_comes_is_drawn(
        self, asked: tuple[tuple[str, ...], click.Command], data: st.DataObject
    ) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "it.svg")
            arguments = [*least(*asked), "--plot", str(path)]
            ended = run(arguments, Answering(lambda o: data.draw(varied(o.schema, o.example))))
            note(f"{arguments}: {ended.output[:2000]}")
            if isinstance(ended.exception, SystemExit):
                self.assertIn("there is nothing to plot", ended.output)
                return
            self.assertIsNone(ended.exception)
            self.assertIn("<svg", path.read_text("utf-8"))


class Inked(unittest.TestCase):
    def test_brackets_are_brackets_and_controls_move_nothing(self) -> None:
        name = "Tarrow [in liquidation] [/] [bold]plc"
        text = inked(f"{BOLD}{name} {DIM}[x]{END}!{END} \x1b[31m\x9b1m\tend")
        self.assertEqual(text.plain, f"{name} [x]! \ufffd[31m\ufffd1m\tend")
        self.assertEqual([str(s.style) for s in text.spans], ["bold", "bold dim", "bold"])


if __name__ == "__main__":
    unittest.main()
