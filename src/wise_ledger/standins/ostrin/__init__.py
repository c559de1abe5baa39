"""Ostrin Statistics, simulated: economic series of three made-up economies with every vintage,
as SDMX over HTTP.
"""

from wise_ledger.standins.ostrin.app import create_app
from wise_ledger.standins.ostrin.releases import Releases, make_releases

__all__ = ["Releases", "create_app", "make_releases"]
