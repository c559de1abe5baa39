"""Tests; `python -m tests` runs them all."""

from hypothesis import settings

# How long one example takes says more of what else the machine does than of the code.
settings.register_profile("suite", deadline=None)
settings.load_profile("suite")
