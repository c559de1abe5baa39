"""Why a cell has no number (section N of the domain rules)."""

from enum import IntEnum


class Reason(IntEnum):
    """Missing is a value with a reason; NONE means the number is there."""

    NONE = 0
    NOT_APPLICABLE = 1
    NOT_REPORTED = 2
    NOT_KNOWN = 3
    WITHDRAWN = 4
    STALE = 5
    INCOMPLETE = 6
    NOT_DERIVABLE = 7
    NOT_MEANINGFUL = 8
    ZERO_DENOMINATOR = 9
    NO_RATE = 10
    INACTIVE = 11
    NO_ESTIMATES = 12

    @property
    def code(self) -> str:
        """The word that travels through every interface, such as `not_known`."""
        return self.name.lower()


# By number: what a cell says, None where it has a value. Looked up for every cell of a table.
CODES: tuple[str | None, ...] = (None, *(Reason(n).code for n in range(1, len(Reason))))


def reason_of(code: str | None) -> Reason:
    """The reason of a word, `NONE` of None.

    >>> reason_of("no_rate").code, reason_of(None)
    ('no_rate', <Reason.NONE: 0>)
    """
    return Reason.NONE if code is None else Reason[code.upper()]
