"""Writing what people decide: what a term or a tag means, who goes first,
which figures count, what is registered.
"""

from collections.abc import Sequence
from dataclasses import asdict

from wise_ledger.core.catalogue.items import Item
from wise_ledger.core.records.limits import LimitSaid
from wise_ledger.core.records.records import TagMeaning
from wise_ledger.store import tables
from wise_ledger.store.batchrows import BatchRows
from wise_ledger.store.tables import decisions, list_notes, lists, mappings
from wise_ledger.store.texts import in_one_text


class DecisionWriter(BatchRows):
    """Takes what people say, each with who and why."""

    def add_decision(self, term: str, company: int | None, who: str, why: str) -> None:
        """What a person says a term means; without a company an earlier word is taken back."""
        row = {
            "id": self._take(decisions),
            "term": term,
            "company": company,
            "who": who,
            "why": why,
        }
        self._insert(decisions, [row])

    def add_list_note(
        self, name: str, title: str, description: str, archived: bool, who: str
    ) -> None:
        """Change what a list is called and about, and whether it is archived."""
        number = self._named(lists, "name", name, {"title": title})
        row = {
            "list": number,
            "title": title,
            "description": description,
            "archived": archived,
            "who": who,
        }
        self._insert(list_notes, [{"id": self._take(list_notes), **row}])

    def add_mapping(self, source: str, rule: TagMeaning, who: str, why: str) -> None:
        """What a person says a source's tag means."""
        row = {"id": self._take(mappings), "source": source, **asdict(rule), "who": who, "why": why}
        self._insert(mappings, [row])

    def add_item(self, item: Item, who: str) -> None:
        """Register an item, or define again one that was."""
        row = {
            "item": self.item(item.code),
            "title": item.title,
            "nature": item.nature.value,
            "unit": item.unit,
        }
        row |= {
            "definition": item.definition,
            "told_by": item.source,
            "stale_after": item.stale_after,
            "who": who,
        }
        self._insert(tables.item_definitions, [{"id": self._take(tables.item_definitions), **row}])

    def add_source_order(
        self, item: str | None, company: int | None, sources: Sequence[str], who: str, why: str
    ) -> None:
        """Which sources go first (T5), for an item, a company, both or all."""
        row = {
            "item": item,
            "company": company,
            "sources": in_one_text(sources),
            "who": who,
            "why": why,
        }
        self._insert(tables.source_orders, [{"id": self._take(tables.source_orders), **row}])

    def add_limit(self, said: LimitSaid, who: str, why: str) -> None:
        """What a person says of a limit (T4, F12)."""
        row = {"id": self._take(tables.limits), **asdict(said), "who": who, "why": why}
        self._insert(tables.limits, [row])

    def add_verdict(self, fact: int, accepted: bool, who: str, why: str) -> None:
        """What a person says of a fact in quarantine (Q2)."""
        row = {
            "id": self._take(tables.verdicts),
            "fact": fact,
            "accepted": accepted,
            "who": who,
            "why": why,
        }
        self._insert(tables.verdicts, [row])
