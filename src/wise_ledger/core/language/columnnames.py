"""Columns asked for under names of one's own, which later ones may use."""

import re
from collections.abc import Sequence

from wise_ledger.core.errors import BadInput, bad_input
from wise_ledger.core.language.expand import named_parts
from wise_ledger.core.language.parse import parse
from wise_ledger.core.language.tree import Name
from wise_ledger.core.language.vocabulary import Vocabulary

_NAMED = re.compile(r"([a-z][a-z0-9_]*)\s*:\s*(\S.*)", re.DOTALL)
_MEANT = re.compile(r'([^"#:]*):(.*)', re.DOTALL)  # a colon stands in texts and comments alone


def named(columns: Sequence[str]) -> list[tuple[str, str]]:
    """Name and expression of columns asked for: `margin: operating_income / revenue`,
    or the expression alone. Raises `BadInput` for what cannot name a column.

    >>> named(["margin: net_income / revenue", "revenue"])
    [('margin', 'net_income / revenue'), ('revenue', 'revenue')]
    """
    out: dict[str, str] = {}
    for text in columns:
        found = _NAMED.fullmatch(text.strip())
        if not found and (meant := _MEANT.fullmatch(text)):
            raise _unnamed(text, *meant.groups())
        name, expression = (found[1], found[2]) if found else (text.strip(), text.strip())
        if out.get(name, expression) != expression:
            raise bad_input(
                "show", text, f"there is a column {name} already", "give it another name"
            )
        out[name] = expression
    return list(out.items())


def _unnamed(text: str, head: str, expression: str) -> BadInput:
    if not expression.strip():
        return bad_input("show", text, "there is nothing after the colon", "write what it shows")
    plain = re.sub("[^a-z0-9]+", "_", head.lower()).strip("_")
    name = plain if plain[:1].isalpha() else f"x_{plain}".rstrip("_")
    return bad_input(
        "show",
        text,
        f"{head.strip()!r} cannot name a column: small letters, digits and _ do, a letter first",
        f"write {name}: {expression.strip()}",
    )


def over_others(
    columns: Sequence[tuple[str, str]], vocabulary: Vocabulary
) -> list[tuple[str, str]]:
    """The same columns, each name of an earlier one replaced by what it stands for;
    raises `ExpressionError`.

    A name that means something of its own means that: a column called `revenue` hides no item, one
    called `eps` is not what `estimate(eps, fy1)` is about.

    >>> from wise_ledger.core.language.vocabulary import STANDARD
    >>> over_others([("margin", "net_income / revenue"), ("twice", "2 * margin")], STANDARD)
    [('margin', 'net_income / revenue'), ('twice', '2 * (net_income / revenue)')]
    >>> over_others([("eps", "diluted_eps.fy"), ("up", "estimate(eps, fy1) / eps")], STANDARD)[1]
    ('up', 'estimate(eps, fy1) / (diluted_eps.fy)')
    """
    known, out = set(vocabulary.names), list[tuple[str, str]]()
    for name, expression in columns:
        before = {n: e for n, e in out if n not in known and n != e}
        if any(n in expression for n in before):
            uses = [
                p
                for p in named_parts(parse(expression))
                if isinstance(p, Name) and not p.selector and p.name in before
            ]
            for use in sorted(uses, key=lambda u: -u.place.begin):
                meant = before[use.name] + ("\n" if "#" in before[use.name] else "")
                expression = (
                    f"{expression[: use.place.begin]}({meant}){expression[use.place.end :]}"
                )
        out.append((name, expression))
    return out
