"""How often Python looks for garbage in circles: seldom, in a process that holds figures."""

import atexit
import gc

_YOUNG, _OLDER, _OLDEST = 2_000, 10, 10


def look_for_garbage_less() -> None:
    """Figures come as hundreds of thousands of objects that point at nothing in circles,
    and are freed without it.

    As Python is set, the search for circles walks through them again and again: a third of the time
    of a large load.
    """
    gc.freeze()  # what is there already stays
    atexit.register(gc.unfreeze)
    gc.set_threshold(_YOUNG, _OLDER, _OLDEST)
