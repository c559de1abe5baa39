"""Units of expressions: how they combine, which may meet, and their names."""

from dataclasses import dataclass
from enum import IntEnum


class Axis(IntEnum):
    """Where a value lives; an expression lives on the last of its parts' axes."""

    CONSTANT = 0
    FISCAL = 1
    DATE = 2
    CROSS = 3


@dataclass(frozen=True)
class Unit:
    """Powers of money, shares, counted things and days; or `text`, or `truth`.

    `bare` is a number written without unit, which fits every unit but money; `zero` is the literal
    0; `amount` is a money literal, which fits money, money per share and money per count.
    """

    money: int = 0
    shares: int = 0
    count: int = 0
    days: int = 0
    kind: str = "number"
    bare: bool = False
    zero: bool = False
    amount: bool = False

    def times(self, other: "Unit", sign: int = 1) -> "Unit":
        """The unit of a product (`sign` -1: of a quotient)."""
        return Unit(
            self.money + sign * other.money,
            self.shares + sign * other.shares,
            self.count + sign * other.count,
            self.days + sign * other.days,
            bare=self.bare and other.bare,
        )

    def to_power(self, exponent: int) -> "Unit":
        """The unit of an integer power."""
        return Unit(
            self.money * exponent,
            self.shares * exponent,
            self.count * exponent,
            self.days * exponent,
        )

    def plain(self) -> "Unit":
        """Without the marks of a literal."""
        return Unit(self.money, self.shares, self.count, self.days, self.kind)

    @property
    def name(self) -> str:
        """The trade's word for it, or the product spelled out."""
        if self.kind != "number":
            return self.kind
        for name, unit in NAMED.items():
            if unit == self.plain():
                return name
        powers = {
            "money": self.money,
            "shares": self.shares,
            "count": self.count,
            "days": self.days,
        }
        over = " x ".join(f"{n}^{p}" if p > 1 else n for n, p in powers.items() if p > 0) or "1"
        under = " x ".join(f"{n}^{-p}" if p < -1 else n for n, p in powers.items() if p < 0)
        return f"{over} / {under}" if under else over

    @property
    def listed(self) -> bool:
        """Whether a column may end in it."""
        return self.kind != "number" or self.plain() in NAMED.values()


NAMED = {
    "money": Unit(money=1),
    "money_per_share": Unit(money=1, shares=-1),
    "money_per_count": Unit(money=1, count=-1),
    "shares": Unit(shares=1),
    "pure": Unit(),
    "count": Unit(count=1),
    "days": Unit(days=1),
}
PURE = NAMED["pure"]
TEXT = Unit(kind="text")
TRUTH = Unit(kind="truth")
BARE = Unit(bare=True)
AMOUNT = Unit(money=1, amount=True)
_TAKE_BARE = {NAMED[n] for n in ("pure", "shares", "count", "days")}
_TAKE_AMOUNT = {NAMED[n] for n in ("money", "money_per_share", "money_per_count")}


def meet(a: Unit, b: Unit) -> Unit | None:
    """The common unit of two sides of a sum or comparison; None where they do not fit."""
    if a.zero or b.zero:
        other = b if a.zero else a
        return (
            other.plain()
            if other.kind == "number" and not other.bare
            else (a if other.bare else None)
        )
    if a.bare and b.bare:
        return BARE
    if a.bare or b.bare:
        other = b if a.bare else a
        return other.plain() if other.plain() in _TAKE_BARE else None
    if a.amount or b.amount:
        other = b if a.amount else a
        return other if other.plain() in _TAKE_AMOUNT else None
    return a if a == b else None
