"""The root command; each noun is loaded when it is called, so that `--help` answers at once."""

import importlib
from typing import Any

import click

from wise_ledger import __version__
from wise_ledger.cli.groups import Group

# noun: (module, what it does in a line)
NOUNS = {
    "screen": ("wise_ledger.cli.screen", "Who of a list passes a rule, as known on a date."),
    "statements": ("wise_ledger.cli.statements", "A company's statements as known on a date."),
    "restatements": ("wise_ledger.cli.restatements", "What companies restated."),
    "prices": ("wise_ledger.cli.prices", "Prices of companies over a range of days."),
    "estimates": ("wise_ledger.cli.estimates", "What analysts expected, and what was announced."),
    "series": ("wise_ledger.cli.series", "Economic series with every vintage: find, get, compare."),
    "measures": (
        "wise_ledger.cli.measures",
        "Named expressions: show, keep, check what one means.",
    ),
    "panel": ("wise_ledger.cli.panel", "Measures of a list on many dates, or by fiscal period."),
    "questions": ("wise_ledger.cli.questions", "Kept panels and screens."),
    "market": ("wise_ledger.cli.prices", "Last closes, their changes, market values."),
    "quality": ("wise_ledger.cli.quality", "What checks found wrong; the quarantine."),
    "explain": ("wise_ledger.cli.explain", "Where a figure comes from, and its versions."),
    "collect": ("wise_ledger.cli.collect", "Collect from a source into the ledger."),
    "load": ("wise_ledger.cli.load", "Load files of companies, facts, dated pages."),
    "match": ("wise_ledger.cli.match", "Which companies names, symbols and codes mean."),
    "companies": ("wise_ledger.cli.companies", "Companies: search them, look at one."),
    "venues": ("wise_ledger.cli.companies", "Venues with their listings by security type."),
    "securities": ("wise_ledger.cli.companies", "Securities with their companies and listings."),
    "listings": ("wise_ledger.cli.companies", "Listings with their companies."),
    "lists": ("wise_ledger.cli.lists", "Lists of companies: show them, their members, keep one."),
    "catalogue": ("wise_ledger.cli.catalogue", "What can be asked for: find it, register more."),
    "sources": ("wise_ledger.cli.sources", "The sources, and what their tags mean."),
    "limits": (
        "wise_ledger.cli.limits",
        "How old a figure may be, how late undated ones are.",
    ),
    "runs": ("wise_ledger.cli.runs", "Long work: how far it is, and what came in."),
    "schedules": ("wise_ledger.cli.schedules", "Collections at set times."),
    "tokens": ("wise_ledger.cli.tokens", "Who may call: make, see, revoke."),
    "batches": ("wise_ledger.cli.browse", "What was written to the ledger, the newest first."),
    "documents": ("wise_ledger.cli.browse", "A document's raw bytes."),
    "verify": ("wise_ledger.cli.browse", "Recompute the ledger's hash chain."),
}


class Nouns(Group):
    """Loads a noun's module when it is asked for;
    `add` takes commands from other rooms the same way.
    """

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.nouns = dict(NOUNS)

    def list_commands(self, context: click.Context) -> list[str]:
        return sorted(self.nouns)

    def get_command(self, context: click.Context, name: str) -> click.Command | None:
        if name not in self.nouns:
            return None
        module, _ = self.nouns[name]
        command: click.Command = getattr(importlib.import_module(module), name.replace("-", "_"))
        return command

    def format_commands(self, context: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(
                [(name, self.nouns[name][1]) for name in self.list_commands(context)]
            )


@click.group(
    cls=Nouns, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100}
)
@click.version_option(__version__, prog_name="wise-ledger", message="%(prog)s %(version)s")
def root() -> None:
    """Wise Ledger: fundamentals as they were known.

    The commands ask a running service: WISE_LEDGER_URL says where it is, WISE_LEDGER_TOKEN is the
    token to sign in with. Exit status: 0 all well, 1 the work failed, 2 wrong usage, 3 partly done.
    """
