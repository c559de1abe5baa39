"""One table in several representations, chosen by `Accept` or `?format=`."""

import io
from typing import TYPE_CHECKING

from fastapi import Response

from wise_ledger.wire.rows import Rows
from wise_ledger.work import BadInput, Problem

if TYPE_CHECKING:
    import pandas as pd

FORMATS = {
    "json": "application/json",
    "csv": "text/csv",
    "arrow": "application/vnd.apache.arrow.stream",
    "parquet": "application/vnd.apache.parquet",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}
_TABLE_TYPES = {"float64": "number", "int64": "integer", "bool": "boolean"}


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


def represent(form: str, rows: Rows, name: str, *, schema: str | None, headers: dict[str, str]) -> Response:
    """The rows as a file of that format; with `schema` the Table Schema of the CSV instead."""
    import pandas as pd  # heavy, and most answers are JSON

    frame = pd.DataFrame(list(rows), columns=list(rows.columns))
    for column in frame.columns:
        if column.endswith("period_end"):
            frame[column] = pd.to_datetime(frame[column])
    kept = {k: v for k, v in headers.items() if k.lower() == "etag"}
    if schema is not None:
        import json

        return Response(json.dumps(_table_schema(frame)), media_type=FORMATS["json"], headers=kept)
    kept["Content-Disposition"] = f'attachment; filename="{name}.{form}"'
    return Response(_bytes(form, frame), media_type=FORMATS[form], headers=kept)


def _bytes(form: str, frame: "pd.DataFrame") -> bytes:
    out = io.BytesIO()
    if form == "csv":
        frame.to_csv(out, index=False, date_format="%Y-%m-%d")
    elif form == "xlsx":
        frame.to_excel(out, index=False)
    elif form == "parquet":
        frame.to_parquet(out, index=False)
    else:
        import pyarrow as pa

        table = pa.Table.from_pandas(frame, preserve_index=False)
        with pa.ipc.new_stream(out, table.schema) as writer:
            writer.write_table(table)
    return out.getvalue()


def _table_schema(frame: "pd.DataFrame") -> dict[str, object]:
    def kind(dtype: str) -> str:
        return "date" if dtype.startswith("datetime") else _TABLE_TYPES.get(dtype, "string")

    fields = [{"name": c, "type": kind(str(t))} for c, t in frame.dtypes.items()]
    return {"fields": fields, "missingValues": [""]}
