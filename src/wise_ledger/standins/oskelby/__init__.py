"""Oskelby Estimates, simulated: what twenty houses of analysts expected of the made-up
companies, as JSON over HTTP.
"""

from wise_ledger.standins.oskelby.app import create_app
from wise_ledger.standins.oskelby.opinions import Opinions, make_opinions

__all__ = ["Opinions", "create_app", "make_opinions"]
