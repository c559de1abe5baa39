"""Keys of series, and keys that stand for many: `HOUSE_PRICES/M.*.NSA`,
`CPI/M.XA+XB.00` (the SDMX query form).

A key is a family and the values of its dimensions, parted by points; in a wildcard key `*`, or
nothing, stands for any value, and `+` parts several. A key of another shape stands for itself
alone.
"""

import re
from collections.abc import Sequence

from wise_ledger.core.errors import bad_input
from wise_ledger.core.nearest import nearest

MOST_SERIES = 1000  # that one wildcard may stand for
_WRONG = re.compile(r"[\s\"'+*,\x00-\x1f\x7f]")
LONGEST = 200


def key_problem(key: str) -> str | None:
    """What is wrong with the key of a series; None where it is one."""
    if not key:
        return "the cell is empty"
    if len(key) > LONGEST:
        return f"a key has {LONGEST} characters at most"
    if found := _WRONG.search(key):
        return f"a key has no {'blank' if found.group().isspace() else found.group()} in it"
    return None


def family_of(key: str) -> str:
    """The family of a key; empty where it has none."""
    family, slash, _ = key.partition("/")
    return family if slash else ""


def dimensions_of(key: str) -> tuple[str, ...]:
    """The values of its dimensions."""
    return tuple(key.partition("/")[2].split(".")) if "/" in key else ()


def is_wildcard(key: str) -> bool:
    """Whether a key stands for more than one series."""
    return "*" in key or "+" in key or ("/" in key and "" in dimensions_of(key))


def matching(pattern: str, keys: Sequence[str]) -> list[str]:
    """The keys that a key stands for, in their order; raises `BadInput` where
    there is none, or too many.

    >>> matching("HPI/M.*.NSA", ["HPI/M.R1.NSA", "HPI/M.R1.SA", "CPI/M.XA"])
    ['HPI/M.R1.NSA']
    """
    if not is_wildcard(pattern):
        if pattern in keys:
            return [pattern]
        raise unknown_key(pattern, keys)
    family, parts = family_of(pattern), dimensions_of(pattern)
    choices = [None if p in ("", "*") else frozenset(p.split("+")) for p in parts]
    own = [k for k in keys if family_of(k) == family] if family not in ("", "*") else list(keys)
    if not own:
        near = nearest(family, {family_of(k) for k in keys if family_of(k)})
        mend = f"did you mean {', '.join(near)}?" if near else "look for it by `series find`"
        raise bad_input("series", pattern, f"there is no family {family}", mend)
    found = [k for k in own if _fits(dimensions_of(k), choices)]
    if not found:
        lengths = sorted({len(dimensions_of(k)) for k in own})
        if len(choices) not in lengths:
            mend = f"its keys have {' or '.join(map(str, lengths))} parts, such as {own[0]}"
        else:
            mend = "; ".join(
                _nothing_like(n, c, own)
                for n, c in enumerate(choices)
                if c and _nothing_like(n, c, own)
            )
        raise bad_input(
            "series", pattern, "no series has such a key", mend or "widen one of its parts with *"
        )
    if len(found) > MOST_SERIES:
        raise bad_input(
            "series",
            pattern,
            f"it stands for {len(found):,} series",
            f"narrow it: at most {MOST_SERIES:,} at once",
        )
    return found


def unknown_key(key: str, keys: Sequence[str]) -> Exception:
    """The error of a key that no series has."""
    near = nearest(key, keys)
    mend = f"did you mean {', '.join(near)}?" if near else "look for it by any word: series find"
    return bad_input("series", key, "there is no such series", mend)


def _fits(values: Sequence[str], choices: Sequence[frozenset[str] | None]) -> bool:
    return len(values) == len(choices) and all(
        c is None or v in c for v, c in zip(values, choices, strict=True)
    )


def _nothing_like(place: int, wanted: frozenset[str], keys: Sequence[str]) -> str:
    there = sorted({dimensions_of(k)[place] for k in keys if len(dimensions_of(k)) > place})
    strange = sorted(wanted - set(there))
    return (
        f"part {place + 1} is one of {', '.join(there[:12])}, not {strange[0]}" if strange else ""
    )
