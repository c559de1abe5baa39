"""Fernmark Data, simulated: companies, lists and filings of a made-up world, as JSON over HTTP."""

from wise_ledger.standins.fernmark.app import Faults, Quota, create_app
from wise_ledger.standins.fernmark.world import World, make_world

__all__ = ["Faults", "Quota", "World", "create_app", "make_world"]
