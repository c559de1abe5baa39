"""/lists: what there is, who stands on one, how it changed; to keep, change,
describe and archive.
"""

from dataclasses import asdict
from typing import Annotated

from fastapi import Query

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.identity import day_of
from wise_ledger.service.routes import calls
from wise_ledger.service.screens import cells
from wise_ledger.wire.lists import (
    ListChange,
    ListInfo,
    ListMembers,
    ListRequest,
    Lists,
    ListVersion,
    ListVersions,
    Member,
)
from wise_ledger.wire.screens import Column
from wise_ledger.work import listmaking, listview
from wise_ledger.work.lists import all_lists, find_list
from wise_ledger.work.viewpoint import read_viewpoint

router = calls("lists", "/lists")


@router.get("")
def every(
    desk: OpenDesk, archived: Annotated[bool, Query(description="archived ones too")] = False
) -> Lists:
    """Every list, archived ones left out unless asked for."""
    found = [entry for entry in all_lists(desk.ledger) if archived or not entry.archived]
    return Lists(lists=[ListInfo(**entry.__dict__) for entry in found])


@router.get("/{name}")
def one(desk: OpenDesk, name: str) -> ListInfo:
    """One list."""
    return ListInfo(**find_list(desk.ledger, name).__dict__)


@router.post("", status_code=201)
def keep(asked: ListRequest, desk: OpenDesk) -> ListMembers:
    """Keep a list: new, or changed to be exactly these companies."""
    if asked.rule is not None:
        listmaking.keep_rule_list(
            desk.ledger, desk.snapshots, asked.name, asked.title, asked.rule, asked.who
        )
        return members(desk, asked.name, read_viewpoint(desk, None))
    given = list(asked.companies)
    if asked.how is not None:
        given += listmaking.combine_lists(
            desk.ledger, desk.snapshots, asked.how, asked.lists, day_of(desk, asked.on)
        )
    how = {"until_ended": asked.until_ended}
    listmaking.keep_list(
        desk.ledger, desk.snapshots, asked.name, asked.title, given, asked.who, **how
    )
    return members(desk, asked.name, read_viewpoint(desk, None))


@router.patch("/{name}")
def change(desk: OpenDesk, name: str, asked: ListChange) -> ListMembers:
    """Add and remove companies, describe, rename, archive or bring back;
    what was before stays as a version.
    """
    if asked.add or asked.remove:
        listmaking.change_members(
            desk.ledger, desk.snapshots, name, asked.add, asked.remove, asked.who
        )
    if (asked.title, asked.description, asked.archived) != (None, None, None):
        note = {"title": asked.title, "description": asked.description, "archived": asked.archived}
        listmaking.describe_list(desk.ledger, name, **note, who=asked.who)  # type: ignore[arg-type]
    return members(desk, name, read_viewpoint(desk, None))


@router.get("/{name}/members")
def members(
    desk: OpenDesk,
    name: str,
    viewpoint: asof.AskedOfCells,
    where: Annotated[str | None, Query(description="a rule that filters them")] = None,
    show: Annotated[list[str] | None, Query(description="expressions to show as columns")] = None,
    with_inactive: Annotated[
        bool, Query(description="also those no longer active on the day")
    ] = True,
) -> ListMembers:
    """The members of a list on a day, all or those of whom a rule is true,
    with the columns asked for.
    """
    found = listview.view(
        desk, viewpoint, name, where=where, show=tuple(show or ()), with_inactive=with_inactive
    )
    return ListMembers(
        name=name,
        title=found.info.title,
        description=found.info.description,
        archived=found.info.archived,
        kept_by=found.info.kept_by,
        unknown=found.unknown,
        with_inactive=with_inactive,
        **asof.seen(viewpoint, found.batch),
        columns=[Column(**c.__dict__) for c in found.columns],
        members=[
            Member.model_validate(
                {**asdict(m.company), "weight": m.weight, "cells": cells(m.cells, m.periods)}
            )
            for m in found.members
        ],
    )


@router.get("/{name}/versions")
def versions(desk: OpenDesk, name: str) -> ListVersions:
    """Every change of a list, the newest first: who, when, which companies came and left."""
    keeper = find_list(desk.ledger, name).kept_by or "not known"
    rows = [
        ListVersion(
            **{
                k: v
                for k, v in found.version.__dict__.items()
                if k not in ("joined", "left", "who")
            },
            who=found.version.who or keeper,
            joined=list(found.joined),
            left=list(found.left),
        )
        for found in listview.versions(desk.ledger, desk.snapshots, name)
    ]
    return ListVersions(name=name, versions=rows)
