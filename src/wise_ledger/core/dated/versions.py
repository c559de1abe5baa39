"""Which of several rows about one thing counts, and when (T5, T9, M3)."""

from collections.abc import Sequence
from typing import NamedTuple

NEVER = 2**63 - 1  # the instant that does not come


class Version(NamedTuple):
    """A row about a thing: known `since` an instant, `said` to have become public at one.

    A row that says no instant (None) replaces what its source said before it, and is replaced by
    whatever its source says after it (M3).
    """

    source: int
    since: int
    said: int | None


class Standing(NamedTuple):
    """The row of this number counts from an instant on, until another."""

    row: int
    since: int
    until: int


def standing(versions: Sequence[Version]) -> list[Standing]:
    """When each of several rows about one thing counts; they are given in order of recording.

    Of the rows known at an instant those of the first source count that has any (the least number),
    and of these the one that was published last, of equal ones the one recorded last. Nothing that
    is known later only matters (T9).

    >>> standing([Version(1, 10, 10), Version(1, 30, 30), Version(1, 20, 20)])
    [Standing(row=0, since=10, until=20), Standing(row=2, since=20, until=30), \
Standing(row=1, since=30, until=9223372036854775807)]
    """
    if len(versions) == 1:
        return [Standing(0, versions[0].since, NEVER)]
    found: list[tuple[int, int]] = []
    for instant in sorted({v.since for v in versions}):
        row = _counts([(n, v) for n, v in enumerate(versions) if v.since <= instant])
        if not found or found[-1][0] != row:
            found.append((row, instant))
    ends = [since for _, since in found[1:]] + [NEVER]
    return [Standing(row, since, end) for (row, since), end in zip(found, ends, strict=True)]


def _counts(known: Sequence[tuple[int, Version]]) -> int:
    """Which of the rows that are known counts."""
    first = min(v.source for _, v in known)
    row, published = -1, 0
    for n, version in known:
        if version.source != first:
            continue
        if version.said is None:
            row, published = n, -NEVER
        elif row < 0 or version.said >= published:
            row, published = n, version.said
    return row
