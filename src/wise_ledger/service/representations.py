"""One table in several representations, chosen by `Accept` or `?format=`."""

import io
import json
from collections.abc import Iterator, Sequence
from itertools import chain
from typing import Annotated, Any, Literal

from fastapi import Query, Response
from fastapi.responses import StreamingResponse

from wise_ledger.wire.rows import Rows
from wise_ledger.wire.tables import file_of, parts_of_batches, table_schema, write_batches
from wise_ledger.work import BadInput, Problem, mend_for

FORMATS = {
    "json": "application/json",
    "csv": "text/csv",
    "arrow": "application/vnd.apache.arrow.stream",
    "parquet": "application/vnd.apache.parquet",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}
Format = Annotated[str | None, Query(description="json, csv, arrow, parquet or xlsx; else what `Accept` says")]
Schema = Annotated[Literal["table"] | None, Query(description="`table`: the Table Schema of the CSV instead")]
Raw = Annotated[
    bool, Query(description="text cells of CSV as they are: no ' before what a spreadsheet would reckon with")
]

Columns = Annotated[str | None, Query(description="of files: which, in this order, parted by commas; all without it")]
Sort = Annotated[Literal["oldest", "newest"], Query(description="of files: what goes first")]


def chosen(columns: str | None, known: Sequence[str]) -> Sequence[str]:
    """The columns asked for, all that there are without any; raises `BadInput`."""
    names = [name.strip() for name in (columns or "").split(",") if name.strip()]
    for name in names:
        if name not in known:
            raise BadInput(Problem("columns", name, "there is no such column", mend_for(name, known)))
    return names or known


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


def represent(form: str, rows: Rows, name: str, *, schema: str | None = None, raw: bool = False) -> Response:
    """The rows as a file of that format; with `schema` the Table Schema of the CSV instead."""
    if schema is not None:
        return Response(json.dumps(table_schema(rows)), media_type=FORMATS["json"])
    headers = {"Content-Disposition": f'attachment; filename="{name}.{form}"'}
    return Response(file_of(form, rows, raw=raw), media_type=FORMATS[form], headers=headers)


def represent_batches(form: str, batches: Iterator[Any], name: str, *, raw: bool = False) -> Response:
    """Columns as a file of that format: csv and arrow are read while the last batches are made.

    What is wrong with the question shows with the first batch at the latest: until then the answer has not begun.
    """
    headers = {"Content-Disposition": f'attachment; filename="{name}.{form}"'}
    if form == "parquet":
        file = io.BytesIO()
        write_batches(batches, form, file)
        return Response(file.getvalue(), media_type=FORMATS[form], headers=headers)
    parts = parts_of_batches(batches, form, raw=raw)
    begun = chain((next(parts),), parts)
    return StreamingResponse(begun, media_type=FORMATS[form], headers=headers)
