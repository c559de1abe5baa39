"""Reading documents in a process of its own: while one company is stored,
what came of the next ones is read.

Python works on one thing at a time within a process. Where a source has thousands of documents for
us, reading them takes as long as a quarter of all else; it needs nothing of the ledger, and can be
done beside it.
"""

import gc
import logging
import os
import signal
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import replace
from multiprocessing.connection import Connection, Pipe
from typing import ClassVar

from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.quality.beforehand import Beforehand, examine_beforehand
from wise_ledger.core.records.figures import Figures
from wise_ledger.sources.mapping import TagMapping
from wise_ledger.sources.protocol import FilingRecord, FilingsFound

log = logging.getLogger(__name__)
WORTH_A_PROCESS = 1_500  # documents; fewer are read before the process is there
# its key and bytes; the company's year end and template
Document = tuple[str, bytes, int, str | None]
# what is in each, and what checks found in all of them, where they were checked
Read = tuple[list[FilingRecord], Beforehand | None]
# a function of a module, by its name
Reading = Callable[[TagMapping, str, bytes, int, str | None], FilingRecord]


class Aside:
    """A process that reads the documents of one source by one mapping; safe for many threads.

    Until it is there, and should it end, they are read here. So is what it stumbles over: the error
    is raised here.
    """

    def __init__(self, reading: Reading, mapping: TagMapping) -> None:
        self._reading = reading
        self._mapping = mapping
        self._turn = threading.Lock()
        self._ready = False
        self._line, other = Pipe()
        command = [sys.executable, "-m", "wise_ledger.sources.aside", str(other.fileno())]
        nowhere = subprocess.DEVNULL
        self.process = subprocess.Popen(
            command, pass_fds=[other.fileno()], stdin=nowhere, stdout=nowhere
        )
        other.close()
        self._line.send((reading, mapping))

    def read(self, documents: Sequence[Document]) -> Read:
        """What the documents say, in their order; raises what reading them raises."""
        return self._aside(documents) or (
            [self._reading(self._mapping, *document) for document in documents],
            None,
        )

    def _aside(self, documents: Sequence[Document]) -> Read | None:
        with self._turn:
            if self._line.closed:
                return None
            try:
                self._ready = self._ready or (self._line.poll() and self._line.recv())
                if not self._ready:
                    return None
                self._line.send(documents)
                found: Read | None = self._line.recv()
                return found
            except (EOFError, OSError):
                log.warning("the process that read documents has ended: they are read here")
                self._line.close()
                return None

    def close(self) -> None:
        """Let it end."""
        self._line.close()
        self.process.wait()


class ReadsAside:
    """An adapter whose documents can be read anywhere: `reading` needs nothing but the mapping."""

    reading: ClassVar[Reading]
    mapping: TagMapping
    aside: Aside | None = None

    def read(self, key: str, raw: bytes, year_end: int, template: str | None) -> FilingRecord:
        """A document's raw bytes, read by the mapping of now."""
        return type(self).reading(self.mapping, key, raw, year_end, template)

    def found(self, documents: Sequence[Document], mark: str | None) -> FilingsFound:
        """All that is new of one company, read and checked aside where there is somebody to do it."""
        if self.aside is None or not documents:
            return FilingsFound([self.read(*document) for document in documents], mark)
        records, beforehand = self.aside.read(documents)
        return FilingsFound(records, mark, beforehand)


@contextmanager
def reading_aside(source: object, documents: int) -> Iterator[None]:
    """Have a source read aside for as long as the block lasts,
    where it can and so many documents are worth it.
    """
    if documents >= WORTH_A_PROCESS and isinstance(source, ReadsAside) and _several_processors():
        try:
            source.aside = Aside(type(source).reading, source.mapping)
        except OSError:
            log.warning("there is no room for a process that reads documents: they are read here")
    try:
        yield
    finally:
        if isinstance(source, ReadsAside) and source.aside is not None:
            source.aside.close()
            source.aside = None


def _several_processors() -> bool:
    return len(os.sched_getaffinity(0)) > 1 if hasattr(os, "sched_getaffinity") else True


def _together(records: Sequence[FilingRecord], templates: set[str | None]) -> Read:
    """The documents of a company with their figures in one piece, hashed and checked."""
    figures = [record.facts for record in records]
    parts = Figures.joined(figures).parts(map(len, figures))
    for record in records:
        _ = record.document.sha256  # kept with it
    before = examine_beforehand(ITEMS, parts, *templates) if len(templates) == 1 else None
    return [replace(r, facts=part) for r, part in zip(records, parts, strict=True)], before


def main() -> None:
    """Read what comes over the line until it is cut."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # meant for who started us, who then cuts the line
    gc.disable()  # what is read points in no circles
    line = Connection(int(sys.argv[1]))
    try:
        reading, mapping = line.recv()
        line.send(True)
        while True:
            documents = line.recv()
            found: Read | None = None
            with suppress(Exception):
                records = [reading(mapping, *document) for document in documents]
                found = _together(records, {template for *_, template in documents})
            line.send(found)
    except (EOFError, OSError):
        return


if __name__ == "__main__":
    main()
