"""What changed, on the share basis of a cut-off (M3)."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from wise_ledger.core.money.splits import ROUNDING, ShareBasis
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.store.restating import Change


def on_share_basis(snapshot: Snapshot, changes: Sequence[Change], cutoff: int) -> list[Change]:
    """Per-share values and share counts on the share basis of the cut-off,
    without what a split alone explains (M3).
    """
    splits = snapshot.view.splits
    bases = (
        {unit: ShareBasis.of(splits, unit) for unit in ("money_per_share", "shares")}
        if splits
        else {}
    )
    out = []
    for c in changes:
        basis = bases.get("money_per_share" if c.unit.endswith("/shares") else c.unit)
        if basis is None:
            out.append(c)
            continue
        at = np.array([*c.instants, cutoff], np.int64)
        upto = basis.upto(np.full(len(at), c.company, np.int64), at)
        moved = upto[-1] / upto[:-1]
        values = zip((c.old, c.new, c.original, c.latest), moved.tolist(), strict=True)
        old, new, original, latest = (None if v is None else v * factor for v, factor in values)
        same = old is not None and new is not None and abs(new - old) <= ROUNDING * abs(old)
        if not (same and moved[0] != moved[1]):
            out.append(replace(c, old=old, new=new, original=original, latest=latest))
    return out
