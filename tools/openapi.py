"""Write the OpenAPI document, out of which the types of the console are generated:
python tools/openapi.py FILE.
"""

import json
import sys
from pathlib import Path
from typing import cast

from wise_ledger.service.app import create_app
from wise_ledger.work.desk import Desk

# No call is made: the document depends on the routes and the models alone.
document = create_app(cast(Desk, None)).openapi()
Path(sys.argv[1]).write_text(json.dumps(document, indent=1, sort_keys=True) + "\n")
