"""The names an expression may use: items, fields and functions."""

from collections.abc import Mapping
from dataclasses import dataclass

from wise_ledger.core.facts.items import ITEMS, Item
from wise_ledger.core.measures.units import TEXT, TRUTH, Unit

ATTRIBUTES: Mapping[str, Unit] = {
    "country": TEXT,
    "industry": TEXT,
    "template": TEXT,
    "venue": TEXT,
    "security_type": TEXT,
    "currency": TEXT,
    "active": TRUTH,
}


@dataclass(frozen=True)
class Function:
    """A function's shape: how it is called, and what it does in words."""

    name: str
    call: str
    meaning: str


FUNCTIONS: Mapping[str, Function] = {
    f.name: f
    for f in (
        Function("ago", "ago(x, span)", "x that long before"),
        Function("change", "change(x, span)", "x less x that long before"),
        Function("growth", "growth(x, span)", "x over x that long before, less 1"),
        Function("positive", "positive(x)", "x where it is above 0, else not meaningful"),
        Function("coalesce", "coalesce(a, b, …)", "the first that is there"),
        Function("missing", "missing(x)", "whether x is missing"),
        Function("where", "where(test, a, b)", "a where the test holds, else b"),
        Function("abs", "abs(x)", "x without its sign"),
        Function("log", "log(x)", "natural logarithm"),
        Function("sqrt", "sqrt(x)", "square root"),
        Function("min", "min(a, b, …)", "the least"),
        Function("max", "max(a, b, …)", "the greatest"),
        Function("clip", "clip(x, low, high)", "x kept between two bounds"),
        Function("first_reported", "first_reported(x)", "x from first reported versions only"),
        Function("rank", "rank(x)", "place among the companies, 1 the highest, ties share the mean"),
        Function("percentile", "percentile(x)", "100 for the highest, 0 for the lowest"),
        Function("bucket", "bucket(x, n)", "1 … n by equal counts, 1 the highest"),
        Function("zscore", "zscore(x)", "distance from the mean in standard deviations"),
        Function("winsor", "winsor(x, 1%)", "x clipped at that quantile of each tail"),
        Function("rescale", "rescale(x)", "x mapped to -1 … 1 between the 5th and the 95th percentile"),
    )
}
CROSS_SECTION = frozenset({"rank", "percentile", "bucket", "zscore", "winsor", "rescale"})


@dataclass(frozen=True)
class Vocabulary:
    """Items and fields by name; functions are the same for all."""

    items: Mapping[str, Item]
    fields: Mapping[str, Unit]

    @property
    def names(self) -> list[str]:
        """Everything a name may be."""
        return [*self.items, *self.fields]


STANDARD = Vocabulary(ITEMS, ATTRIBUTES)
