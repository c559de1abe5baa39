"""What can go wrong between us and a source."""

from wise_ledger.core.errors import LedgerError, Problem


class SourceError(LedgerError):
    """A source did not give what it was asked for."""

    title = "The source did not answer as it should"
    tries = 0  # requests made before it was given up


class SourceUnreachable(SourceError):
    """Down or slow: trying again may help."""


class SourceBusy(SourceError):
    """Our quota is used up for longer than we wait: nothing more is to be had for now."""


class SourceRefused(SourceError):
    """The key is not accepted: trying again will not help."""


class SourceDamaged(SourceError):
    """What came cannot be read: cut short, not JSON, or not of the shape that was agreed."""


class SourceStopped(SourceError):
    """We stop: the source is not to blame."""

    title = "We stopped asking"


class BadFigure(SourceError):
    """One figure of a document cannot be a figure of its item."""


def unreachable(at: str, value: object, problem: str, mend: str) -> SourceUnreachable:
    """A `SourceUnreachable` with its one problem."""
    return SourceUnreachable(Problem(at, str(value), problem, mend))


def busy(at: str, value: object, problem: str, mend: str) -> SourceBusy:
    """A `SourceBusy` with its one problem."""
    return SourceBusy(Problem(at, str(value), problem, mend))


def stopped(at: str) -> SourceStopped:
    """A `SourceStopped` with its one problem."""
    return SourceStopped(
        Problem(
            at, "", "the service stops", "what was stored stays; the rest goes on at its next start"
        )
    )


def damaged(at: str, value: object, problem: str) -> SourceDamaged:
    """A `SourceDamaged` with its one problem; of what came, its beginning on one line."""
    text = value.decode("utf-8", "replace") if isinstance(value, bytes) else str(value)
    return SourceDamaged(
        Problem(
            at,
            " ".join(text[:400].split())[:80],
            problem,
            "collect again; if it stays so, report it to the source",
        )
    )


def bad_figure(at: str, value: object, problem: str) -> BadFigure:
    """A `BadFigure` with its one problem."""
    mend = "nothing of this company was stored; collect again when the source has mended it"
    return BadFigure(Problem(at, str(value)[:80], problem, mend))
