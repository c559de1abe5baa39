"""Whatever is typed at any argument or option of any command is answered, or refused in words."""

import unittest
from random import Random
from typing import Any

import click
from click.testing import CliRunner

from tests.cli.test_files import commands
from tests.live import Live
from wise_ledger.cli.main import root

ODD = (
    "", " ", "\x00", "🦜", "\ud800", "a\nb", "'\"", "%", "@", "[]", "{}", "=1+1", "٣", "x" * 5000,
    "-1", "0", "nan", "1e400", "9" * 20, "null", "True", "2024-13-01", "2024-02-30", "03/04/2024",
    "0001-01-01", "1969-12-31", "9999-12-31", "2024-06-30T25:00:00Z", "2024W54", "FY2023",
    "AGK@ZALD", "isin:", "co-000000", "revenue", "../../etc/passwd",
)  # fmt: skip
# What the other arguments are, so that the odd one is come to.
PLAIN = {
    "company": "AGK@ZALD", "companies": "AGK@ZALD", "terms": "AGK@ZALD", "expression": "revenue",
    "measures": "revenue", "rule": "revenue > 0", "key": "OUTPUT/Q.XA", "keys": "OUTPUT/Q.XA",
    "list_": "first-look", "mic": "ZALD", "source": "fernmark", "who": "ada", "item": "revenue",
    "known_on": "2024-06-30", "run": "1", "facts": "1",
}  # fmt: skip
LONG = {"collect", "verify"}  # tried by tests of their own; each call of them is minutes of work
SERIES = b"series,period,value,released_at\nOUTPUT/Q.XA,2020Q1,1,2020-05-01\n"


def plain(parameter: click.Parameter) -> str:
    if isinstance(parameter.type, click.Choice):
        return str(parameter.type.choices[0])
    return PLAIN.get(parameter.name or "", "1" if "int" in parameter.type.name else "x")


def typed(
    words: tuple[str, ...], command: click.Command, at: click.Parameter, odd: str
) -> list[str]:
    """The command with one odd word, and whatever else it must have."""
    out = [*words]
    for parameter in command.params:
        given = odd if parameter is at else plain(parameter)
        if parameter is at or parameter.required:
            out += [given] if isinstance(parameter, click.Argument) else [parameter.opts[0], given]
    return out


class Typed(Live):
    def test_any_word_anywhere_is_answered_or_refused_in_words(self) -> None:
        self.ledger.load("series", SERIES)
        random, tried = Random(20261127), 0
        known = {"WISE_LEDGER_URL": self.live.url, "WISE_LEDGER_TOKEN": self.live.token}
        for words, command in commands(root):
            if words[0] in LONG or isinstance(command, click.Group):
                continue
            for parameter in command.params:
                takes: Any = parameter.type
                if getattr(parameter, "is_flag", False) or isinstance(takes, click.Choice):
                    continue
                for odd in random.sample(ODD, 2):
                    arguments = typed(words, command, parameter, odd)
                    with CliRunner(env=known).isolated_filesystem():  # for files called so
                        ended = CliRunner(env=known).invoke(root, arguments)
                    tried += 1
                    with self.subTest(" ".join(words), at=parameter.name, odd=odd[:40]):
                        if ended.exception is not None:
                            self.assertIsInstance(ended.exception, SystemExit, arguments)
                        self.assertIn(ended.exit_code, (0, 1, 2, 3))
                        self.assertTrue(ended.exit_code == 0 or ended.output.strip(), arguments)
                        self.assertNotIn("error of its own", ended.output, arguments)
        self.assertGreater(tried, 500)


if __name__ == "__main__":
    unittest.main()
