"""/catalogue and /items: what an expression may name, and items that people register."""

from typing import Annotated

from fastapi import Query, status

from wise_ledger.service.access import OpenDesk
from wise_ledger.service.paging import Cursor, following
from wise_ledger.service.routes import calls
from wise_ledger.wire.catalogue import (
    Catalogue,
    CatalogueEntry,
    CatalogueSearch,
    CatalogueValue,
    Coverage,
    Item,
    ItemPage,
    Line,
    Neighbour,
    NewItem,
    SourceTag,
    Spread,
    YearCount,
)
from wise_ledger.work import catalogue, items
from wise_ledger.work.currencies import currencies

router = calls("catalogue")


@router.get("/catalogue")
def whole(desk: OpenDesk) -> Catalogue:
    """What an expression may name: items, attributes and functions."""
    found = catalogue.names(desk.snapshots)
    shown = [Item.model_validate(vars(i) | {"templates": sorted(i.templates)}) for i in found.items]
    known = list(currencies(desk.snapshots.at()))
    return Catalogue(
        items=shown, attributes=list(found.attributes), functions=found.functions, currencies=known
    )


@router.post("/items", status_code=status.HTTP_201_CREATED)
def register(desk: OpenDesk, asked: NewItem) -> Item:
    """Register an item of one's own, or restate what it means."""
    item = items.register(desk.ledger, desk.snapshots, **asked.model_dump())
    return Item.model_validate(vars(item) | {"templates": sorted(item.templates)})


@router.get("/catalogue/search")
def search(
    desk: OpenDesk,
    q: Annotated[
        str, Query(description="word, synonym or code; slips do not matter", max_length=200)
    ] = "",
    kind: Annotated[
        list[str] | None, Query(description="item, measure, attribute, market, function, series")
    ] = None,
    statement: Annotated[
        str | None, Query(description="income, balance, cash_flow, per_share, …")
    ] = None,
    template: Annotated[str | None, Query(description="industrial, bank or insurer")] = None,
    least: Annotated[
        float, Query(ge=0, le=1, description="share of companies that must have it")
    ] = 0.0,
    company: Annotated[str | None, Query(description="show its value for a company")] = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 50,
    cursor: Cursor = 0,
) -> CatalogueSearch:
    """Find a column by what people call it."""
    found = catalogue.search(
        desk,
        q,
        kinds=tuple(kind or ()),
        statement=statement,
        template=template,
        least=least,
        company=company,
        limit=limit,
        skip=cursor,
    )
    return CatalogueSearch(
        entries=[_entry(e) for e in found.entries],
        total=found.total,
        company=found.company,
        batch=found.batch,
        next=following(cursor, len(found.entries), found.total),
    )


@router.get("/items/{code}")
def item(desk: OpenDesk, code: str) -> ItemPage:
    """An item: what it means, how often it is filled, what it adds to, which
    tags mean it, how its values lie.
    """
    found = catalogue.item_page(desk, code)
    return ItemPage(
        item=Item.model_validate(vars(found.item) | {"templates": sorted(found.item.templates)}),
        coverage=_coverage(found.coverage, found.share),
        years=[YearCount(year=y, companies=n) for y, n in found.years],
        tags=[SourceTag(source=s, tag=t, template=of) for s, t, of in found.tags],
        adds_to=[Line.model_validate({"item": i, "sign": n}) for i, n in found.subtotals],
        made_of=[Line.model_validate({"item": i, "sign": n}) for i, n in found.lines],
        neighbours=[
            Neighbour(item=n.name, title=n.title, meaning=n.meaning) for n in found.neighbours
        ],
        spreads=[
            Spread(
                currency=s.currency,
                companies=s.companies,
                least=s.least,
                lower_quartile=s.lower,
                median=s.median,
                upper_quartile=s.upper,
                greatest=s.greatest,
                bins=list(s.bins),
            )
            for s in found.spreads
        ],
        batch=found.batch,
    )


def _entry(shown: catalogue.Shown) -> CatalogueEntry:
    entry, cell = shown.found.entry, shown.cell
    value = cell and CatalogueValue(
        value=cell.value, reason=cell.reason, currency=cell.currency, period_end=cell.end
    )
    return CatalogueEntry.model_validate(
        vars(entry)
        | {
            "templates": sorted(entry.templates),
            "score": round(shown.found.score, 1),
            "found_by": shown.found.by,
        }
        | {"coverage": _coverage(shown.coverage, shown.share or 0.0), "value": value}
    )


def _coverage(of: catalogue.Coverage | None, share: float) -> Coverage | None:
    if of is None:
        return None
    first, last = catalogue.dates_of(of)
    return Coverage(
        companies=of.companies, share=round(share, 4), facts=of.facts, first=first, last=last
    )
