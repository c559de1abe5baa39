"""One table in several representations, chosen by `Accept` or `?format=`."""

import json
from typing import Annotated

from fastapi import Query, Response

from wise_ledger.wire.rows import Rows
from wise_ledger.wire.tables import file_of, table_schema
from wise_ledger.work import BadInput, Problem

FORMATS = {
    "json": "application/json",
    "csv": "text/csv",
    "arrow": "application/vnd.apache.arrow.stream",
    "parquet": "application/vnd.apache.parquet",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}


Raw = Annotated[
    bool, Query(description="text cells of CSV as they are: no ' before what a spreadsheet would reckon with")
]


def wanted(accept: str, named: str | None) -> str:
    """The format asked for: by name, else the first known media type of `Accept`, else JSON."""
    if named is not None:
        if named not in FORMATS:
            mend = f"write one of {', '.join(FORMATS)}"
            raise BadInput(Problem("format", named, "there is no such format", mend))
        return named
    by_type = {media: name for name, media in FORMATS.items()}
    types = [part.split(";")[0].strip() for part in accept.split(",")]
    return next((by_type[t] for t in types if t in by_type), "json")


def represent(
    form: str, rows: Rows, name: str, *, schema: str | None, headers: dict[str, str], raw: bool = False
) -> Response:
    """The rows as a file of that format; with `schema` the Table Schema of the CSV instead."""
    kept = {k: v for k, v in headers.items() if k.lower() == "etag"}
    if schema is not None:
        return Response(json.dumps(table_schema(rows)), media_type=FORMATS["json"], headers=kept)
    kept["Content-Disposition"] = f'attachment; filename="{name}.{form}"'
    return Response(file_of(form, rows, raw=raw), media_type=FORMATS[form], headers=kept)
