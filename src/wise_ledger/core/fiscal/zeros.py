"""Zeros that an absent line means (F13): formed here alone, for the language and for statements."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.dated.attributes import Attributes
from wise_ledger.core.time.periods import ABSENT
from wise_ledger.core.timelines.keys import Keys, Mark, Rows, State, key_company, key_end, make_keys
from wise_ledger.core.timelines.merge import coalesce, gather, merge
from wise_ledger.core.timelines.stages import Stages, as_learned
from wise_ledger.core.timelines.timeline import Input, Timeline

TOTALS = ("total_assets", "shareholders_equity")  # a sheet that has both is there as a whole


@dataclass(frozen=True, eq=False)
class Templates:
    """The reporting template of each company, stage by stage of what was known;
    `words[i]` is that of stage i.
    """

    stages: Stages
    words: NDArray[np.str_]

    @classmethod
    def of(cls, attributes: Attributes) -> "Templates":
        """As companies' sources state them."""
        steps = attributes.steps("template")
        values = np.array([a.value for a in attributes.versions("template")] or [""])
        return cls(Stages(steps.entity, steps.at), values[steps.row])

    def of_rows(self, company: int, rows: int) -> "Templates":
        """Those of one company for each of so many rows of a sheet,
        which stand in the place of companies.
        """
        low, high = np.searchsorted(self.stages.company, [company, company + 1])
        entity = np.repeat(np.arange(rows), high - low)
        return Templates(
            Stages(entity, np.tile(self.stages.at[low:high], rows)),
            np.tile(self.words[low:high], rows),
        )

    @classmethod
    def together(cls, templates: Sequence["Templates"], rows: int) -> "Templates":
        """Those of sheets of so many rows each, the rows of one sheet behind those of another."""
        entity = np.concatenate([t.stages.company + n * rows for n, t in enumerate(templates)])
        at = np.concatenate([t.stages.at for t in templates])
        return cls(
            Stages(entity.astype(np.int64), at), np.concatenate([t.words for t in templates])
        )

    def known(self, company: int, cutoff: int) -> str | None:
        """The template of a company as known at an instant."""
        low, high = np.searchsorted(self.stages.company, [company, company + 1])
        place = low + np.searchsorted(self.stages.at[low:high], cutoff, "right") - 1
        return str(self.words[place]) if place >= low else None

    def having(
        self, timeline: Timeline, wanted: Sequence[frozenset[str]] | frozenset[str]
    ) -> Timeline:
        """The rows of companies whose template, as known by then, has the line;
        without a template all lines are.

        `wanted` are the templates of the line: for all companies, or by number (the rows of a
        sheet).
        """

        def fits(stage: Rows, keys: Keys) -> NDArray[np.bool_]:
            if isinstance(wanted, frozenset):
                return np.asarray(np.isin(self.words[stage], sorted(wanted)))
            own = key_company(keys).tolist()
            return np.array(
                [
                    word in wanted[n]
                    for word, n in zip(self.words[stage].tolist(), own, strict=True)
                ],
                bool,
            )

        return as_learned(timeline, self.stages, fits, unknown_fits=True)


def sheet_there(total_assets: Timeline, equity: Timeline) -> Timeline:
    """0, marked implied, at each end where one source has both totals,
    in whatever currencies, since it has them.

    A withdrawn total leaves the line unknown, not withdrawn.
    """
    if not len(total_assets) or not len(equity):
        return Timeline.empty()
    totals = (total_assets, equity)
    merged = merge(totals)
    states = [gather(t.state, r, State.ABSENT) for t, r in zip(totals, merged.rows, strict=True)]
    there = (states[0] == State.VALUE) & (states[1] == State.VALUE)
    marks = gather(total_assets.marks, merged.rows[0], 0) | gather(equity.marks, merged.rows[1], 0)
    count = len(merged.key)
    zero = Timeline(
        merged.key,
        merged.at,
        np.where(there, 0.0, np.nan),
        np.where(there, State.VALUE, State.ABSENT).astype(np.int8),
        (marks | np.uint8(Mark.IMPLIED)).astype(np.uint8),
        gather(total_assets.currency, merged.rows[0], -1),
        np.full(count, ABSENT, np.int32),
        published=merged.at,
        inputs=tuple(Input(t, rows) for t, rows in zip(totals, merged.rows, strict=True)),
        form="absent, which means zero",
    )
    return zero.formed()


def with_zeros(reported: Timeline, zeros: Sequence[Timeline]) -> Timeline:
    """A balance as reported, else 0 where any source's sheet is there without
    that line, else nothing.
    """
    return coalesce([reported, *zeros], having=True)


def for_rows(zero: Timeline, rows: Sequence[int], count: int) -> Timeline:
    """The zeros of companies (numbered from 0) for each of some rows of their sheets,
    which have `count` rows each.
    """
    every = np.tile(np.arange(len(zero)), len(rows))
    row = key_company(zero.key[every]) * count + np.repeat(np.array(rows, np.int64), len(zero))
    key = make_keys(row, key_end(zero.key[every]))
    order = np.argsort(key, kind="stable")
    return replace(replace(zero, inputs=()).take(every[order]), key=key[order])
