"""Why a figure is missing (N): judged here alone, for the language and for statements."""

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.timelines.keys import State

Truths = NDArray[np.bool_]
Reasons = NDArray[np.uint8]


def reason_at_end(
    state: NDArray[np.int8], applies: Truths, additive: Truths, figures: Truths, statement: Truths
) -> Reasons:
    """The reason of figures asked for at a given period end, NONE where there
    is a value; arrays of one shape.

    `state` is how each stands; `applies` whether the company's template has the line; `additive`
    whether its figures can be formed from others (F9); `figures` and `statement` whether any figure
    of the item, or of its statement, that ends there was known.
    """
    reason = np.full(state.shape, Reason.NOT_KNOWN, np.uint8)
    for holds, of_it in (  # the last one that holds counts
        (statement, Reason.NOT_REPORTED),
        (figures, Reason.INCOMPLETE),
        (figures & ~additive, Reason.NOT_DERIVABLE),
        (state == State.WITHDRAWN, Reason.WITHDRAWN),
        (~applies, Reason.NOT_APPLICABLE),
        (state == State.VALUE, Reason.NONE),
    ):
        reason[holds] = of_it
    return reason


def reason_at_no_end(
    applies: Truths, additive: bool, figures: Truths, statement: Truths
) -> Reasons:
    """The reason of an item that has no value at any end;
    `figures` and `statement` of whatever end.
    """
    absent, forms = np.zeros(applies.shape, np.int8), np.full(applies.shape, additive)
    return reason_at_end(absent, applies, forms, figures, statement)
