"""A typed plan of an expression: every name resolved, every unit checked,
shifts pushed down to the leaves.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.catalogue.items import Item
from wise_ledger.core.language.functions.elementwise import OPERATORS
from wise_ledger.core.language.functions.function import Function
from wise_ledger.core.language.tree import Place
from wise_ledger.core.language.units import Axis, Unit
from wise_ledger.core.market.market import PRICE_FIELDS
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import shift_months


@dataclass(frozen=True)
class Step:
    """One node of a plan, with the unit and axis of its result."""

    unit: Unit
    axis: Axis
    place: Place = field(compare=False)


@dataclass(frozen=True)
class Constant(Step):
    """A number, or an amount in `currency`."""

    value: float = 0.0
    currency: str | None = None


@dataclass(frozen=True)
class TextConstant(Step):
    """A literal text."""

    value: str = ""


@dataclass(frozen=True)
class Leaf(Step):
    """A figure of an item: its form, how many months before E it ends,
    and whether as first reported.
    """

    item: Item = field(kw_only=True)
    form: str = ""  # q, h, fy, ttm, ytd; balance or balance_fy
    months: int = 0
    first: bool = False
    moves_period: bool = True  # takes part in finding E (F11)


@dataclass(frozen=True)
class Seen(Step):
    """The last observation of an item (F14)."""

    item: Item = field(kw_only=True)


@dataclass(frozen=True)
class Field(Step):
    """An attribute, or another value that lives on dates."""

    name: str = ""


@dataclass(frozen=True)
class Stretch:
    """A span of time as written: `unit` is d, mo, q or y."""

    count: int
    unit: str

    @property
    def months(self) -> int:
        """Its months; none where it counts days."""
        return self.count * {"d": 0, "mo": 1, "q": 3, "y": 12}[self.unit]

    @property
    def years(self) -> float:
        """Its length: a year is 12 months or 365 days."""
        return self.count / 365 if self.unit == "d" else self.months / 12

    def days_before(self, days: NDArray[np.int64]) -> NDArray[np.int64]:
        """Each day so long before; month ends go to month ends."""
        if self.unit == "d":
            return days - self.count
        return shift_months(days.astype(np.int32), -self.months).astype(np.int64)

    def before(self, cutoffs: NDArray[np.int64]) -> NDArray[np.int64]:
        """Each instant so long before, at its own time of day."""
        days = cutoffs // DAY
        return cutoffs + (self.days_before(days) - days) * DAY


@dataclass(frozen=True)
class Quote(Step):
    """A market field of the company (M4, M5)."""

    name: str = ""


@dataclass(frozen=True)
class Return(Step):
    """The return over a span up to the date, in excess of a list's own where one is named."""

    total: bool = False
    span: Stretch = field(kw_only=True)
    over: str | None = None


@dataclass(frozen=True)
class Estimate(Step):
    """The consensus of a measure, the code of an item (E2, E3)."""

    measure: str = ""
    horizon: str = ""
    statistic: str = "mean"


@dataclass(frozen=True)
class Surprise(Step):
    """The latest actual of a measure less what was expected (E4);
    `kind` are the months of the period, 0 for any.
    """

    measure: str = ""
    how: str = "amount"
    kind: int = 0


@dataclass(frozen=True)
class SeriesStep(Step):
    """An economic series on the date: its last period released by then,
    or so long before it in its own periods (S4).

    With `one_base` it is missing where it stands on another base than the last period.
    """

    key: str = ""
    back: Stretch | None = None
    first: bool = False
    one_base: bool = False


@dataclass(frozen=True)
class SeriesSampled(Step):
    """A function over the own periods of a series within a span,
    in the vintage of the cut-off (S4).
    """

    function: Function = field(kw_only=True)
    key: str = ""
    span: Stretch = field(kw_only=True)
    first: bool = False


@dataclass(frozen=True)
class Before(Step):
    """What lives on dates, as known so long before, on the share basis of the cut-off."""

    operand: Step = field(kw_only=True)
    span: Stretch = field(kw_only=True)


@dataclass(frozen=True)
class Sampled(Step):
    """A function over the days of a span, each sample as known on its own day;
    on price days where `priced`.
    """

    function: Function = field(kw_only=True)
    operand: Step = field(kw_only=True)
    span: Stretch = field(kw_only=True)
    priced: bool = False


@dataclass(frozen=True)
class AtEnd(Step):
    """What lives on dates, as known on the period end that ends so many months before E."""

    operand: Step = field(kw_only=True)
    months: int = 0


@dataclass(frozen=True)
class Apply(Step):
    """A function over its operands; `option` holds a constant argument such as a bucket count."""

    function: Function = field(kw_only=True)
    operands: tuple[Step, ...] = ()
    option: float = 0.0
    within: str | None = None


