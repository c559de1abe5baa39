"""Whether the service answers."""

from wise_ledger import __version__
from wise_ledger.service.routes import calls
from wise_ledger.wire.ledger import Health

router = calls("health")


@router.get("/health")
def health() -> Health:
    """Whether the service answers; the one call without a token."""
    return Health(version=__version__)
