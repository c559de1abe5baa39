"""The service: SDMX REST 1.5 (SDMX 2.1), structures as SDMX-ML, data as SDMX-CSV,
with keys and history.
"""

from collections.abc import Callable
from datetime import UTC, datetime

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pc_csv
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

from wise_ledger.standins.fernmark.faults import Faults, refusal, spoiled
from wise_ledger.standins.ostrin import structures
from wise_ledger.standins.ostrin.flows import FLOWS, Flow
from wise_ledger.standins.ostrin.releases import FlowReleases, Releases, micros
from wise_ledger.standins.ostrin.structures import AGENCY, message

_CSV, _XML = (
    "application/vnd.sdmx.data+csv;version=1.0.0",
    "application/vnd.sdmx.structure+xml;version=2.1",
)
_BY_ID = {flow.id: flow for flow in FLOWS}


class _Refused(Exception):
    def __init__(self, status: int, code: int, words: str) -> None:
        self.status, self.code, self.words = status, code, words


def create_app(releases: Callable[[], Releases], clock: Callable[[], datetime]) -> Starlette:
    """The stand-in; it gives what is public by its clock."""
    faults = Faults()

    def guarded(answer: Callable[[Request], Response]) -> Callable[[Request], object]:
        async def answered(request: Request) -> Response:
            struck = faults.strikes(request.url.path)
            if (refused := refusal(struck)) is not None:
                return refused
            try:
                found = answer(request)
            except _Refused as problem:
                return Response(
                    structures.error(problem.code, problem.words),
                    problem.status,
                    media_type="application/xml",
                )
            return await spoiled(struck, found, faults.seconds)

        return answered

    def structure(request: Request) -> Response:
        kind, id_ = request.path_params["kind"], request.path_params["id"]
        if request.path_params["agency"] not in (AGENCY, "all"):
            raise _Refused(
                404, 100, f"There is nothing of the agency {request.path_params['agency']}"
            )
        if kind == "categoryscheme":
            return _structure(structures.categories())
        flow_id = id_.removesuffix("_STRUCTURE")
        if kind == "dataflow":
            return _structure(
                structures.dataflows(
                    [f for f in FLOWS if f.id in releases()] if id_ == "all" else [_flow(id_)]
                )
            )
        if kind == "datastructure":
            flow = _flow(flow_id)
            below = (
                structures.codelists(flow)
                if request.query_params.get("references") in ("children", "all")
                else ""
            )
            return _structure(below, structures.datastructure(flow))
        if kind == "codelist":
            flow = next(
                (f for f in FLOWS for d in f.dimensions if id_ == f"CL_{f.id}_{d.id}"), None
            )
            if flow is None:
                raise _Refused(404, 100, f"There is no code list {id_}")
            return _structure(structures.codelists(flow))
        raise _Refused(501, 501, f"{kind} is not offered here")

    def constraint(request: Request) -> Response:
        flow = _flow(_named(request.path_params["flow"]))
        own = _chosen(flow, request.path_params.get("key", "all"))
        return _structure(structures.constraint(flow, [flow.keys[n] for n in np.flatnonzero(own)]))

    def data(request: Request) -> Response:
        flow = _flow(_named(request.path_params["flow"]))
        asked = request.query_params
        found = releases()[flow.id]
        rows = (found.at <= micros(clock())) & _chosen(flow, request.path_params.get("key", "all"))[
            found.series
        ]
        if "updatedAfter" in asked:
            try:
                after = datetime.fromisoformat(asked["updatedAfter"])
            except ValueError:
                raise _Refused(400, 140, "updatedAfter is no instant") from None
            rows &= found.at > micros(after if after.tzinfo else after.replace(tzinfo=UTC))
        labels = np.array(found.labels)
        for name, keep in (
            ("startPeriod", lambda a, b: a >= b),
            ("endPeriod", lambda a, b: a <= b),
        ):
            if name in asked:
                rows &= keep(labels, asked[name])[found.period]
        place = np.flatnonzero(rows)
        if asked.get("includeHistory") != "true":  # of each period the last
            last = np.ones(len(place), np.bool_)
            last[:-1] = (found.series[place][1:] != found.series[place][:-1]) | (
                found.period[place][1:] != found.period[place][:-1]
            )
            place = place[last]
        if not len(place):
            raise _Refused(404, 100, "No results found")
        return Response(_csv(flow, found, place), media_type=_CSV)

    app = Starlette(
        routes=[
            Route("/rest/data/{flow}/{key}", guarded(data)),
            Route("/rest/data/{flow}", guarded(data)),
            Route("/rest/availableconstraint/{flow}/{key}", guarded(constraint)),
            Route("/rest/availableconstraint/{flow}", guarded(constraint)),
            Route("/rest/{kind}/{agency}/{id}/{version}", guarded(structure)),
            Route("/rest/{kind}/{agency}/{id}", guarded(structure)),
            Route("/rest/{kind}/{agency}", guarded(lambda r: structure(_with_all(r)))),
        ]
    )
    app.state.faults = faults
    return app


