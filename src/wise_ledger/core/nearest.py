"""Names near an unknown one, for the mend of an error."""

from collections.abc import Iterable
from difflib import get_close_matches


def nearest(word: str, known: Iterable[str], count: int = 3) -> list[str]:
    """The `count` names most like `word`, best first; names that contain it come before the rest."""
    names = sorted(known)
    containing = [n for n in names if word and word in n]
    alike = get_close_matches(word, names, n=count, cutoff=0.3)
    return list(dict.fromkeys([*alike[:1], *containing, *alike[1:]]))[:count]


def mend_for(word: str, known: Iterable[str]) -> str:
    """A mend that lists the nearest names; where none is near, the first of those that there are."""
    names = sorted(known)
    if found := nearest(word, names):
        return f"did you mean {', '.join(found)}?"
    return f"known are {', '.join(names[:5])}{', …' if len(names) > 5 else ''}" if names else "there is none yet"
