"""The service put together from settings."""

import logging
from collections.abc import Callable
from datetime import UTC, datetime
from importlib.metadata import entry_points

from wise_ledger.launch.memory import look_for_garbage_less
from wise_ledger.launch.settings import Settings
from wise_ledger.service.gate import LOOPBACK, Doors
from wise_ledger.sources.fernmark import NAME, Fernmark
from wise_ledger.sources.oskelby import NAME as OSKELBY
from wise_ledger.sources.oskelby import Oskelby
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.sources.protocol import OpenSource, Source
from wise_ledger.sources.sdmx import Sdmx
from wise_ledger.sources.tolvane import NAME as TOLVANE
from wise_ledger.sources.tolvane import Tolvane
from wise_ledger.wire.tables import write_batches
from wise_ledger.work.desk import Desk
from wise_ledger.work.notices import Post

log = logging.getLogger(__name__)
PLUGINS = "wise_ledger.sources"


def open_desk(settings: Settings) -> Desk:
    """The ledger of the settings, with the sources that they name and those that are plugged in."""
    sources: dict[str, OpenSource] = {}
    if settings.fernmark_url:
        pace = Pace(
            settings.fernmark_per_second, settings.fernmark_per_day, settings.fernmark_at_once
        )
        sources[NAME] = fernmark(settings, Budget(pace))
    if settings.tolvane_url:
        archive = Budget(Pace(settings.tolvane_per_second))
        sources[TOLVANE] = lambda: Tolvane(settings.tolvane_url, settings.tolvane_timeout, archive)
    if settings.oskelby_url:
        analysts, key = Budget(Pace()), settings.oskelby_key.get_secret_value()
        sources[OSKELBY] = lambda: Oskelby(
            settings.oskelby_url, key, settings.oskelby_timeout, analysts
        )
    for name, address_and_title in settings.sdmx.items():
        sources[name] = _sdmx(name, address_and_title, settings.sdmx_timeout)
    sources |= plugged_in()
    post = Post(
        settings.smtp_host,
        settings.smtp_port,
        settings.mail_from,
        settings.notice_secret.get_secret_value(),
        settings.public_url,
        _words(settings.notice_hosts),
    )
    look_for_garbage_less()  # with all modules at hand
    return Desk.open(
        settings.data,
        sources,
        lambda: datetime.now(UTC),
        post=post,
        confirm_above=settings.confirm_above,
        memory=settings.memory << 20,
        write=write_batches,
    )


def doors(settings: Settings) -> Doors:
    """How the service is open: by loopback names, the address that it binds to,
    and those that the settings name.
    """
    own = set() if settings.host in ("0.0.0.0", "::", "") else {settings.host.lower()}
    return Doors(
        LOOPBACK | own | {*_words(settings.hosts)},
        settings.open_document,
        settings.largest_file << 20,
        settings.at_once,
    )


def _words(text: str) -> tuple[str, ...]:
    return tuple(word.strip().lower() for word in text.split(",") if word.strip())


def fernmark(settings: Settings, budget: Budget) -> Callable[[], Source]:
    """Opens Fernmark Data; every connection shares one budget."""
    key = settings.fernmark_key.get_secret_value()
    return lambda: Fernmark(settings.fernmark_url, key, settings.fernmark_timeout, budget)


def _sdmx(name: str, address_and_title: str, timeout: float) -> Callable[[], Source]:
    """Opens an SDMX service by its address, with the title that may stand behind it."""
    address, _, title = address_and_title.partition(" ")
    budget = Budget(Pace())
    return lambda: Sdmx(name, title.strip() or name.capitalize(), address, timeout, budget)


def plugged_in() -> dict[str, OpenSource]:
    """Sources of third parties: each entry point names a function that opens one.

    A broken one is logged, left out.
    """
    found: dict[str, OpenSource] = {}
    for point in entry_points(group=PLUGINS):
        try:
            found[point.name] = point.load()
        except Exception:
            log.exception("the source %s cannot be loaded", point.name)
    return found
