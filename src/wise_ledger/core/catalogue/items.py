"""The catalogue of items: what kinds of figures the ledger understands,
one row of `items.csv` each.
"""

import csv
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

ALL_TEMPLATES = frozenset({"industrial", "bank", "insurer"})


class Nature(StrEnum):
    """Over a period, at a balance date, or dated by when it was seen (F14)."""

    FLOW = "flow"
    STOCK = "stock"
    OBSERVATION = "observation"


@dataclass(frozen=True)
class Part:
    """That a line is added to a subtotal (`sign` 1) or taken from it (-1),
    in the templates where it is.
    """

    into: str
    sign: int
    templates: frozenset[str]


@dataclass(frozen=True)
class Item:
    """One kind of figure; `unit` is `money`, `money_per_share`, `shares`, `pure` or `count`."""

    code: str
    title: str
    statement: str  # income, balance, cash_flow, per_share, share_count or other
    nature: Nature
    unit: str
    definition: str
    templates: frozenset[str] = ALL_TEMPLATES
    additive: bool = True
    absent_is_zero: bool = False  # F13
    optional: bool = False  # a statement may leave it out though the lines beside it add up
    indent: int = 0
    parts_of: tuple[Part, ...] = ()
    sum_of: tuple[str, ...] = ()  # the items that it is the sum of, where nobody reports it
    synonyms: tuple[str, ...] = ()
    stale_after: int | None = None  # days, of an observation (F14)
    source: str = ""  # where the figures of a registered item come from, in words

    def sign_in(self, template: str | None) -> int:
        """1 or -1: how the line enters the subtotal it belongs to in a
        template; 0 where it enters none.
        """
        found = [p.sign for p in self.parts_of if template is None or template in p.templates]
        return found[0] if found else 0

    def is_of_which(self, template: str | None) -> bool:
        """Whether the line only shows a part of another: it enters no subtotal, and is none."""
        return self.indent > 0 and self.sign_in(template) == 0

    @property
    def approximate(self) -> bool:
        """Sums and differences of it are approximate (F9)."""
        return self.unit == "money_per_share"


def _item(row: dict[str, str]) -> Item:
    traits, templates = row["traits"].split(), frozenset(row["templates"].split()) or ALL_TEMPLATES
    return Item(
        row["code"],
        row["title"],
        row["statement"],
        Nature(row["nature"]),
        row["unit"],
        row["definition"],
        templates,
        additive="average" not in traits,
        absent_is_zero="zero" in traits,
        optional=bool({"zero", "optional"} & set(traits)),
        indent=int(row["indent"]),
        parts_of=tuple(_part(text, templates) for text in row["into"].split()),
        sum_of=tuple(code for t in traits if t.startswith("sum:") for code in t[4:].split("+")),
        synonyms=tuple(row["synonyms"].split(";")) if row["synonyms"] else (),
    )


def _part(text: str, templates: frozenset[str]) -> Part:
    """`+gross_profit`, or `-revenue@bank` where it holds for one template alone."""
    into, _, only = text[1:].partition("@")
    return Part(into, -1 if text[0] == "-" else 1, frozenset({only}) if only else templates)


with (Path(__file__).parent / "items.csv").open(encoding="utf-8", newline="") as _file:
    ITEMS: dict[str, Item] = {row["code"]: _item(row) for row in csv.DictReader(_file)}


def unit_fits(item: Item, unit: str) -> bool:
    """Whether a fact's unit (`EUR`, `EUR/shares`, `shares`, `pure`) is of the item's kind (Q1)."""
    money, _, per = unit.partition("/")
    is_money = len(money) == 3 and money.isascii() and money.isalpha() and money.isupper()
    if item.unit == "money":
        return is_money and not per
    if item.unit == "money_per_share":
        return is_money and per == "shares"
    return unit == item.unit
