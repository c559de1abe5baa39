"""Names near an unknown one, for the mend of an error."""

from collections.abc import Collection, Iterable
from difflib import SequenceMatcher

from wise_ledger.core.errors import bad_input

_LONGEST = 100  # characters; no name that there is has as many
# how alike a name must be at least, and how much less than the best one it may be
_NEAR, _BESIDE = 0.6, 0.2


def nearest(word: str, known: Iterable[str], count: int = 3) -> list[str]:
    """The `count` names most like `word`, best first; names that contain it come before the rest.

    None may be near.
    """
    names = sorted(known)
    if len(word) > _LONGEST:
        return []
    matcher, alike = SequenceMatcher(), dict.fromkeys(names, 0.0)
    matcher.set_seq2(word)
    for name in names:
        matcher.set_seq1(name)
        if matcher.real_quick_ratio() >= _NEAR and matcher.quick_ratio() >= _NEAR:
            alike[name] = matcher.ratio()
    best = max(alike.values(), default=0.0)
    near = [n for n in names if alike[n] >= max(_NEAR, best - _BESIDE)]
    near.sort(key=lambda name: -alike[name])
    containing = [n for n in names if len(word) > 2 and word in n]
    return list(dict.fromkeys([*near[:1], *containing, *near[1:]]))[:count]


def mend_for(word: str, known: Iterable[str]) -> str:
    """A mend that lists the nearest names; where none is near,
    the first of those that there are.
    """
    names = sorted(known)
    if found := nearest(word, names):
        return f"did you mean {', '.join(found)}?"
    return (
        f"known are {', '.join(names[:5])}{', …' if len(names) > 5 else ''}"
        if names
        else "there is none yet"
    )


def check_name(at: str, name: str, known: Collection[str], what: str = "none of this name") -> None:
    """Raises `BadInput`, with the nearest, where a name is none of those known."""
    if name not in known:
        raise bad_input(at, name, f"there is {what}", mend_for(name, known))
