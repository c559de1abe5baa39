"""What an expression means, in words: read aloud, and what it rests on."""

from collections.abc import Sequence
from dataclasses import dataclass

from wise_ledger.core.catalogue.items import ALL_TEMPLATES, Nature
from wise_ledger.core.language import tree
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.expand import measures_under
from wise_ledger.core.language.format import formatted
from wise_ledger.core.language.functions.choices import INDUSTRIALS
from wise_ledger.core.language.parse import parse
from wise_ledger.core.language.plan import (
    Apply,
    AtEnd,
    Before,
    Compare,
    Estimate,
    Field,
    Leaf,
    Member,
    Quote,
    Return,
    Sampled,
    Seen,
    SeriesSampled,
    SeriesStep,
    Step,
    Surprise,
    parts,
)  # fmt: skip
from wise_ledger.core.language.tree import Node
from wise_ledger.core.language.units import Axis
from wise_ledger.core.language.vocabulary import FIELDS, STANDARD, Vocabulary
from wise_ledger.words import counted

_FORMS = {
    "q": "of the quarter", "h": "of the half year", "fy": "of the fiscal year", "ttm": "of twelve months",
    "ytd": "since the start of the fiscal year", "balance": "", "balance_fy": "at the fiscal year end",
}  # fmt: skip
_SIGNS = {"+": "plus", "-": "less", "*": "times", "/": "over", "^": "to the power of"}
_COMPARED = {
    "<": "below",
    "<=": "at most",
    ">": "above",
    ">=": "at least",
    "==": "equal to",
    "!=": "other than",
}
_UNITS = {"d": "day", "mo": "month", "q": "quarter", "y": "year"}
_CALLS = {
    "ago": "{0} {1} before", "change": "the change of {0} over {1}", "growth": "the growth of {0} over {1}",
    "cagr": "the compound annual growth of {0} over {1}", "mean": "the mean of {0} over {1}",
    "median": "the median of {0} over {1}", "stdev": "the standard deviation of {0} over {1}",
    "lowest": "the lowest of {0} over {1}", "highest": "the highest of {0} over {1}",
    "slope": "the yearly trend of {0} over {1}", "average_balance": "the mean of {0} now and a year before",
    "at_period_end": "{0} on the period end of the figures beside it", "positive": "{0} where it is above zero",
    "missing": "{0} is missing", "where": "{1} where {0}, else {2}", "abs": "the size of {0}",
    "log": "the logarithm of {0}", "sqrt": "the root of {0}", "clip": "{0} held between {1} and {2}",
    "price_return": "the return of the price over {0}", "total_return": "the return with dividends over {0}",
    "first_reported": "{0} as first reported", "rank": "the rank of {0}", "percentile": "the percentile of {0}",
    "bucket": "the group of {0} among {1} of equal size", "zscore": "the standard score of {0}",
    "winsor": "{0} clipped at {1} of each tail", "rescale": "{0} rescaled to -1 … 1", "series": "the series {0}",
}  # fmt: skip
_AXES = {
    Axis.CONSTANT: "the same at all times",
    Axis.FISCAL: "period ends: changes when figures become known",
    Axis.DATE: "dates: may change every day",
    Axis.CROSS: "all companies of the list on one date",
}


@dataclass(frozen=True)
class Meaning:
    """An expression looked at: read aloud, its canonical form, what it lives on,
    what it rests on, what is missing.
    """

    words: str
    canonical: str
    axis: str
    unit: str
    periods: tuple[str, ...]
    items: tuple[str, ...]
    fields: tuple[str, ...]
    measures: tuple[str, ...]
    series: tuple[str, ...]
    templates: tuple[str, ...]  # of companies that it can be of
    missing: tuple[str, ...]


