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
    """A mend that lists the nearest names, or says where to look."""
    found = nearest(word, known)
    return f"did you mean {', '.join(found)}?" if found else "there is nothing near that name"
