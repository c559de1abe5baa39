"""Random markets at the service's doors: primaries that move, classes, receipts, prices with gaps
and late rows, dividends in other currencies, houses that change their minds. What is held of the
companies that are collected holds of these too.
"""

import os
from random import Random

from tests.core.worlds import world
from tests.service import test_days, test_estimated, test_explained
from tests.service.anyfiles import brought, keys_of, market
from tests.service.questions import Followed


class Traded(Followed):
    @classmethod
    def bring(cls) -> None:
        random = Random(int(os.environ.get("SEED", "7")))
        worlds = [world(random.randrange(2**32)) for _ in range(4)]
        brought(cls.ledger, market(random, worlds))
        cls.ledger.prefer_sources(["one", "two"], "Ada", why="as they come")
        cls.who = [key for n in range(4) for key in keys_of(n)]


class AnyDays(Traded, test_days.Days):
    """M2, M4."""


class AnyEstimates(Traded, test_estimated.Estimated):
    """E2 to E4, M2."""

    split = True


class AnyExplanation(Traded, test_explained.Explained):
    """F7, M2 to M5, E2 to E4, T4, T9."""
