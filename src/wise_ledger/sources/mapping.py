"""From a source's tags to our items: with sign, scale, unit and template.

What ships is YAML beside each adapter.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Any

import yaml

from wise_ledger.core.records.records import TagMeaning


@dataclass(frozen=True, eq=False)
class TagMapping:
    """All rules for one source; a mapping is like itself alone,
    so that what is made of it can be kept.
    """

    rules: dict[tuple[str, str | None], TagMeaning] = field(default_factory=dict)

    def rule(self, tag: str, template: str | None) -> TagMeaning | None:
        """What a tag means for a company of a template; None for a tag without an item."""
        return self.rules.get((tag, template)) or self.rules.get((tag, None))

    def with_rules(self, more: Iterable[TagMeaning]) -> "TagMapping":
        """These rules and others, which go before them."""
        return TagMapping(self.rules | {(r.tag, r.template): r for r in more})

    def all(self) -> list[TagMeaning]:
        """Every rule by tag."""
        return [self.rules[key] for key in sorted(self.rules, key=lambda k: (k[0], k[1] or ""))]


@cache
def shipped(source: str) -> TagMapping:
    """The mapping that comes with an adapter."""
    rules_of: dict[str, Any] = yaml.safe_load(
        files("wise_ledger.sources").joinpath(f"{source}.yaml").read_text("utf-8")
    )
    rules = [
        TagMeaning(tag, to) if isinstance(to, str) else TagMeaning(tag, **to)
        for tag, to in rules_of.items()
    ]
    return TagMapping().with_rules(rules)
