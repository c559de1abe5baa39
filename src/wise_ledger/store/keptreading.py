"""Reading what people keep under names: sheets, measures, questions."""

import json
from collections.abc import Mapping
from typing import Any

from sqlalchemy import Connection, select

from wise_ledger.core.catalogue.items import ALL_TEMPLATES
from wise_ledger.core.catalogue.measures import Measure
from wise_ledger.core.records import kinds
from wise_ledger.core.records.recordkind import RecordKind
from wise_ledger.store import tables


def kept(connection: Connection, kind: RecordKind, batch: int) -> list[Any]:
    """Every version of everything of a kind, in order of recording,
    with its batch and when that was recorded.
    """
    t, b = tables.metadata.tables[kind.name], tables.batches
    query = (
        select(t, b.c.recorded_at)
        .join(b, b.c.number == t.c.batch)
        .where(t.c.batch <= batch)
        .order_by(t.c.id)
    )
    return list(connection.execute(query))


def kept_measures(connection: Connection, batch: int) -> dict[str, Measure]:
    """The measures that people keep, by name: the newest version of each by a
    batch (T7), but those archived.
    """
    versions: dict[str, int] = {}
    out: dict[str, Measure] = {}
    for row in kept(connection, kinds.MEASURES, batch):
        versions[row.name] = versions.get(row.name, 0) + 1
        out.pop(row.name, None)
        if not row.archived:
            out[row.name] = measure_of(
                row.name,
                row.title,
                row.description,
                json.loads(row.content),
                row.who,
                versions[row.name],
                row.batch,
            )
    return out


def measure_of(
    name: str,
    title: str,
    meaning: str,
    content: Mapping[str, Any],
    owner: str,
    version: int,
    batch: int,
) -> Measure:
    """A measure out of what is kept of it."""
    return Measure(
        name, title, content["formula"], meaning, content["subject"],
        frozenset(content.get("templates") or ALL_TEMPLATES), content.get("source", ""),
        tuple(content.get("synonyms", ())), None, owner, version, batch,
    )  # fmt: skip