def _with_all(request: Request) -> Request:
    request.path_params["id"] = "all"
    return request


def _structure(*parts: str) -> Response:
    return Response(message(*parts), media_type=_XML)


def _named(reference: str) -> str:
    """The id in a reference such as OST,HOUSE_PRICES,1.0."""
    parts = reference.split(",")
    return parts[1] if len(parts) > 1 else parts[0]


def _flow(id_: str) -> Flow:
    if id_ not in _BY_ID:
        raise _Refused(404, 100, f"There is no dataflow {id_}")
    return _BY_ID[id_]


def _chosen(flow: Flow, key: str) -> np.ndarray:
    """Which series a key stands for: an empty part for any, + between several."""
    if key == "all":
        return np.ones(len(flow.keys), np.bool_)
    parts = key.split(".")
    if len(parts) != len(flow.dimensions):
        raise _Refused(
            400, 140, f"A key of {flow.id} has {len(flow.dimensions)} parts, not {len(parts)}"
        )
    return np.array(
        [all(not p or c in p.split("+") for p, c in zip(parts, k, strict=True)) for k in flow.keys]
    )


def _csv(flow: Flow, found: FlowReleases, place: np.ndarray) -> bytes:
    """Rows of SDMX-CSV: the flow, its dimensions, period, value, attributes."""
    series = found.series[place]

    def coded(words: list[str], which: np.ndarray) -> pa.Array:
        return pa.DictionaryArray.from_arrays(
            pa.array(which.astype(np.int32)), pa.array(words)
        ).cast(pa.string())

    columns: dict[str, pa.Array] = {"DATAFLOW": pa.array([f"{AGENCY}:{flow.id}(1.0)"] * len(place))}
    for n, dimension in enumerate(flow.dimensions):
        columns[dimension.id] = coded([k[n] for k in flow.keys], series)
    columns["TIME_PERIOD"] = coded(found.labels, found.period[place])
    columns["OBS_VALUE"] = pa.array(found.value[place])
    columns["UNIT_MEASURE"] = coded([flow.unit(k) for k in flow.keys], series)
    powers = [
        str(flow.power if flow.unit(k) not in ("INDEX", "PERCENT", "BALANCE") else 0)
        for k in flow.keys
    ]
    columns["UNIT_MULT"] = coded(powers, series)
    base = found.base[place]
    columns["BASE_PER"] = pa.array([str(b) if b else "" for b in base.tolist()])
    moments, which = np.unique(found.at[place], return_inverse=True)
    texts = pc.strftime(
        pa.array(moments // 1_000_000, pa.timestamp("s", "UTC")), "%Y-%m-%dT%H:%M:%SZ"
    )
    columns["VALID_FROM"] = texts.take(pa.array(which))
    sink = pa.BufferOutputStream()
    pc_csv.write_csv(pa.table(columns), sink, pc_csv.WriteOptions(quoting_style="none"))
    text = sink.getvalue().to_pybytes()
    head, _, body = text.partition(b"\n")
    return head.replace(b'"', b"") + b"\n" + body
