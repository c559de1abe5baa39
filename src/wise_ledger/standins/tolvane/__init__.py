"""Tolvane Filings, simulated: a regulator's archive of annual reports as xBRL-JSON,
with an Atom feed.
"""

from wise_ledger.standins.tolvane.app import create_app
from wise_ledger.standins.tolvane.reports import Report, make_reports

__all__ = ["Report", "create_app", "make_reports"]
