"""How often items are filled (Q3)."""

from dataclasses import dataclass

from sqlalchemy import Connection, bindparam, text


@dataclass(frozen=True)
class Coverage:
    """Companies and facts with an item, and its first and last period end (days)."""

    companies: int
    facts: int
    first: int
    last: int


def by_item(connection: Connection) -> dict[str, Coverage]:
    """Every item that is filled at all."""
    query = text(
        "SELECT i.code, count(DISTINCT f.company) AS companies, count(*) AS facts, min(f.period_end) AS first,"
        " max(f.period_end) AS last FROM facts f JOIN items i ON i.number = f.item"
        " WHERE f.basis = 'consolidated' AND f.value IS NOT NULL GROUP BY f.item"
    )
    return {r.code: Coverage(r.companies, r.facts, r.first, r.last) for r in connection.execute(query)}


def by_year(connection: Connection, item: str) -> list[tuple[int, int]]:
    """Calendar years, and how many companies have the item for a period that ends in each."""
    query = text(
        "SELECT DISTINCT CAST(strftime('%Y', f.period_end * 86400, 'unixepoch') AS INTEGER) AS year, f.company"
        " FROM facts f JOIN items i ON i.number = f.item"
        " WHERE i.code = :item AND f.basis = 'consolidated' AND f.value IS NOT NULL"
    )
    count: dict[int, int] = {}
    for row in connection.execute(query, {"item": item}):
        count[row.year] = count.get(row.year, 0) + 1
    return sorted(count.items())


def by_item_and_year(connection: Connection, companies: set[int]) -> dict[str, dict[int, int]]:
    """For each item that some companies have: how many of them, by the calendar year in which a period ends."""
    query = text(
        "SELECT DISTINCT i.code, CAST(strftime('%Y', f.period_end * 86400, 'unixepoch') AS INTEGER) AS year, f.company"
        " FROM facts f JOIN items i ON i.number = f.item WHERE f.company IN :companies"
        " AND f.basis = 'consolidated' AND f.value IS NOT NULL"
    ).bindparams(bindparam("companies", expanding=True))
    out: dict[str, dict[int, int]] = {}
    for row in connection.execute(query, {"companies": sorted(companies)}):
        counts = out.setdefault(row.code, {})
        counts[row.year] = counts.get(row.year, 0) + 1
    return out
