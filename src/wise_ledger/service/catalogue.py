"""/catalogue and /items: what an expression may name, and items that people register."""

from fastapi import APIRouter, status

from wise_ledger.service.access import OpenDesk
from wise_ledger.wire.catalogue import Catalogue, Item, NewItem
from wise_ledger.work import catalogue, items

router = APIRouter(tags=["catalogue"])


@router.get("/catalogue")
def whole(desk: OpenDesk) -> Catalogue:
    """What an expression may name: items, attributes and functions."""
    found = catalogue.names(desk.snapshots)
    shown = [Item.model_validate(vars(i) | {"templates": sorted(i.templates)}) for i in found.items]
    return Catalogue(items=shown, attributes=list(found.attributes), functions=found.functions)


@router.post("/items", status_code=status.HTTP_201_CREATED)
def register(desk: OpenDesk, asked: NewItem) -> Item:
    """Register an item of one's own, or say anew what it means."""
    item = items.register(desk.ledger, desk.snapshots, **asked.model_dump())
    return Item.model_validate(vars(item) | {"templates": sorted(item.templates)})
