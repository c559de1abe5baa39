"""Items that people register: figures of their own, with unit, source and, of observations,
a limit of age.
"""

import re
from dataclasses import replace

from wise_ledger.core.catalogue.items import ITEMS, Item, Nature
from wise_ledger.core.errors import bad_input
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.language.units import NAMED
from wise_ledger.core.language.vocabulary import FIELDS
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.ledger import Ledger

_CODE = re.compile(r"[a-z][a-z0-9_]{2,59}")
_WORDS = ("and", "or", "not", "in")
LIMIT = 400  # days, of an observation whose limit nobody says
UNITS = tuple(u for u in NAMED if u != "days")


def register(
    ledger: Ledger,
    snapshots: Snapshots,
    who: str,
    *,
    code: str,
    title: str,
    unit: str,
    source: str,
    nature: str = "observation",
    definition: str = "",
    stale_after: int | None = None,
) -> Item:
    """Register an item (statement `other`), or define one again; raises `BadInput`.

    The nature and unit of a registered item stay: figures are kept by them.
    """
    if nature not in set(Nature):
        raise bad_input("nature", nature, "there is no such nature", f"write {', '.join(Nature)}")
    item = Item(
        code,
        title.strip(),
        "other",
        Nature(nature),
        unit,
        definition.strip(),
        stale_after=stale_after,
        source=source.strip(),
    )
    if item.nature is Nature.OBSERVATION and stale_after is None:
        item = replace(item, stale_after=LIMIT)
    if not _CODE.fullmatch(item.code):
        raise bad_input(
            "code", item.code, "this is no code", "write 3 to 60 small letters, digits and _"
        )
    if item.code in ITEMS:
        raise bad_input(
            "code", item.code, "the catalogue has an item of this code", "choose another"
        )
    if item.code in (*FIELDS, *FUNCTIONS, *_WORDS):
        raise bad_input(
            "code", item.code, "the measure language has this word already", "choose another"
        )
    if item.code in snapshots.at().view.vocabulary.measures:
        raise bad_input("code", item.code, "there is a measure of this name", "choose another")
    if item.unit not in UNITS:
        raise bad_input("unit", item.unit, "there is no such unit", f"write {', '.join(UNITS)}")
    if item.stale_after is not None and (
        item.nature is not Nature.OBSERVATION or not 1 <= item.stale_after <= 36_500
    ):
        raise bad_input(
            "stale_after",
            item.stale_after,
            "only an observation has a limit of age",
            "in days, from 1 on",
        )
    for name, value in (("who", who), ("title", item.title), ("source", item.source)):
        if not value.strip():
            raise bad_input(
                name,
                "",
                "it is empty",
                f"say {'who registers it' if name == 'who' else 'its ' + name}",
            )
    before = snapshots.at().view.items.get(item.code)
    if before is not None and (before.nature, before.unit) != (item.nature, item.unit):
        kind = f"{before.nature.value} in {before.unit}"
        raise bad_input(
            "code", item.code, f"this item is a {kind}", "register another code: kept figures stay"
        )
    with ledger.batch("item", f"item {item.code} registered by {who.strip()}") as batch:
        batch.add_item(item, who.strip())
    return item
