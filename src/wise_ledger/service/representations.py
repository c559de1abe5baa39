"""One table in several representations, chosen by `Accept` or `?format=`."""

import io
import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import chain
from typing import Annotated, Any, Literal

from fastapi import Depends, Query, Request, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from wise_ledger.wire.releases import SDMX, ReleasesAnswer
from wise_ledger.wire.rows import Rows
from wise_ledger.wire.tables import (
    DoesNotFit,
    file_of,
    parts_of_batches,
    table_schema,
    write_batches,
)
from wise_ledger.work import BadInput, Problem, mend_for

FORMATS = {
    "json": "application/json",
    "csv": "text/csv",
    "arrow": "application/vnd.apache.arrow.stream",
    "parquet": "application/vnd.apache.parquet",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}
Format = Annotated[
    str | None, Query(description="json, csv, arrow, parquet or xlsx; else what `Accept` says")
]
FormatOrSdmx = Annotated[
    str | None, Query(description="json, csv, arrow, parquet, xlsx or sdmx (SDMX-CSV 1.0)")
]
Schema = Annotated[
    Literal["table"] | None, Query(description="`table`: the Table Schema of the CSV instead")
]
Raw = Annotated[
    bool,
    Query(
        description="text cells of CSV as they are: no ' before what a spreadsheet would reckon with"
    ),
]

Columns = Annotated[
    str | None,
    Query(description="of files: which, in this order, parted by commas; all without it"),
]
Sort = Annotated[Literal["oldest", "newest"], Query(description="of files: what goes first")]


def chosen(columns: str | None, known: Sequence[str]) -> Sequence[str]:
    """The columns asked for, all that there are without any; raises `BadInput`."""
    names = [name.strip() for name in (columns or "").split(",") if name.strip()]
    for name in names:
        if name not in known:
            raise BadInput(
                Problem("columns", name, "there is no such column", mend_for(name, known))
            )
    return names or known


@dataclass(frozen=True)
class Form:
    """What an answer is to be written as: a format, or the Table Schema of its CSV;
    `raw` leaves texts as they are.
    """

    name: str
    schema: bool
    raw: bool

    @property
    def is_answer(self) -> bool:
        """Whether it is the answer itself, as JSON, and no table of it."""
        return self.name == "json" and not self.schema


async def _form(
    request: Request, format: Format = None, raw: Raw = False, schema: Schema = None
) -> Form:
    return Form(wanted(request.headers.get("accept", ""), format), schema is not None, raw)


async def _form_or_sdmx(
    request: Request, format: FormatOrSdmx = None, raw: Raw = False, schema: Schema = None
) -> Form:
    formats = FORMATS | {"sdmx": SDMX}
    return Form(wanted(request.headers.get("accept", ""), format, formats), schema is not None, raw)


FormOf = Annotated[Form, Depends(_form)]
FormOrSdmx = Annotated[Form, Depends(_form_or_sdmx)]


def wanted(accept: str, named: str | None, formats: Mapping[str, str] = FORMATS) -> str:
    """The format asked for: by name, else the first known media type of `Accept`,
    else JSON; raises `BadInput`.
    """
    if named is not None:
        if named not in formats:
            mend = f"write one of {', '.join(formats)}"
            raise BadInput(Problem("format", named, "there is no such format", mend))
        return named
    by_type = {media: name for name, media in formats.items()}
    types = [part.split(";")[0].strip() for part in accept.split(",")]
    return next((by_type[t] for t in types if t in by_type), "json")


def represented(form: Form, answer: BaseModel, rows: Callable[[], Rows], name: str) -> Any:
    """The answer as JSON, else its rows as a file."""
    return answer if form.is_answer else represent(form, rows(), name)


def represent(form: Form, rows: Rows, name: str) -> Response:
    """The rows as a file; or the Table Schema of them as CSV, so that types survive."""
    if form.schema:
        return Response(json.dumps(table_schema(rows)), media_type=FORMATS["json"])
    return _file(
        lambda: file_of(form.name, rows, raw=form.raw), form.name, FORMATS[form.name], name
    )


def represent_sdmx(answer: ReleasesAnswer, name: str) -> Response:
    """The releases as SDMX-CSV."""
    return _file(answer.sdmx_csv, "sdmx", SDMX, name, "sdmx.csv")


def _file(
    write: Callable[[], str | bytes], form: str, media: str, name: str, ending: str = ""
) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}.{ending or form}"'}
    try:
        return Response(write(), media_type=media, headers=headers)
    except DoesNotFit as error:
        raise BadInput(Problem("format", form, error.problem, error.mend)) from None


def represent_batches(form: Form, batches: Iterator[Any], name: str) -> Response:
    """Columns as a file of that format: csv and arrow are read while the last batches are made.

    What is wrong with the question shows with the first batch at the latest: until then the answer
    has not begun.
    """
    headers = {"Content-Disposition": f'attachment; filename="{name}.{form.name}"'}
    if form.name == "parquet":
        file = io.BytesIO()
        write_batches(batches, form.name, file)
        return Response(file.getvalue(), media_type=FORMATS[form.name], headers=headers)
    parts = parts_of_batches(batches, form.name, raw=form.raw)
    begun = chain((next(parts),), parts)
    return StreamingResponse(begun, media_type=FORMATS[form.name], headers=headers)
