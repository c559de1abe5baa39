"""Files that commands write and read: whole or not at all, and never a traceback (4-interface)."""

import bz2
import gzip
import lzma
import re
import stat
import tempfile
import unittest
from collections.abc import Iterator
from pathlib import Path
from unittest import mock

import click
from click.testing import CliRunner

from tests.live import RULE, Live
from wise_ledger.cli.files import NamedPath, OutputFile, write_file
from wise_ledger.cli.load import KINDS
from wise_ledger.cli.main import root
from wise_ledger.client import InputRefused

WRITES = {"output", "plot", "rejects"}  # the options that name a file to be written


def commands(
    group: click.Group, words: tuple[str, ...] = ()
) -> Iterator[tuple[tuple[str, ...], click.Command]]:
    """Every command with the words that call it."""
    for name in group.list_commands(click.Context(group)):
        command = group.get_command(click.Context(group), name)
        assert command is not None
        if isinstance(command, click.Group):
            yield from commands(command, (*words, name))
        yield (*words, name), command


class Written(unittest.TestCase):
    def test_no_command_asks_anything_before_its_file_can_be_written(self) -> None:
        found = 0
        for words, command in commands(root):
            for option in command.params:
                if option.name not in WRITES or not isinstance(option, click.Option):
                    continue
                with self.subTest(" ".join(words), option=option.name):
                    self.assertIsInstance(option.type, OutputFile)
                    # Whatever else it takes: a file that cannot be is named first.
                    given = [
                        "x" for p in command.params if isinstance(p, click.Argument) and p.required
                    ]
                    ended = CliRunner().invoke(
                        root, [*words, *given, option.opts[0], "/no-such-folder/x.csv"]
                    )
                    self.assertEqual(ended.exit_code, 2, ended.output)
                    if option.name == "plot":
                        ended = CliRunner().invoke(
                            root, [*words, *given, option.opts[0], "/tmp/it.pdf"]
                        )
                        self.assertIn("neither .png nor .svg", ended.output)
                    found += 1
        self.assertGreater(found, 40)

    def test_a_folder_may_be_called_by_its_dot_and_no_file_is_called_nothing(self) -> None:
        for name in (".", "..", "/"):
            self.assertEqual(NamedPath().convert(name, None, None), Path(name))
        for kind in (NamedPath(), OutputFile()):
            for name in ("x" * 300, "a\x00b", "\ud800"):
                with self.subTest(type(kind).__name__, name=name[:9]):
                    self.assertRaises(click.BadParameter, kind.convert, name, None, None)
        for name in ("", ".", "x" * 253):  # of the last there is no room for what stands beside it
            self.assertRaises(click.BadParameter, OutputFile().convert, name, None, None)

    def test_a_file_is_written_whole_or_what_was_there_stays(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path, link = Path(folder) / "it.csv", Path(folder) / "link.csv"
            path.write_text("before")
            link.symlink_to(path)
            with (
                mock.patch.object(
                    Path, "replace", side_effect=OSError(28, "No space left on device")
                ),
                self.assertRaisesRegex(
                    click.ClickException, "it.csv cannot be written: No space left"
                ),
            ):
                write_file(path, "after")
            self.assertEqual([*Path(folder).iterdir()].count(path), 1)
            self.assertEqual((path.read_text(), len([*Path(folder).iterdir()])), ("before", 2))
            write_file(link, "after")
            self.assertEqual((path.read_text(), link.is_symlink()), ("after", True))


class Piped(Live):
    def test_what_comes_through_a_pipe_is_loaded_as_a_file_is(self) -> None:
        known = {"WISE_LEDGER_URL": self.live.url, "WISE_LEDGER_TOKEN": self.live.token}
        runner = CliRunner(env=known)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "it.csv")
            for kind in KINDS:
                shown = runner.invoke(root, ["load", kind, "--template"])
                if kind == "pages":
                    self.assertEqual(shown.exit_code, 2)
                    continue
                self.assertEqual(shown.exit_code, 0, shown.output)
                runner.invoke(root, ["load", kind, str(path), "--template"])
                self.assertEqual(path.read_bytes(), shown.stdout_bytes)
                said = []
                for file in ("-", str(path)):
                    ended = runner.invoke(root, ["load", kind, file], input=shown.stdout_bytes)
                    words = re.sub("batch [0-9]+(, 1 new)?|nothing new", "", ended.output)
                    said.append((ended.exit_code, words.replace(file + ",", "it")))
                path.unlink()
                with self.subTest(kind):
                    self.assertEqual(said[0], said[1])
                    self.assertIn(said[0][0], (0, 1))

    def test_a_file_that_is_no_table_is_named_for_what_it_is(self) -> None:
        rows = b"base,quote,date,rate\nEUR,USD,2024-03-28,1.0811\n"
        for content, word in (
            (gzip.compress(rows), "unpack"), (bz2.compress(rows), "unpack"),
            (lzma.compress(rows), "unpack"), (b"%PDF-1.7\n%\xe2\xe3", "PDF"),
            (bytes.fromhex("d0cf11e0a1b11ae1") + bytes(600), "XLSX"),
        ):  # fmt: skip
            for refuses in (
                lambda c=content: self.ledger.load("rates", c),
                lambda c=content: self.ledger.load("members", c),
                lambda c=content: self.ledger.read_terms(c),
            ):
                with self.subTest(word), self.assertRaisesRegex(InputRefused, word):
                    refuses()


class Told(Live):
    def test_a_file_that_cannot_be_written_or_read_is_refused_with_the_mend(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            odd = Path(folder) / "odd.csv"
            odd.write_bytes(b"company,name\n\xff\xfe,x\n")
            screen = ("screen", RULE, "--list", "first-look", "--format", "csv", "--output")
            for command, status, words in (
                ((*screen, f"{folder}/none/x.csv"), 2, "make it, or name another file"),
                ((*screen, folder), 2, "is a directory"),
                ((*screen, "/dev/full"), 1, "cannot be written: No space left on device"),
                (("documents", "0" * 64, "--output", f"{folder}/none/x"), 2, "there is no folder"),
                (
                    ("load", "facts", str(odd), "--mapping", str(odd)),
                    1,
                    "is no text in UTF-8 (byte 13): save it",
                ),
            ):
                with self.subTest(command):
                    ended = self.live.command(*command)
                    self.assertEqual(ended.returncode, status, ended.stderr)
                    self.assertIn(words, " ".join(ended.stderr.split()))
                    self.assertNotIn("Traceback", ended.stderr)
            # written to, not replaced
            self.assertTrue(stat.S_ISCHR(Path("/dev/full").stat().st_mode))
