"""Names that the shell completes: of lists, companies and items,
as the running service has them.
"""

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

import click
from click.shell_completion import CompletionItem

if TYPE_CHECKING:
    from wise_ledger.client import Ledger

_SECONDS, _MOST = 2.0, 40


class Named(click.ParamType):
    """A text; `names` gives what it may be, with a word about each,
    for the beginning that is typed.
    """

    def __init__(
        self, name: str, names: "Callable[[Ledger, str], Iterator[tuple[str, str]]]"
    ) -> None:
        self.name = name
        self._names = names

    def shell_complete(
        self, context: click.Context, parameter: click.Parameter, incomplete: str
    ) -> list[CompletionItem]:
        """What begins so; nothing where no service answers in time."""
        from wise_ledger.client import WiseLedgerError, connect

        try:
            with connect(timeout=_SECONDS) as ledger:
                found = [
                    (n, w)
                    for n, w in self._names(ledger, incomplete)
                    if n.lower().startswith(incomplete.lower())
                ]
        except WiseLedgerError:
            return []
        return [CompletionItem(name, help=words) for name, words in found[:_MOST]]


def _lists(ledger: "Ledger", _: str) -> Iterator[tuple[str, str]]:
    yield from ((entry.name, entry.title) for entry in ledger.lists())


def _items(ledger: "Ledger", _: str) -> Iterator[tuple[str, str]]:
    yield from ((item.code, item.title) for item in ledger.catalogue().items)


def _companies(ledger: "Ledger", incomplete: str) -> Iterator[tuple[str, str]]:
    """By symbol, of what is written already."""
    for entry in ledger.listings().listings:
        if entry.listing.primary and entry.active:
            yield f"{entry.listing.symbol}@{entry.listing.mic}", entry.name


def _series(ledger: "Ledger", _: str) -> Iterator[tuple[str, str]]:
    yield from ((s.key, s.title) for s in ledger.find_series(limit=1000).series)


def _sheets(ledger: "Ledger", _: str) -> Iterator[tuple[str, str]]:
    yield from ((s.name, s.title) for s in ledger.sheets().sheets)


def _measures(ledger: "Ledger", _: str) -> Iterator[tuple[str, str]]:
    yield from ((m.name, m.title) for m in ledger.measures().measures)


SERIES = Named("series", _series)
SHEET = Named("sheet", _sheets)
MEASURE = Named("measure", _measures)
LIST = Named("list", _lists)
ITEM = Named("item", _items)
COMPANY = Named("company", _companies)
