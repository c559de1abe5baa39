"""A letterbox, simulated: a mail server and an address to call;
both keep what comes as files in a folder.
"""

from wise_ledger.standins.letterbox.box import Letterbox

__all__ = ["Letterbox"]
