"""The service put together from settings."""

from datetime import UTC, datetime

from wise_ledger.launch.settings import Settings
from wise_ledger.sources.fernmark import NAME, Fernmark
from wise_ledger.sources.protocol import OpenSource
from wise_ledger.work.desk import Desk


def open_desk(settings: Settings) -> Desk:
    """The ledger of the settings, with the sources that they name."""
    sources: dict[str, OpenSource] = {}
    if settings.fernmark_url:
        sources[NAME] = lambda: Fernmark(
            settings.fernmark_url, settings.fernmark_key.get_secret_value(), settings.fernmark_timeout
        )
    return Desk.open(settings.data, sources, lambda: datetime.now(UTC))
