"""Estimates in expressions: `estimate` and `surprise`, whose arguments are words (E2 to E4)."""

from collections.abc import Collection, Sequence

from wise_ledger.core.catalogue.items import Nature
from wise_ledger.core.estimates.consensus import STATISTICS
from wise_ledger.core.estimates.contributions import MEASURES, QUARTER, YEAR
from wise_ledger.core.estimates.estimates import BLENDED, HORIZONS
from wise_ledger.core.language import tree
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.language.plan import Estimate, Step, Surprise
from wise_ledger.core.language.tree import Node
from wise_ledger.core.language.units import NAMED, PURE, Axis
from wise_ledger.core.language.vocabulary import Vocabulary
from wise_ledger.core.nearest import mend_for

HOW, PERIODS = ("amount", "relative", "deviations"), {"fy": YEAR, "q": QUARTER}


class EstimateTyping:
    """Types the calls of one expression that are about estimates."""

    def __init__(self, text: str, vocabulary: Vocabulary) -> None:
        self._text = text
        self._vocabulary = vocabulary

    def call(self, node: tree.Call, words: Sequence[Node], period: tree.Keyword | None) -> Step:
        """The step of `estimate(measure, horizon, statistic)` or `surprise(measure, how)`."""
        flows = [c for c, i in self._vocabulary.items.items() if i.nature is Nature.FLOW]
        word = self._word(words[0], [*MEASURES, *flows], "measure")
        code = MEASURES.get(word, word)
        unit = NAMED[self._vocabulary.items[code].unit]
        if node.name == "surprise":
            how = self._word(words[1], HOW, "way to state a surprise") if len(words) > 1 else HOW[0]
            kind = PERIODS[self._word(period.value, PERIODS, "kind of period")] if period else 0
            return Surprise(unit if how == HOW[0] else PURE, Axis.DATE, node.place, code, how, kind)
        horizon = self._word(words[1], HORIZONS, "horizon")
        statistic = (
            self._word(words[2], STATISTICS, "statistic") if len(words) > 2 else STATISTICS[0]
        )
        if horizon == "ntm" and statistic not in BLENDED:
            problem = f"the next twelve months have no {statistic}: they are a blend of two years"
            raise self._error(words[2], problem, "write mean, median, high or low; or fy1")
        counted = statistic in ("count", "raised", "cut")
        return Estimate(
            NAMED["count"] if counted else unit, Axis.DATE, node.place, code, horizon, statistic
        )

    def _word(self, node: Node, known: Collection[str], what: str) -> str:
        """A word of the language in the place of an expression."""
        written = self._text[node.place.begin : node.place.end]
        word = node.name if isinstance(node, tree.Name) and not node.selector else written
        if word not in known:
            raise self._error(node, f"{word} is no {what}", mend_for(word, known))
        return word

    def _error(self, node: Node, problem: str, mend: str) -> ExpressionError:
        return ExpressionError(self._text, node.place, problem, mend)
