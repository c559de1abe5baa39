"""What an expression may name."""

from dataclasses import dataclass

from wise_ledger.core.facts.items import Item
from wise_ledger.core.measures.vocabulary import ATTRIBUTES, FUNCTIONS
from wise_ledger.work.snapshots import Snapshots


@dataclass(frozen=True)
class Names:
    """Items, attributes, and functions with their meaning by how they are called."""

    items: tuple[Item, ...]
    attributes: tuple[str, ...]
    functions: dict[str, str]


def names(snapshots: Snapshots) -> Names:
    """Everything the measure language knows."""
    return Names(
        tuple(snapshots.at().view.items.values()), tuple(ATTRIBUTES), {f.call: f.meaning for f in FUNCTIONS.values()}
    )
