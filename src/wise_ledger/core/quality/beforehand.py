"""Checks of figures before they are kept, wherever there is time for it: what is found holds where
they are kept whole and the ledger has nothing that belongs beside them.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.catalogue.items import Item
from wise_ledger.core.quality.checks import Finding, examine
from wise_ledger.core.quality.held import Held
from wise_ledger.core.records.figures import Figures


@dataclass(frozen=True, eq=False)
class Beforehand:
    """What checks find in new figures of one company, of a template, with nothing beside them.

    `document` says of each that is checked in which of their documents it is, from 0 on; `fact` of
    a finding is a place among these.
    """

    template: str | None
    document: NDArray[np.int64]
    findings: tuple[Finding, ...]

    def of(self, held: Held, template: str | None) -> list[Finding] | None:
        """The findings on figures that are kept; None where they are not just these.

        `held` are the new figures of the company with those beside them. That they are the very
        ones, in their order, is for the caller to know: what is left out changes the count.
        """
        if template != self.template or len(held) != len(self.document) or not held.new.all():
            return None
        # their order counts: of two that differ the later is in doubt
        if not np.array_equal(_places(held), self.document):
            return None
        return [replace(f, fact=int(held.fact[f.fact])) for f in self.findings]


def examine_beforehand(
    items: Mapping[str, Item], documents: Sequence[Figures], template: str | None
) -> Beforehand:
    """Check what is in some documents of one company, given in the order in which they are kept."""
    figures = Figures.joined(documents)
    of_each = np.repeat(np.arange(len(documents)), [len(d) for d in documents])
    held = Held.of_figures(figures, np.arange(len(figures)), of_each, 0)
    row = {fact: n for n, fact in enumerate(held.fact.tolist())}
    found = (replace(f, fact=row[f.fact]) for f in examine(items, held, template))
    return Beforehand(template, _places(held), tuple(found))


def _places(held: Held) -> NDArray[np.int64]:
    """Which of the documents, in the order of their numbers, each figure is in."""
    return np.unique(held.document, return_inverse=True)[1]
