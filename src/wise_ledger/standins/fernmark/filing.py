"""A filing as Fernmark serves it."""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any


@dataclass(frozen=True)
class Filing:
    """One filing as served; `body` is its JSON, made when first asked for where `made` says how."""

    id: str
    title: str
    kind: str
    published: str
    made: bytes | Callable[[], bytes]
    public: datetime  # when anybody can have it, whatever it says of that itself
    version: int = 1

    @cached_property
    def body(self) -> bytes:
        """The bytes."""
        return self.made if isinstance(self.made, bytes) else self.made()


def as_written(head: Mapping[str, Any], figures: list[dict[str, Any]]) -> bytes:
    """A filing's JSON, a figure a line; figures are flat, and no text in them has braces."""
    lines = json.dumps(figures)[1:-1].replace("}, {", "},\n  {")
    return f'{json.dumps(head, indent=1)[:-2]},\n "figures": [\n  {lines}\n ]\n}}'.encode()
