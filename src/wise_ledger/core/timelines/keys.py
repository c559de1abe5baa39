"""Keys of timelines: a company and a nominal end in one sortable number;
and how a figure under a key stands.
"""

from enum import IntFlag
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.time.periods import Days

Keys = NDArray[np.int64]
Rows = NDArray[np.int64]
Instants = NDArray[np.int64]

_END_BITS = 21
_END_ZERO = 1 << (_END_BITS - 1)
FIRST_END = -_END_ZERO  # a day before which no period ends


class State:
    """How a figure stands: not there, there,
    or withdrawn (there but for a withdrawn figure of that end, F11).

    Plain numbers: an array of bytes is compared with one many times as fast as with a member of an
    enumeration.
    """

    ABSENT = 0
    VALUE = 1
    WITHDRAWN = 2


class Mark(IntFlag):
    """What a reader must know of a value beside the number."""

    NONE = 0
    ASSUMED = 1  # a publication date was assumed (T4)
    APPROXIMATE = 2  # formed from per-share figures (F9)
    MIXED_BASIS = 4  # a restated input beside one that was not (F10)
    IMPLIED = 8  # absent, and that means zero (F13)
    FLAGGED = 16  # a check found something soft, or a person took it out of quarantine (Q2)
    EXTREME = 32  # a ratio so large or small that what it is divided by, or of, is near zero


def make_keys(company: NDArray[Any], end: NDArray[Any]) -> Keys:
    """One sortable number for a company and a nominal end."""
    return (company.astype(np.int64) << _END_BITS) | (end.astype(np.int64) + _END_ZERO)


def key_company(keys: Keys) -> NDArray[np.int64]:
    """The company of each key."""
    return keys >> _END_BITS


def key_end(keys: Keys) -> Days:
    """The nominal end of each key."""
    return ((keys & ((1 << _END_BITS) - 1)) - _END_ZERO).astype(np.int32)


def company_starts(keys: Keys, company: NDArray[np.int64]) -> Rows:
    """Where the rows of each company begin among sorted keys."""
    return np.searchsorted(keys, make_keys(company, np.full(len(company), FIRST_END)))


def group_starts(keys: Keys) -> NDArray[np.bool_]:
    """True at the first row of each run of equal keys."""
    starts = np.ones(len(keys), np.bool_)
    starts[1:] = keys[1:] != keys[:-1]
    return starts


def group_ends(keys: Keys, at: NDArray[np.int64]) -> NDArray[np.bool_]:
    """True at the last row of each run of equal (key, instant): what stands at that instant."""
    ends = np.ones(len(keys), np.bool_)
    ends[:-1] = (keys[1:] != keys[:-1]) | (at[1:] != at[:-1])
    return ends
