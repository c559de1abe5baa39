"""How often a property is tried: with `WORLDS=20` on twenty times as many random worlds,
and on others each time.
"""

import os

from hypothesis import settings


def examples(count: int) -> settings:
    """So many examples, or `WORLDS` times as many."""
    worlds = int(os.environ.get("WORLDS", "1"))
    if worlds == 1:
        return settings(max_examples=count)
    return settings(max_examples=count * worlds, derandomize=False)
