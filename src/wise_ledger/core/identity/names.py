"""Names of companies made comparable: legal forms, brackets, accents,
share classes, abbreviations, punctuation.
"""

import re
import unicodedata
from functools import lru_cache

from cleanco import prepare_default_terms  # type: ignore[import-untyped]
from rapidfuzz.distance import DamerauLevenshtein
from rapidfuzz.process import extractOne

from wise_ledger.core.identity.namewords import FORMS, LEADING, SAME, SHARE_CLASSES

_BRACKETS = re.compile(r"\([^)]*\)|\[[^\]]*\]|\{[^}]*\}")
_NOT_WORD = re.compile(r"[^a-z0-9]+")
_DOTTED = re.compile(r"\b(?:[a-z]\.)+[a-z]\b\.?|\b(?:[a-z]/){1,2}[a-z]\b")
# Letters that no decomposition turns into plain ones.
_LETTERS = str.maketrans(
    {"ß": "ss", "æ": "ae", "œ": "oe", "ø": "o", "ł": "l", "đ": "d", "þ": "th", "ð": "d", "ı": "i"}
    | dict.fromkeys("’'`", "")
)


def plain(name: str) -> str:
    """Lower case, letters without accents, dotted letters joined,
    everything else a blank; nothing is left out.
    """
    text = unicodedata.normalize("NFKD", name.casefold().translate(_LETTERS))
    text = "".join(c for c in text if not unicodedata.combining(c))
    text = _DOTTED.sub(
        lambda m: re.sub(r"[./]", "", m[0]), text.replace("&", " and ").replace("+", " and ")
    )
    text = re.sub(r"\bco-?\s?op(erative|erativa)?\b", "cooperative", text)
    return _NOT_WORD.sub(" ", text).strip()


@lru_cache(1)
def _forms() -> frozenset[tuple[str, ...]]:
    terms = {tuple(t) for _, t in prepare_default_terms()}
    known = {tuple(plain(" ".join(t)).split()) for t in terms} | FORMS
    return frozenset(t for t in known if t and t != ("cooperative",))


@lru_cache(1)
def _single_forms() -> tuple[frozenset[str], list[str]]:
    """Legal forms of one word; and those long enough not to be a letter away from many words."""
    forms = frozenset(form[0] for form in _forms() if len(form) == 1)
    return forms, sorted(form for form in forms if len(form) >= 4)


@lru_cache(20_000)
def near_form(word: str) -> bool:
    """Whether a word is a legal form with a slip: two letters swapped, one too many or too few."""
    forms, long = _single_forms()
    once = re.sub(r"(.)\1+", r"\1", word)  # ltdd
    return once in forms or bool(
        extractOne(word, long, scorer=DamerauLevenshtein.distance, score_cutoff=1)
    )


@lru_cache(4096)
def words(name: str) -> tuple[str, ...]:
    """The words that distinguish a company: without brackets,
    legal forms and share classes, spelled one way.

    A name that would have nothing left keeps what it has.
    """
    tokens = (plain(_BRACKETS.sub(" ", name)) or plain(name)).split()
    before = 0
    while before != len(tokens):
        before = len(tokens)
        tokens = _without_forms(_without_class(tokens))
    return tuple(SAME.get(t, t) for t in tokens)


def _without_class(tokens: list[str]) -> list[str]:
    """Share-class words fall away at the end, with the letter or number of the class."""
    end = len(tokens)
    while end > 1 and (
        tokens[end - 1] in SHARE_CLASSES
        or (len(tokens[end - 1]) == 1 and tokens[end - 2] in SHARE_CLASSES)
    ):
        end -= 1
    return tokens[:end]


def _without_forms(tokens: list[str]) -> list[str]:
    """Legal forms fall away at the end, as many as there are, and at the beginning."""
    forms = _forms()
    changed = True
    while changed and tokens:
        changed = False
        for length in (3, 2, 1):
            if len(tokens) > length and tuple(tokens[-length:]) in forms:
                tokens, changed = tokens[:-length], True
                while len(tokens) > 1 and tokens[-1] == "and":  # GmbH & Co. KG
                    tokens = tokens[:-1]
                break
        if len(tokens) > 1 and tokens[0] in LEADING:
            tokens, changed = tokens[1:], True
    return tokens
