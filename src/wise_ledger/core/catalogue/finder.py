"""Finding a column by what people call it: code, title, synonym or word,
slips of the finger included.

Ranking, from 100 down: the name itself, or a synonym word for word; a beginning of one; all words
asked for among its words; some of them; then words that are nearly those (Jaro-Winkler of
`rapidfuzz`, 0.87 and more, so that a slip or two does not matter); last, words of the meaning.
"""

import math
import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from rapidfuzz.distance import JaroWinkler

_NEAR = 0.87
_WORDS = re.compile(r"[a-z0-9&]+")
_SMALL = frozenset("of the a an and or in for to at by its it per with what is".split())


@dataclass(frozen=True)
class Entry:
    """One column that can be asked for; `kind` is item, attribute or function,
    `call` how it is written.
    """

    kind: str
    name: str
    title: str
    meaning: str
    call: str
    unit: str = ""
    statement: str = ""
    nature: str = ""
    templates: frozenset[str] = frozenset()
    synonyms: tuple[str, ...] = ()


@dataclass(frozen=True)
class Found:
    """An entry with its score (0 to 100) and the words by which it was found."""

    entry: Entry
    score: float
    by: str


class Finder:
    """Searches entries; made once for a catalogue."""

    def __init__(self, entries: Iterable[Entry]) -> None:
        self.entries = tuple(entries)
        self._named = [
            [
                (text, _plain(text), _words(text))
                for text in (e.name.replace("_", " "), e.title, *e.synonyms)
            ]
            for e in self.entries
        ]
        self._meant = [_words(e.meaning) for e in self.entries]

    def find(
        self,
        text: str = "",
        *,
        kinds: Sequence[str] = (),
        statement: str | None = None,
        template: str | None = None,
        limit: int = 50,
    ) -> list[Found]:
        """The best entries first, those of one score in the catalogue's order;
        without a text, all that pass.
        """
        asked, words = _plain(text), _words(text)
        found = []
        for place, entry in enumerate(self.entries):
            if kinds and entry.kind not in kinds:
                continue
            if statement is not None and entry.statement != statement:
                continue
            if template is not None and entry.templates and template not in entry.templates:
                continue
            score, by = self._score(place, asked, words) if asked else (100.0, "")
            if score > 0:
                found.append((score, -place, by))
        found.sort(reverse=True)
        return [Found(self.entries[-place], score, by) for score, place, by in found[:limit]]

    def _score(self, place: int, asked: str, words: tuple[str, ...]) -> tuple[float, str]:
        best, by = 0.0, ""
        for order, (text, plain, own) in enumerate(self._named[place]):
            score = _of_name(asked, words, plain, own)
            score -= 0.5 * (order > 1)  # a synonym stands behind the name itself
            if score > best:
                best, by = score, text
        if not best and words:
            hit = sum(w in self._meant[place] for w in words)
            if hit == len(words):
                return 25.0, "meaning"
        return best, by


def _of_name(asked: str, words: tuple[str, ...], plain: str, own: tuple[str, ...]) -> float:
    if asked == plain:
        return 100.0
    if not words or not own:
        return 0.0
    if plain.startswith(f"{asked} "):
        return 92.0 - min(10, len(plain) - len(asked)) * 0.2
    hits = sum(w in own for w in words)
    if hits == len(words):
        return 84.0 - min(10, len(own) - hits) * 0.8
    near = [max(JaroWinkler.similarity(w, o) for o in own) for w in words]
    begun = [any(o.startswith(w) for o in own) and len(w) >= 3 for w in words]
    if all(n >= _NEAR or b for n, b in zip(near, begun, strict=True)):
        return 60.0 + 15.0 * sum(near) / len(near) - min(10, len(own) - len(words)) * 0.8
    if hits and len(words) > 1:
        return 30.0 + 20.0 * hits / len(words)
    return 0.0


def neighbours(entry: Entry, entries: Sequence[Entry], most: int = 4) -> list[Entry]:
    """Entries that are easily taken for this one: of the same kind, with rare words in common.

    Words of titles count twice those of synonyms, and each by how few entries use it (inverse
    document frequency).
    """
    same = [e for e in entries if e.kind == entry.kind]
    of = {e.name: _weighed(e) for e in same}
    uses = Counter(w for words in of.values() for w in words)
    rare = {w: math.log(len(same) / n) for w, n in uses.items()}
    own = of[entry.name]

    def length(words: dict[str, int]) -> float:
        return math.sqrt(sum((n * rare[w]) ** 2 for w, n in words.items())) or 1.0

    scored = []
    for order, other in enumerate(same):
        words = of[other.name]
        alike = sum(own[w] * words[w] * rare[w] ** 2 for w in own.keys() & words.keys())
        if other.name != entry.name and alike:
            nearness = (
                alike
                / length(own)
                / length(words)
                * (1.0 if other.statement == entry.statement else 0.7)
            )
            scored.append((-nearness, order, other))
    return [other for near, _, other in sorted(scored, key=lambda s: s[:2])[:most] if near < -0.1]


def _weighed(entry: Entry) -> dict[str, int]:
    return {w: 1 for s in entry.synonyms for w in _words(s)} | dict.fromkeys(_words(entry.title), 2)


def _plain(text: str) -> str:
    return " ".join(_WORDS.findall(text.lower().replace("'", "").replace("_", " ")))


def _words(text: str) -> tuple[str, ...]:
    plain = _plain(text).split()
    return tuple(w for w in plain if w not in _SMALL) or tuple(plain)