def meaning(text: str, vocabulary: Vocabulary = STANDARD) -> Meaning:
    """What an expression means; raises `ExpressionError` where it cannot be used.

    >>> meaning("net_income / revenue").words
    'net income of twelve months over revenue of twelve months'
    """
    step, node = plan(text, vocabulary), parse(text)
    below = list(parts(step))
    leaves = [s for s in below if isinstance(s, Leaf)]
    items = [s.item for s in below if isinstance(s, Leaf | Seen)]
    quotes = [s.name for s in below if isinstance(s, Quote | Field)]
    templates = set(ALL_TEMPLATES)
    for item in (leaf.item for leaf in leaves if leaf.moves_period):
        templates &= item.templates
    return Meaning(
        _Reader(vocabulary).read(node),
        formatted(text),
        _AXES[step.axis],
        step.unit.plain().name,
        tuple(_periods(below, vocabulary.stale_after)),
        tuple(dict.fromkeys(i.code for i in items)),
        tuple(dict.fromkeys(q for q in quotes if q in FIELDS)),
        tuple(measures_under(node, vocabulary.measures)),
        tuple(dict.fromkeys(s.key for s in below if isinstance(s, SeriesStep | SeriesSampled))),
        tuple(sorted(templates)),
        tuple(_missing(below)),
    )


def _periods(below: Sequence[Step], stale_after: int) -> list[str]:
    out = []
    now = dict.fromkeys(s.item.code for s in below if isinstance(s, Leaf) and s.moves_period)
    if now:
        few = (
            f"{len(now)} items are"
            if len(now) > 3
            else " and ".join(now) + (" is" if len(now) == 1 else " are")
        )
        scope = (
            "each comparison"
            if any(isinstance(s, Compare | Member) for s in below)
            else "all figures"
        )
        out.append(
            f"One period end for {scope}: the newest at which {few} known;"
            f" stale after {counted(stale_after, 'day')}."
        )
    back = sorted({s.months for s in below if isinstance(s, Leaf) and s.months})
    if back:
        most = ", ".join(map(str, back)) if len(back) <= 4 else f"{back[0]} to {back[-1]}"
        out.append(
            f"Also figures that end {most} months before it, as known at the cut-off, on one share basis."
        )
    if any(isinstance(s, Leaf) and s.first for s in below):
        out.append("Figures as first reported: later restatements do not count.")
    if any(isinstance(s, Quote | Return | Before | Sampled) for s in below):
        out.append(
            "Prices of the primary listing, at most 10 days old, adjusted for the splits known by the cut-off."
        )
    if any(isinstance(s, AtEnd) for s in below):
        out.append("What lives on dates is read on the period end as reported.")
    if any(isinstance(s, Estimate | Surprise) for s in below):
        out.append("Estimates of the contributions that stood at the cut-off.")
    return out


def _missing(below: Sequence[Step]) -> list[str]:
    out = []
    called = {s.function.name for s in below if isinstance(s, Apply)}
    if any(isinstance(s, Compare | Member) for s in below):
        out.append(
            "Where a side of a comparison is missing the answer is unknown: neither yes nor no."
        )
    else:
        out.append(
            "A missing input makes the result missing, with its reason; the first as written says why."
        )
    if "coalesce" in called:
        out.append("Inside coalesce the first that is there counts: a missing one is passed over.")
    zeros = dict.fromkeys(
        s.item.code for s in below if isinstance(s, Leaf) and s.item.absent_is_zero
    )
    if zeros:
        out.append(f"0 where the sheet is there without the line: {', '.join(zeros)}.")
    if called & {"positive", "growth", "cagr"}:
        out.append("Not meaningful where a base is not above zero.")
    if "/" in called:
        out.append("zero_denominator where it would be divided by zero.")
    if any(isinstance(s, Apply) and s.function is INDUSTRIALS for s in below):
        out.append("Not applicable to banks and insurers.")
    if any(isinstance(s, Apply) and s.within for s in below):
        out.append("A company without the attribute it is grouped by is not known.")
    return out


