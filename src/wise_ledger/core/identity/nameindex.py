"""Find the names most like a given one among many: candidates by shared letters,
then a score by words.

Candidates come from trigrams of letters, weighted by rarity (an inverted index, as in Manning,
Raghavan and Schuetze, Introduction to Information Retrieval, ch. 6); the score pairs up words, rare
ones counting for more, and allows for slips inside a word by the Damerau-Levenshtein distance, in
which two letters swapped are one slip.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from rapidfuzz.distance import DamerauLevenshtein, JaroWinkler

from wise_ledger.core.identity.names import near_form, plain, words

_CANDIDATES = 24
_WORD = 0.72  # two words less alike than this are different words
_OTHER_WORDS = 0.998  # the most that names of other words have in common
_SMALL = frozenset({"and", "of", "de", "la", "the"})


@dataclass(frozen=True)
class Found:
    """A name of the index, by its place, and how like it is: 1 is the same."""

    place: int
    score: float


class NameIndex:
    """An index over names; `best` finds those most like a term."""

    def __init__(self, names: Sequence[str]) -> None:
        self.names = list(names)
        self._words = [words(n) for n in names]
        self._plain = [plain(n) for n in names]
        count = Counter(w for ws in self._words for w in set(ws))
        total = max(1, len(names))
        self._weight = {w: float(np.log(1 + total / n)) for w, n in count.items()}
        self._unseen = float(np.log(1 + total))
        self._exact: dict[tuple[str, ...], list[int]] = {}
        for place, own in enumerate(self._words):
            self._exact.setdefault(own, []).append(place)
        self._build()

    def _build(self) -> None:
        grams: dict[str, list[int]] = {}
        for place, own in enumerate(self._words):
            for gram in _trigrams(own):
                grams.setdefault(gram, []).append(place)
        self._postings = {g: np.array(p, np.int32) for g, p in grams.items()}
        total = max(1, len(self.names))
        self._rarity = {g: float(np.log(total / len(p)) + 0.1) for g, p in grams.items()}
        norm = np.zeros(len(self.names))
        for gram, places in self._postings.items():
            norm[places] += self._rarity[gram] ** 2
        self._norm = np.sqrt(norm)

    def holds(self, term: str) -> bool:
        """Whether a name of the index has exactly the words of the term."""
        return words(term) in self._exact

    def best(self, term: str, count: int = 5) -> list[Found]:
        """The names most like `term`, the best first;
        of equal ones the one that is the same to the letter.
        """
        own = words(term)
        whole = plain(term)
        places = dict.fromkeys(self._exact.get(own, ()))
        places.update(dict.fromkeys(self._candidates(own)))
        found = [Found(p, self.score(own, whole, p)) for p in places]
        return sorted(found, key=lambda f: (-f.score, f.place))[:count]

    def covers(self, term: str, place: int) -> bool:
        """Whether a name of the index has every word of the term, and maybe more."""
        own, there = words(term), set(self._words[place])
        elided = {w[1:] for w in there if w[0] in "dl" and len(w) > 4}  # d'électricité
        return bool(own) and set(own) <= there | elided

    def _candidates(self, own: tuple[str, ...]) -> list[int]:
        grams = [g for g in _trigrams(own) if g in self._postings]
        if not grams:
            return []
        # The commonest trigrams cost most and distinguish least: the rarest decide who is looked
        # at.
        grams = sorted(grams, key=lambda g: len(self._postings[g]))[:14]
        places = np.concatenate([self._postings[g] for g in grams])
        weights = np.repeat(
            [self._rarity[g] ** 2 for g in grams], [len(self._postings[g]) for g in grams]
        )
        summed = np.bincount(places, weights, minlength=len(self.names))
        shared: NDArray[np.float64] = summed / (self._norm + 1e-9)
        count = min(_CANDIDATES, len(shared))
        top = np.argpartition(-shared, count - 1)[:count]
        return [int(p) for p in top if shared[p] > 0]

    def score(self, own: tuple[str, ...], whole: str, place: int) -> float:
        """0 to 1: the weight of the words that pair up, over the weight of all;
        full names settle equals.
        """
        other = self._words[place]
        clean = 0.999 if own == other else min(_OTHER_WORDS, self._alike(own, other))
        if clean < 0.4:
            return clean
        # Letters as a whole catch what words do not: a blank too many, two words written as one.
        joined = JaroWinkler.normalized_similarity("".join(own), "".join(other))
        if clean < 0.999 and joined > 0.97:
            clean = max(clean, 0.97 * joined)
        return clean if whole != self._plain[place] else 1.0

    def _alike(self, a: tuple[str, ...], b: tuple[str, ...]) -> float:
        left = list(b)
        shared = total = 0.0
        for word in a:
            weight = self._weigh(word)
            total += weight
            best, at = 0.0, -1
            for i, other in enumerate(left):
                alike = _word_alike(word, other)
                if alike > best:
                    best, at = alike, i
            if at >= 0 and best >= _WORD:
                weight_other = self._weigh(left.pop(at))
                total += weight_other
                shared += best * (weight + weight_other)
            # a slip in the legal form, which distinguishes nobody
            elif word not in self._weight and near_form(word):
                total -= weight
        return shared / max(1e-9, total + sum(self._weigh(w) for w in left))

    def _weigh(self, word: str) -> float:
        weight = self._weight.get(word, self._unseen)
        return weight * (0.25 if word in _SMALL else 1.0)


def _trigrams(own: tuple[str, ...]) -> list[str]:
    text = " " + " ".join(own) + " "
    return list(dict.fromkeys(text[i : i + 3] for i in range(len(text) - 2)))


@lru_cache(200_000)
def _word_alike(a: str, b: str) -> float:
    if a == b:
        return 1.0
    if a[0] != b[0] and len(a) < 5:
        return 0.0
    short, long = sorted((a, b), key=len)
    # A word cut short: "instr" or "ashgr." for the whole; distinguished by
    # fewer letters, so worth less.
    cut = 0.6 + 0.4 * len(short) / len(long) if len(short) >= 3 and long.startswith(short) else 0.0
    return max(cut, float(DamerauLevenshtein.normalized_similarity(a, b)))
