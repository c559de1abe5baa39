"""The structures of Ostrin Statistics as SDMX-ML 2.1: flows,
their dimensions and codes, subjects, what there is.
"""

from collections.abc import Iterable
from datetime import UTC, datetime
from xml.sax.saxutils import escape, quoteattr

from wise_ledger.standins.ostrin.flows import FLOWS, SUBJECTS, Flow

AGENCY = "OST"
ATTRIBUTES = ("UNIT_MEASURE", "UNIT_MULT", "BASE_PER", "VALID_FROM")
_SPACE = "http://www.sdmx.org/resources/sdmxml/schemas/v2_1"
_SPACES = f'xmlns:mes="{_SPACE}/message" xmlns:str="{_SPACE}/structure" xmlns:com="{_SPACE}/common"'
_HEAD = '<?xml version="1.0" encoding="UTF-8"?>'


def message(*parts: str) -> str:
    """A structure message around its parts."""
    now = datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    head = _tag("mes:ID", f"OST{now[:10]}") + _tag("mes:Test", "false") + _tag("mes:Prepared", now)
    body = _tag("mes:Header", f'{head}<mes:Sender id="{AGENCY}"/>') + _tag(
        "mes:Structures", "".join(parts)
    )
    return f"{_HEAD}<mes:Structure {_SPACES}>{body}</mes:Structure>"


def error(code: int, words: str) -> str:
    """An error message: 100 where there are no results."""
    message = (
        f'<mes:ErrorMessage code="{code}">{_tag("com:Text", escape(words))}</mes:ErrorMessage>'
    )
    return f"{_HEAD}<mes:Error {_SPACES}>{message}</mes:Error>"


def _tag(tag: str, inner: str) -> str:
    return f"<{tag}>{inner}</{tag}>"


def _name(text: str) -> str:
    return f'<com:Name xml:lang="en">{escape(text)}</com:Name>'


def _of(tag: str, id_: str, inner: str) -> str:
    """Something that the agency maintains."""
    return f'<str:{tag} id={quoteattr(id_)} agencyID="{AGENCY}" version="1.0">{inner}</str:{tag}>'


def _ref(id_: str, kind: str, parent: str = "") -> str:
    of = f'maintainableParentID="{parent}" ' if parent else ""
    return f'<Ref id="{id_}" {of}agencyID="{AGENCY}" version="1.0" class="{kind}"/>'


def dataflows(flows: Iterable[Flow] = FLOWS) -> str:
    """The flows, each with a reference to its structure."""

    def one(flow: Flow) -> str:
        structure = _tag("str:Structure", _ref(f"{flow.id}_STRUCTURE", "DataStructure"))
        return _of("Dataflow", flow.id, _name(flow.title) + structure)

    return _tag("str:Dataflows", "".join(map(one, flows)))


def codelists(flow: Flow) -> str:
    """The codes of its dimensions."""
    made = []
    for dimension in flow.dimensions:
        codes = "".join(
            f"<str:Code id={quoteattr(c)}>{_name(n)}</str:Code>" for c, n in dimension.codes.items()
        )
        made.append(_of("Codelist", f"CL_{flow.id}_{dimension.id}", _name(dimension.title) + codes))
    return _tag("str:Codelists", "".join(made))


def datastructure(flow: Flow) -> str:
    """Its dimensions in order, and the attributes of its observations."""
    dimensions = ""
    for place, dimension in enumerate(flow.dimensions, 1):
        concept = _tag("str:ConceptIdentity", _ref(dimension.id, "Concept", "CONCEPTS"))
        codes = _tag("str:Enumeration", _ref(f"CL_{flow.id}_{dimension.id}", "Codelist"))
        inner = concept + _tag("str:LocalRepresentation", codes)
        dimensions += (
            f'<str:Dimension id="{dimension.id}" position="{place}">{inner}</str:Dimension>'
        )
    dimensions += f'<str:TimeDimension id="TIME_PERIOD" position="{len(flow.dimensions) + 1}"/>'
    attributes = "".join(
        f'<str:Attribute id="{a}" assignmentStatus="Conditional"/>' for a in ATTRIBUTES
    )
    components = (
        f'<str:DimensionList id="DimensionDescriptor">{dimensions}</str:DimensionList>'
        f'<str:AttributeList id="AttributeDescriptor">{attributes}</str:AttributeList>'
        '<str:MeasureList id="MeasureDescriptor"><str:PrimaryMeasure id="OBS_VALUE"/></str:MeasureList>'
    )
    inner = _name(flow.title) + _tag("str:DataStructureComponents", components)
    return _tag("str:DataStructures", _of("DataStructure", f"{flow.id}_STRUCTURE", inner))


def categories() -> str:
    """The subjects, and which flow belongs to which."""
    inner = "".join(
        f'<str:Category id="{c}">{_name(n)}</str:Category>' for c, n in SUBJECTS.items()
    )
    scheme = _tag(
        "str:CategorySchemes", _of("CategoryScheme", "SUBJECTS", _name("Subjects") + inner)
    )
    made = ""
    for flow in FLOWS:
        source = _tag("str:Source", _ref(flow.id, "Dataflow"))
        target = _tag("str:Target", _ref(flow.subject, "Category", "SUBJECTS"))
        made += _of(
            "Categorisation", f"{flow.id}_{flow.subject}", _name(flow.title) + source + target
        )
    return scheme + _tag("str:Categorisations", made)


def constraint(flow: Flow, keys: Iterable[tuple[str, ...]]) -> str:
    """Which codes there are data for, dimension by dimension."""
    found = list(keys)
    values = ""
    for n, dimension in enumerate(flow.dimensions):
        codes = "".join(_tag("com:Value", code) for code in dict.fromkeys(key[n] for key in found))
        values += f'<com:KeyValue id="{dimension.id}">{codes}</com:KeyValue>'
    region = f'<str:CubeRegion include="true">{values}</str:CubeRegion>'
    return _tag(
        "str:Constraints",
        _of("ContentConstraint", f"{flow.id}_CONSTRAINT", _name(flow.title) + region),
    )
