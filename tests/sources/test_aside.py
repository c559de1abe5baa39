"""Documents read in a process of their own say what they say when read here,
whatever becomes of the process.
"""

import tempfile
import unittest
from contextlib import ExitStack, closing
from datetime import UTC, datetime
from pathlib import Path
from unittest import mock

from tests.live import WORLD, LiveSource, until
from wise_ledger.sources import aside
from wise_ledger.sources.aside import Aside
from wise_ledger.sources.errors import SourceError
from wise_ledger.sources.fernmark import Fernmark
from wise_ledger.sources.mapping import shipped
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import Asked
from wise_ledger.work.collect import Collection

NOW = datetime(2024, 2, 1, 12, tzinfo=UTC)
FILINGS = [(f.id, f.body, 12, None) for filings in WORLD.filings.values() for f in filings]


class ReadAside(unittest.TestCase):
    def setUp(self) -> None:
        self.source = Fernmark("http://nowhere.example", "", 1.0)
        self.aside = Aside(Fernmark.reading, shipped("fernmark"))
        self.addCleanup(self.aside.close)
        until(self.aside._line.poll)

    def test_it_is_what_is_read_here_and_what_is_wrong_is_shown_as_here(self) -> None:
        here = [self.source.read(*filing) for filing in FILINGS]
        with mock.patch.object(self.aside, "_reading", None):  # nothing is read here
            there, beforehand = self.aside.read(FILINGS)
        self.assertEqual(len(beforehand.document), sum(len(r.facts) for r in here))
        self.assertEqual([r.document for r in there], [r.document for r in here])
        self.assertEqual(
            [(list(r.facts), r.unmapped) for r in there],
            [(list(r.facts), r.unmapped) for r in here],
        )
        for bad in (
            b"",
            b"{}",
            b'{"figures": NaN}',
            b"[" * 100_000,
            FILINGS[0][1].replace(b'"amount": ', b'"amount": "x'),
        ):
            reported = []
            for read in (self.source.read, lambda *filing: self.aside.read([FILINGS[0], filing])):
                with self.assertRaises(SourceError) as caught:
                    read("a filing", bad, 12, None)
                reported.append((type(caught.exception), caught.exception.problems))
            self.assertEqual(*reported)
        self.assertEqual(len(self.aside.read(FILINGS[:3])[0]), 3)

    def test_should_the_process_end_documents_are_read_here(self) -> None:
        with self.assertLogs(aside.log, "WARNING") as logged:
            self.aside.process.kill()
            self.aside.process.wait()
            for _ in range(3):
                self.assertEqual(len(self.aside.read(FILINGS[:3])[0]), 3)
        self.assertEqual(len(logged.output), 1)

    def test_a_ledger_is_the_same_wherever_its_documents_were_read(self) -> None:
        hashes, there = [], mock.Mock(wraps=self.aside.read)
        for worth in (10**9, 1):
            with (
                ExitStack() as stack,
                tempfile.TemporaryDirectory() as folder,
                mock.patch.object(aside, "WORTH_A_PROCESS", worth),
                mock.patch.object(aside, "Aside", return_value=mock.Mock(read=there)),
                closing(Ledger(Path(folder) / "ledger.sqlite", lambda: NOW)) as ledger,
            ):
                source = LiveSource(stack).adapter()
                self.assertFalse(there.called)
                Collection(ledger, source, Asked("fernmark"), lambda *_: None).run(set())
                source.close()
                hashes.append(ledger.verify().hash)
        self.assertEqual(*hashes)
        self.assertGreater(there.call_count, 20)
