"""Fernmark Data, simulated: companies, lists and filings of a made-up world, as JSON over HTTP."""

from wise_ledger.standins.fernmark.app import Quota, create_app
from wise_ledger.standins.fernmark.faults import KINDS, Faults
from wise_ledger.standins.fernmark.world import World, make_whole_world, make_world

__all__ = ["KINDS", "Faults", "Quota", "World", "create_app", "make_whole_world", "make_world"]