class _Reader:
    def __init__(self, vocabulary: Vocabulary) -> None:
        self._vocabulary = vocabulary

    def read(self, node: Node, *, inside: bool = False) -> str:
        """In words; `inside` an operation another one stands in parentheses."""
        words = self._words(node)
        joined = isinstance(
            node, tree.Arithmetic | tree.Comparison | tree.Logic | tree.Membership | tree.Not
        )
        return f"({words})" if inside and joined else words

    def _words(self, node: Node) -> str:
        match node:
            case tree.Number(_, value):
                return f"{value:,g}"
            case tree.Money(_, value, currency):
                return f"{value:,.10g} {currency}"
            case tree.Text(_, value):
                return f"“{value}”"
            case tree.Span(_, count, unit):
                return (
                    f"{count} {_UNITS[unit]}{'s' if count != 1 else ''}"
                    if count != 1
                    else f"a {_UNITS[unit]}"
                )
            case tree.Name():
                return self._name(node)
            case tree.Keyword(_, name, value):
                return f"{name} {self._plain(value)}"
            case tree.Minus(_, operand):
                return f"minus {self.read(operand, inside=True)}"
            case tree.Arithmetic(_, operator, left, right):
                return f"{self.read(left, inside=True)} {_SIGNS[operator]} {self.read(right, inside=True)}"
            case tree.Comparison(_, operator, left, right):
                return f"{self.read(left)} is {_COMPARED[operator]} {self.read(right)}"
            case tree.Membership(_, operand, negated, members):
                listed = ", ".join(self.read(m) for m in members)
                return f"{self.read(operand)} is {'none' if negated else 'one'} of {listed}"
            case tree.Logic(_, operator, operands):
                return f" {operator} ".join(
                    self.read(o, inside=isinstance(o, tree.Logic)) for o in operands
                )
            case tree.Not(_, operand):
                return f"not {self.read(operand, inside=True)}"
            case tree.Call():
                return self._call(node)
        raise AssertionError(node)

    def _name(self, node: tree.Name) -> str:
        vocabulary = self._vocabulary
        if item := vocabulary.items.get(node.name):
            title = _lower(item.title)
            if item.nature is Nature.FLOW:
                return f"{title} {_FORMS[node.selector or 'ttm']}"
            return f"{title} {_FORMS['balance_fy']}" if node.selector else title
        if node.name in FIELDS:
            return "active" if node.name == "active" else f"{_lower(FIELDS[node.name].title)}"
        if measure := vocabulary.measures.get(node.name):
            return _lower(measure.title) + (f" {_FORMS[node.selector]}" if node.selector else "")
        return self._plain(node)

    def _plain(self, node: Node) -> str:
        return node.name.replace("_", " ") if isinstance(node, tree.Name) else self.read(node)

    def _call(self, node: tree.Call) -> str:
        given = [a for a in node.arguments if not isinstance(a, tree.Keyword)]
        more = {a.name: self._plain(a.value) for a in node.arguments if isinstance(a, tree.Keyword)}
        if node.name == "estimate":
            measure, horizon, *statistic = (self._plain(a) for a in given)
            return f"the {statistic[0] if statistic else 'mean'} of the {measure} expected for {horizon}"
        if node.name == "surprise":
            measure, *how = (self._plain(a) for a in given)
            suffix = {"relative": ", relative", "deviations": ", in standard deviations"}
            return f"the last surprise in {measure}{suffix.get(how[0], '') if how else ''}"
        words = [self.read(a, inside=True) for a in given]
        if node.name in ("coalesce", "min", "max"):
            kind = {"coalesce": "first there", "min": "least", "max": "greatest"}[node.name]
            return f"the {kind} of {', '.join(words)}"
        if node.name in ("where", "missing"):
            words = [self.read(a) for a in given]
        made = _CALLS[node.name].format(*words, *["a year"] * 2)
        if "within" in more:
            made += f" within its {more['within']}"
        if "over" in more:
            made += f", less that of {more['over']}"
        return made


def _lower(title: str) -> str:
    """A title inside a sentence: small but for abbreviations."""
    return title if title[1:2].isupper() else title[:1].lower() + title[1:]
