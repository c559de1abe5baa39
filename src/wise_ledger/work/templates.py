"""What the files that are loaded have for columns, kind by kind, and an empty file of each."""

import csv
import io
from collections.abc import Mapping

from wise_ledger.core.errors import bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records.columnkinds import COLUMN_KINDS
from wise_ledger.work.loadfacts import COLUMNS as FACT_COLUMNS
from wise_ledger.work.loadkinds import LOADED

COLUMNS = {
    "companies": "company name country industry currency template fiscal_year_end fiscal_year_named_by status "
    "status_date status_cause valid_from",
    "identifiers": "company security scheme value valid_from valid_to",
    "listings": "company security security_type receipt_ratio symbol mic currency valid_from valid_to primary",
    "members": "list company valid_from valid_to weight",
    "facts": " ".join(FACT_COLUMNS),
    **{name: " ".join(kind.heads) for name, kind in LOADED.items()},
    **{name: " ".join(kind.heads) for name, kind in COLUMN_KINDS.items()},
    "observations": "company item observed_at value unit published_at source document",
}
# One row of each kind, to be written over: the columns in order.
EXAMPLES: dict[str, Mapping[str, str]] = {
    "companies": {"company": "W-1", "name": "Example Works plc", "country": "XA", "industry": "25", "currency": "USD",
                  "template": "industrial", "fiscal_year_end": "12", "status": "active", "valid_from": "2012-01-01"},
    "identifiers": {"company": "files:W-1", "scheme": "register", "value": "W-0001", "valid_from": "2012-01-01"},
    "listings": {"company": "files:W-1", "security_type": "ordinary", "symbol": "EXW", "mic": "ZALD", "currency": "USD",
                 "valid_from": "2012-01-01", "primary": "yes"},
    "members": {"list": "my-list", "company": "EXW@ZALD", "valid_from": "2020-01-01", "weight": "0.05"},
    "facts": {"company": "EXW@ZALD", "item": "revenue", "period_start": "2023-01-01", "period_end": "2023-12-31",
              "value": "1250000", "unit": "USD", "published_at": "2024-02-20T07:00:00Z", "fiscal_period": "FY2023"},
    "observations": {"company": "EXW@ZALD", "item": "disclosure_score", "observed_at": "2024-03-12", "value": "44",
                     "unit": "pure"},
    **{name: kind.example for name, kind in (*LOADED.items(), *COLUMN_KINDS.items())},
}  # fmt: skip


def template(kind: str) -> bytes:
    """A CSV file with the heads of a kind and one example row; raises `BadInput`."""
    if kind not in COLUMNS:
        raise bad_input("kind", kind, "files of this kind are not loaded", mend_for(kind, COLUMNS))
    heads = COLUMNS[kind].split()
    out = io.StringIO()
    writer = csv.DictWriter(out, heads, lineterminator="\n", restval="")
    writer.writeheader()
    writer.writerow(EXAMPLES[kind])
    return out.getvalue().encode()
