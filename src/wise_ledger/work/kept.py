"""What people keep under names (sheets of series, measures, questions): named,
described, versioned, archived.
"""

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from wise_ledger.core.errors import NotFound, Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records import kinds
from wise_ledger.core.records.recordkind import RecordKind
from wise_ledger.core.records.records import KeptRecord
from wise_ledger.core.time.instants import as_instant
from wise_ledger.store import keptreading
from wise_ledger.store.ledger import Ledger


@dataclass(frozen=True)
class Kept:
    """A version of something kept: what it is called, what it holds,
    who kept it and in which batch.
    """

    name: str
    title: str
    description: str
    content: Mapping[str, Any]
    version: int
    who: str
    kept_at: datetime
    batch: int
    archived: bool


@dataclass(frozen=True)
class Shelf:
    """Everything kept of one kind; `noun` is what people call one of them."""

    kind: RecordKind
    noun: str

    def all(
        self, ledger: Ledger, *, archived: bool = False, batch: int | None = None
    ) -> list[Kept]:
        """The newest version of each, by name; as of a batch if one is given (T7)."""
        newest = {version.name: version for version in self._versions(ledger, batch)}
        return [k for _, k in sorted(newest.items()) if archived or not k.archived]

    def find(
        self, ledger: Ledger, name: str, version: int | None = None, batch: int | None = None
    ) -> Kept:
        """One of a name, its newest version without one: as recorded by a batch if one is given,
        so that it stays the same (T7). Raises `NotFound`.
        """
        versions = self.versions(ledger, name)
        if version is None:
            found = next((v for v in versions if batch is None or v.batch <= batch), None)
            if found is None:
                problem = f"there was no such {self.noun} as recorded by batch {batch}"
                mend = f"name a version, or batch {versions[-1].batch}, which it is from, or a later one"
                raise NotFound(Problem(self.noun, name, problem, mend))
            return found
        if not 1 <= version <= len(versions):
            mend = f"the newest is {len(versions)}"
            raise NotFound(Problem("version", str(version), "there is no such version", mend))
        return versions[-version]

    def versions(self, ledger: Ledger, name: str) -> list[Kept]:
        """Every version, the newest first; raises `NotFound`."""
        found = [v for v in self._versions(ledger, None) if v.name == name]
        if not found:
            known = [k.name for k in self.all(ledger)]
            raise NotFound(
                Problem(self.noun, name, f"there is no such {self.noun}", mend_for(name, known))
            )
        return found[::-1]

    def keep(
        self,
        ledger: Ledger,
        name: str,
        title: str,
        description: str,
        content: Mapping[str, Any],
        who: str,
    ) -> Kept:
        """A new one, or another version; raises `BadInput`.

        Without a title it is called by its name.
        """
        if not who.strip():
            raise bad_input("who", "", "nobody is named", "say who keeps it")
        return self._write(
            ledger, name, title.strip() or name, description.strip(), content, False, who.strip()
        )

    def archive(self, ledger: Ledger, name: str, who: str, *, archived: bool = True) -> Kept:
        """Archive one, or bring it back; nothing of it is lost. Raises `NotFound`."""
        k = self.find(ledger, name)
        return self._write(ledger, name, k.title, k.description, k.content, archived, who)

    def _write(
        self,
        ledger: Ledger,
        name: str,
        title: str,
        description: str,
        content: Mapping[str, Any],
        archived: bool,
        who: str,
    ) -> Kept:
        record = KeptRecord(
            name, title, description, json.dumps(content, ensure_ascii=False), archived, who
        )
        with ledger.batch(self.noun, f"{self.noun} {name}, by {who}") as batch:
            batch.add(self.kind, [record])
            refused = [p for problems in batch.refused.values() for p in problems]
        for problem in refused:
            raise bad_input(problem.at, problem.value, problem.problem, problem.mend)
        return self.find(ledger, name)

    def _versions(self, ledger: Ledger, batch: int | None) -> list[Kept]:
        """All versions of all, in the order they were kept."""
        out: list[Kept] = []
        count: dict[str, int] = {}
        with ledger.database.read() as connection:
            for r in keptreading.kept(
                connection, self.kind, ledger.last_batch() if batch is None else batch
            ):
                count[r.name] = count.get(r.name, 0) + 1
                about = (
                    r.name,
                    r.title,
                    r.description,
                    json.loads(r.content),
                    count[r.name],
                    r.who,
                )
                out.append(Kept(*about, as_instant(r.recorded_at), r.batch, bool(r.archived)))
        return out


_NAME = re.compile(r"[a-z0-9]+(-[a-z0-9]+)*")


def check_name(name: str, noun: str, example: str, *, at: str = "name") -> None:
    """Raises `BadInput` where something kept cannot be called so."""
    if not _NAME.fullmatch(name) or len(name) > 60:
        raise bad_input(
            at,
            name,
            f"this is no name of a {noun}",
            f"write at most 60 small letters, digits and -: {example}",
        )


SHEETS = Shelf(kinds.SERIES_SHEETS, "sheet")
MEASURES = Shelf(kinds.MEASURES, "measure")
QUESTIONS = Shelf(kinds.QUESTIONS, "question")
