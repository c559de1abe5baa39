"""/extracts: panels too large to be answered at once, written to a file that is kept for a time."""

from fastapi import Response, status
from fastapi.responses import FileResponse

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.panels import asked_of
from wise_ledger.service.representations import FORMATS
from wise_ledger.service.routes import calls
from wise_ledger.wire.panels import ExtractInfo, ExtractRequest, Extracts
from wise_ledger.work.extractpanels import ask_extract

router = calls("panels", "/extracts")
_FILES = {FORMATS[form]: {} for form in ("parquet", "arrow", "csv")}


@router.post("", status_code=status.HTTP_202_ACCEPTED)
def ask(asked: ExtractRequest, desk: OpenDesk) -> ExtractInfo:
    """Have a panel written to a file; ask for it again by its id until it is done."""
    viewpoint = asof.read(desk, asked.panel)
    found = ask_extract(desk, viewpoint, asked_of(asked.panel), asked.panel.layout, asked.format)
    return ExtractInfo.model_validate(vars(found))


@router.get("")
def every(desk: OpenDesk) -> Extracts:
    """Extracts, the newest first."""
    return Extracts(extracts=[ExtractInfo.model_validate(vars(e)) for e in desk.extracts.all()])


@router.get("/{id}")
def one(desk: OpenDesk, id: str) -> ExtractInfo:
    """How far an extract is."""
    return ExtractInfo.model_validate(vars(desk.extracts.find(id)))


@router.get("/{id}/file", response_class=FileResponse, responses={200: {"content": _FILES}})
def file(desk: OpenDesk, id: str) -> FileResponse:
    """The file of an extract that is done."""
    found, path = desk.extracts.file(id)
    return FileResponse(path, media_type=FORMATS[found.format], filename=f"{id}.{found.format}")


@router.delete("/{id}", status_code=status.HTTP_204_NO_CONTENT)
def drop(desk: OpenDesk, id: str) -> Response:
    """Stop an extract, or let go of its file."""
    desk.extracts.drop(id)
    return Response(status_code=status.HTTP_204_NO_CONTENT)
