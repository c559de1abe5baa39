"""/measures: named expressions, what they mean, their versions, and files of them."""

from typing import Annotated

from fastapi import Query, Response

from wise_ledger.service.access import OpenDesk
from wise_ledger.service.routes import calls
from wise_ledger.wire.measures import (
    Definitions,
    DefinitionsKept,
    Example,
    ExpressionAsked,
    Formatted,
    Meaning,
    MeasureArchive,
    MeasureInfo,
    MeasurePage,
    MeasureRequest,
    Measures,
    MeasureVersions,
)
from wise_ledger.work import measures
from wise_ledger.work.measures import MeasureShown

router = calls("measures", "/measures")


@router.get("")
def every(
    desk: OpenDesk,
    subject: Annotated[str | None, Query(description="such as profitability")] = None,
    owner: Annotated[str | None, Query(description="only those that one person keeps")] = None,
    archived: Annotated[bool, Query(description="archived ones too")] = False,
) -> Measures:
    """The measures that ship and those that people keep."""
    found = measures.all_measures(desk, archived=archived)
    if subject is not None:
        measures.check_subject(subject)
        found = [m for m in found if m.subject == subject]
    return Measures(measures=[_info(m) for m in found if owner in (None, m.owner)])


@router.get(
    "/definitions", response_class=Response, responses={200: {"content": {"application/yaml": {}}}}
)
def definitions(
    desk: OpenDesk,
    name: Annotated[list[str] | None, Query(description="only these")] = None,
    shipped: Annotated[bool, Query(description="also those that ship")] = False,
) -> Response:
    """A file of definitions in YAML: it reads well in version control, and can be kept again."""
    return Response(
        measures.file_of(desk, name or (), shipped=shipped), media_type="application/yaml"
    )


@router.post("/definitions")
def keep_definitions(desk: OpenDesk, asked: Definitions) -> DefinitionsKept:
    """Keep the measures of a file, all or none."""
    return DefinitionsKept(names=measures.keep_file(desk, asked.text, asked.who))


@router.post("/check")
def check(desk: OpenDesk, asked: ExpressionAsked) -> Meaning:
    """What an expression means, in words; or what is wrong with it, where, and the mend."""
    found, sources = measures.check(desk, asked.expression, asked.recorded_by)
    return Meaning.model_validate(vars(found) | {"sources": sources})


@router.post("/format")
def format_(asked: ExpressionAsked, _desk: OpenDesk) -> Formatted:
    """An expression in its canonical form."""
    return Formatted(expression=measures.formatted(asked.expression))


@router.get("/{name}")
def page(desk: OpenDesk, name: str, version: int | None = None) -> MeasurePage:
    """A measure: definition, formula, what it rests on, what rests on it."""
    return _page(measures.find_measure(desk, name, version))


@router.get("/{name}/versions")
def versions(desk: OpenDesk, name: str) -> MeasureVersions:
    """Every version of a measure, the newest first."""
    return MeasureVersions(versions=[_page(m) for m in measures.measure_versions(desk, name)])


@router.put("/{name}")
def keep(desk: OpenDesk, name: str, asked: MeasureRequest) -> MeasurePage:
    """Keep a measure: new, or another version; what rests on it must still hold."""
    return _page(
        measures.keep_measure(desk, measures.measure(name=name, **asked.model_dump()), asked.who)
    )


@router.patch("/{name}")
def archive(desk: OpenDesk, name: str, asked: MeasureArchive) -> MeasurePage:
    """Archive a measure, or bring it back; one in use stays."""
    return _page(measures.archive_measure(desk, name, asked.who, archived=asked.archived))


def _about(measure: measures.Measure) -> dict[str, object]:
    title = measures.SUBJECTS[measure.subject]
    return vars(measure) | {"templates": sorted(measure.templates), "subject_title": title}


def _info(measure: measures.Measure) -> MeasureInfo:
    return MeasureInfo.model_validate(_about(measure))


def _page(shown: MeasureShown) -> MeasurePage:
    reads = (
        None
        if shown.meaning is None
        else Meaning.model_validate(vars(shown.meaning) | {"sources": shown.sources})
    )
    example = shown.measure.example
    return MeasurePage.model_validate(
        _about(shown.measure)
        | {
            "reads": reads,
            "problem": shown.problem,
            "used_by": shown.used_by,
            "kept_at": shown.kept_at,
        }
        | {
            "archived": shown.archived,
            "example": example and Example(given=dict(example.given), result=example.result),
        }
    )