@dataclass(frozen=True)
class Compare(Step):
    """A comparison: a scope of its own, with one period end for both sides (F11)."""

    operator: str = ""
    left: Step = field(kw_only=True)
    right: Step = field(kw_only=True)


@dataclass(frozen=True)
class Member(Step):
    """Whether the operand equals one of the members; a scope of its own."""

    operand: Step = field(kw_only=True)
    members: tuple[Step, ...] = ()


def _hashed_once(kind: type[Step]) -> None:
    """Have steps of a kind remember their hash: a plan is looked up again and again,
    with all that is below it.
    """
    reckoned = kind.__hash__

    def remembered(self: Step) -> int:
        found = self.__dict__.get("hash")
        if found is None:
            found = self.__dict__["hash"] = reckoned(self)
        return int(found)

    kind.__hash__ = remembered  # type: ignore[assignment]


for _kind in Step.__subclasses__():
    _hashed_once(_kind)


_ON_DATES = (
    Quote,
    Return,
    Estimate,
    Surprise,
    SeriesStep,
    SeriesSampled,
    Before,
    Sampled,
    AtEnd,
)


def comparisons(step: Step) -> list[Compare | Member]:
    """The comparisons of a rule in the order written, those inside others left out."""
    if isinstance(step, Compare | Member):
        return [step]
    return [c for o in getattr(step, "operands", ()) for c in comparisons(o)]


def leaves(step: Step) -> list[Leaf]:
    """The fiscal leaves of one scope in the order written:
    those inside nested comparisons are left out.
    """
    if isinstance(step, Leaf):
        return [step]
    return [leaf for operand in getattr(step, "operands", ()) for leaf in leaves(operand)]


def observations(step: Step) -> list[Seen]:
    """The observations of an expression in the order written."""
    if isinstance(step, Seen):
        return [step]
    return [found for operand in getattr(step, "operands", ()) for found in observations(operand)]


def parts(step: Step) -> Iterator[Step]:
    """A step and all below it, those read on other dates too."""
    yield step
    for part in below(step):
        yield from parts(part)


def below(step: Step) -> Iterator[Step]:
    """What a step is made of, in the order written."""
    for name in ("operand", "left", "right"):
        if (part := getattr(step, name, None)) is not None:
            yield part
    yield from getattr(step, "operands", ())
    yield from getattr(step, "members", ())


def on_dates(step: Step) -> Iterator[Step]:
    """The parts that are read off prices and estimates, in the order written:
    the outermost of each.
    """
    for part, _ in on_dates_in(step, step):
        yield part


def on_dates_in(step: Step, opens: Step) -> Iterator[tuple[Step, Step]]:
    """The same, each beside what opens its scope: the comparison it stands in, else `opens`."""
    if isinstance(step, _ON_DATES):
        yield step, opens
        return
    own = step if isinstance(step, Compare | Member) else opens
    for part in below(step):
        yield from on_dates_in(part, own)


def within_scope(step: Step) -> Iterator[Step]:
    """A step and all below it that share its period end: not what comparisons look at,
    nor what other dates do.
    """
    yield step
    if not isinstance(step, Compare | Member | Before | Sampled | AtEnd):
        for operand in getattr(step, "operands", ()):
            yield from within_scope(operand)


def amount_on_dates(step: Step) -> bool:
    """Whether an amount that lives on dates is part of an expression;
    what a comparison looks at is none.
    """
    if isinstance(
        step,
        Seen | Field | Quote | Estimate | Surprise | SeriesStep | SeriesSampled | Before | Sampled,
    ):
        return step.unit.kind == "number" and step.unit.money != 0
    if isinstance(step, Compare | Member):
        return False
    return any(amount_on_dates(operand) for operand in getattr(step, "operands", ()))


def price_of_a_day(step: Step) -> bool:
    """Whether the price of a trading day is part of an expression, read on no other day."""
    if isinstance(step, Quote):
        return step.name in PRICE_FIELDS and amount_on_dates(step)
    if isinstance(step, Compare | Member | Before | Sampled):
        return False
    return any(price_of_a_day(operand) for operand in getattr(step, "operands", ()))


def scope_leaves(step: Step) -> list[Leaf]:
    """The leaves of the scope that a comparison opens, or of the outermost one."""
    if isinstance(step, Compare):
        return leaves(step.left) + leaves(step.right)
    if isinstance(step, Member):
        return leaves(step.operand)
    return leaves(step)


def placed(step: Step, place: Place) -> Step:
    """The step and all below it, as if they were written at one place."""
    operands = getattr(step, "operands", ())
    moved = {"operands": tuple(placed(o, place) for o in operands)} if operands else {}
    return replace(step, place=place, **moved)  # type: ignore[arg-type]


def applied(name: str, unit: Unit, axis: Axis, place: Place, operands: tuple[Step, ...]) -> Apply:
    """An operator of this name over operands."""
    return Apply(unit, axis, place, function=OPERATORS[name], operands=operands)
