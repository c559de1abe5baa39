"""The catalogue of items: what kinds of figures the ledger understands."""

from dataclasses import dataclass
from enum import StrEnum

ALL_TEMPLATES = frozenset({"industrial", "bank", "insurer"})


class Nature(StrEnum):
    """Over a period, or at a date."""

    FLOW = "flow"
    STOCK = "stock"


@dataclass(frozen=True)
class Item:
    """One kind of figure; `unit` is `money`, `money_per_share`, `shares`, `pure` or `count`."""

    code: str
    title: str
    statement: str  # income, balance, cash_flow, per_share or share_count
    nature: Nature
    unit: str
    definition: str
    templates: frozenset[str] = ALL_TEMPLATES
    additive: bool = True

    @property
    def approximate(self) -> bool:
        """Sums and differences of it are approximate (F9)."""
        return self.unit == "money_per_share"


def _item(code: str, statement: str, nature: str, unit: str, definition: str, *templates: str) -> Item:
    title = code.replace("_", " ").capitalize()
    return Item(code, title, statement, Nature(nature), unit, definition, frozenset(templates) or ALL_TEMPLATES)


ITEMS: dict[str, Item] = {
    item.code: item
    for item in (
        _item("revenue", "income", "flow", "money", "What customers were charged for goods and services; of a bank or insurer its total income."),  # noqa: E501
        _item("cost_of_revenue", "income", "flow", "money", "What the goods and services sold cost to make or buy.", "industrial"),  # noqa: E501
        _item("operating_income", "income", "flow", "money", "Revenue less the costs of running the business, before interest and tax.", "industrial"),  # noqa: E501
        _item("net_income", "income", "flow", "money", "Profit after all costs, interest and tax, for the owners of the company."),  # noqa: E501
        _item("diluted_eps", "per_share", "flow", "money_per_share", "Net income for each ordinary share, as if all options on shares were used."),  # noqa: E501
        _item("operating_cash_flow", "cash_flow", "flow", "money", "Cash that the business itself brought in."),
        _item("capital_expenditure", "cash_flow", "flow", "money", "Cash paid for plant, equipment and other lasting assets."),  # noqa: E501
        _item("current_assets", "balance", "stock", "money", "Cash and what becomes cash within a year.", "industrial"),
        _item("total_assets", "balance", "stock", "money", "All that the company owns or is owed."),
        _item("total_liabilities", "balance", "stock", "money", "All that the company owes."),
        _item("shareholders_equity", "balance", "stock", "money", "Total assets less total liabilities."),
        _item("shares_outstanding", "share_count", "stock", "shares", "Ordinary shares in the hands of holders."),
    )
}  # fmt: skip


def unit_fits(item: Item, unit: str) -> bool:
    """Whether a fact's unit (`EUR`, `EUR/shares`, `shares`, `pure`) is of the item's kind (Q1)."""
    money, _, per = unit.partition("/")
    is_money = len(money) == 3 and money.isascii() and money.isalpha() and money.isupper()
    if item.unit == "money":
        return is_money and not per
    if item.unit == "money_per_share":
        return is_money and per == "shares"
    return unit == item.unit
