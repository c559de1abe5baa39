"""What the documents say can be typed, can be: commands, calls in Python, links."""

import ast
import inspect
import re
import shlex
import unittest
from collections.abc import Iterator
from itertools import takewhile
from pathlib import Path
from unittest import mock

import click
from click.testing import CliRunner

from wise_ledger.cli.main import root
from wise_ledger.client import Ledger

ROOT = Path(__file__).parents[1]
DOCUMENTS = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").glob("*.md"))]
_BLOCK = re.compile(r"^```(\w*)\n(.*?)^```", re.S | re.M)
_SPAN = re.compile(r"`(wise-ledger [^`\n]+)`")
_LINK = re.compile(r"\]\(([^)#\s]+)")


def commands(text: str) -> Iterator[str]:
    """Every command line of ours in a text: in blocks, continued lines joined, and in its lines."""
    for language, block in _BLOCK.findall(text):
        if language != "python":
            joined = block.replace("\\\n", " ")
            found = (
                re.search(r"(?:^|[|;$] ?|/)(wise-ledger .*)", line) for line in joined.split("\n")
            )
            yield from (match[1] for match in found if match)
    yield from _SPAN.findall(_BLOCK.sub("", text))


def helped(command: click.Command, path: str = "") -> Iterator[tuple[str, click.Command]]:
    """Each command by its words."""
    yield path, command
    if isinstance(command, click.Group):
        for name in command.list_commands(click.Context(command)):
            below = command.get_command(click.Context(command), name)
            assert below is not None
            yield from helped(below, f"{path} {name}".strip())


def parse(line: str) -> None:
    """Read a command line as the program does, without doing anything; raises what is wrong."""
    words = [word.removesuffix(";") for word in shlex.split(line, comments=True)[1:]]
    words = list(takewhile(lambda word: word not in ("|", ">", "2>", "&&", "&"), words))
    command: click.Command = root
    context = click.Context(root)
    while isinstance(command, click.Group) and words and not words[0].startswith("-"):
        name, found, words = command.resolve_command(context, words)
        assert found is not None
        command, context = found, click.Context(found, context, name)
    context.allow_interspersed_args = command.allow_interspersed_args
    known = {o for p in command.get_params(context) for o in (*p.opts, *p.secondary_opts)}
    if "--help" in words or "-h" in words:
        return
    if isinstance(command, click.Group) and not command.invoke_without_command:
        assert not words, f"{line}: more than a group"
        return
    given = [w.partition("=")[0] for w in words if re.match(r"--[a-z]|-[a-z]$", w)]
    if strange := [w for w in given if w not in known]:
        raise click.NoSuchOption(strange[0])
    with context:
        command.parse_args(context, words)


class Documents(unittest.TestCase):
    def setUp(self) -> None:
        started = {n: (f"wise_ledger.launch.{n}", "") for n in ("serve", "demo", "backup")}
        nouns = mock.patch.object(root, "nouns", {**root.nouns, **started})  # type: ignore[attr-defined]
        nouns.start()
        self.addCleanup(nouns.stop)

    def test_every_command_that_is_shown_is_one(self) -> None:
        shown = [
            (path.name, line) for path in DOCUMENTS for line in commands(path.read_text("utf-8"))
        ]
        shown += [
            (f"help of {path}", line.strip())
            for path, command in helped(root)
            for line in (command.help or "").split("\n")
            if line.strip().startswith("wise-ledger ")
        ]
        self.assertGreater(len(shown), 130)
        for where, line in shown:
            with self.subTest(where, line=line):
                try:
                    parse(line)
                except click.MissingParameter:
                    pass  # a command that is only named
                except click.BadParameter as error:  # what stands for a word; a reader's own file
                    said = "'[A-Z]+' is not one of|does not exist"
                    self.assertRegex(error.format_message(), said)

    def test_a_slip_in_a_command_is_named_with_the_nearest(self) -> None:
        groups = [path for path, command in helped(root) if isinstance(command, click.Group)]
        self.assertGreater(len(groups), 14)
        for path in groups:
            with self.subTest(path):
                below = [
                    p.split()[-1] for p, _ in helped(root) if p and p.rpartition(" ")[0] == path
                ]
                ended = CliRunner().invoke(root, [*path.split(), f"{below[0]}x"])
                self.assertEqual(ended.exit_code, 2)
                self.assertIn(f"there is no command {below[0]}x: did you mean", ended.output)

    def test_every_call_of_the_client_that_is_shown_takes_what_it_is_given(self) -> None:
        checked = 0
        for path in DOCUMENTS:
            for language, block in _BLOCK.findall(path.read_text("utf-8")):
                if language != "python":
                    continue
                for call in ast.walk(ast.parse(block)):
                    if not (
                        isinstance(call, ast.Call)
                        and isinstance(call.func, ast.Attribute)
                        and isinstance(call.func.value, ast.Name)
                        and call.func.value.id == "ledger"
                    ):
                        continue
                    with self.subTest(path.name, call=ast.unparse(call)):
                        method = getattr(Ledger, call.func.attr)
                        named = {k.arg: None for k in call.keywords if k.arg}
                        inspect.signature(method).bind(None, *call.args, **named)
                        checked += 1
        self.assertGreater(checked, 8)

    def test_every_link_leads_somewhere(self) -> None:
        for path in DOCUMENTS:
            for link in _LINK.findall(path.read_text("utf-8")):
                if "://" not in link:
                    with self.subTest(path.name, link=link):
                        self.assertTrue((path.parent / link).exists())


if __name__ == "__main__":
    unittest.main()
