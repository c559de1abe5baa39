"""Load a tree of dated pages: one folder a company,
file names that say when each was captured (F14).

What is wrong with a folder or a page is its outcome and stops nothing else; all that is good goes
in as one batch, every page kept as the document of its figures.
"""

import io
import zipfile
from collections import Counter
from dataclasses import dataclass, field
from datetime import datetime

from wise_ledger.core.catalogue.items import Item, Nature, unit_fits
from wise_ledger.core.errors import BadInput, bad_input
from wise_ledger.core.records.records import DocumentRecord, FactRecord
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.ledger import Ledger
from wise_ledger.words import counted
from wise_ledger.work.loading import FILES, Loaded, PathOutcome
from wise_ledger.work.match import Term, match_terms
from wise_ledger.work.pagefile import (
    PageShape,
    instant_of,
    meaning,
    number_of,
    read_page_shape,
    read_pairs,
    skipped,
)

MOST_BYTES = 2_000_000_000  # of all pages together, unpacked
MOST_OF_PAGE = 20_000_000
_KINDS = {
    "htm": "text/html",
    "html": "text/html",
    "csv": "text/csv",
    "tsv": "text/csv",
    "txt": "text/csv",
}


@dataclass
class _Folder:
    company: int | None
    problem: str
    paths: list[str] = field(default_factory=list)


def load_pages(
    ledger: Ledger, snapshots: Snapshots, archive: bytes, mapping: str, *, name: str = "a folder"
) -> Loaded:
    """Load a ZIP archive of folders by a mapping (YAML);
    raises `BadInput` for either being no such thing.
    """
    snapshot, now = snapshots.at(), ledger.now()
    observed = {
        code: item
        for code, item in snapshot.view.items.items()
        if item.nature is Nature.OBSERVATION
    }
    shape = read_page_shape(mapping, tuple(observed))
    try:
        packed = zipfile.ZipFile(io.BytesIO(archive))
    except Exception:  # what a damaged archive raises has no common root
        raise bad_input(
            "archive", name, "this is no ZIP archive", "pack the folder as ZIP"
        ) from None
    if sum(i.file_size for i in packed.infolist()) > MOST_BYTES:
        raise bad_input(
            "archive", name, f"unpacked it is over {MOST_BYTES:,} bytes", "load it in parts"
        )
    folders, outcomes = _folders(packed, snapshots, now)
    strange: Counter[str] = Counter()
    good: list[tuple[str, int, DocumentRecord, list[FactRecord]]] = []
    for folder, of in sorted(folders.items()):
        if of.company is None or not of.paths:
            why = of.problem if of.company is None else "the folder is empty"
            outcomes.append(
                PathOutcome(folder, None, "failed" if of.company is None else "empty", why, 0)
            )
            continue
        for path in of.paths:
            try:
                document, facts = _page(packed, path, shape, observed, now, strange)
            except BadInput as error:
                p = error.problems[0]
                why = f"{p.problem}: {p.value} ({p.at}); {p.mend}"
                outcomes.append(PathOutcome(path, snapshot.ids[of.company], "failed", why, 0))
                continue
            good.append((path, of.company, document, facts))
    return _store(ledger, snapshot, shape, name, good, outcomes, strange)


def _folders(
    packed: zipfile.ZipFile, snapshots: Snapshots, now: datetime
) -> tuple[dict[str, _Folder], list[PathOutcome]]:
    """The companies' folders by name, matched; and the outcomes of what stands in none."""
    paths: dict[str, list[str]] = {}
    outcomes = []
    for entry in packed.infolist():
        folder, _, rest = entry.filename.replace("\\", "/").strip("/").partition("/")
        if entry.is_dir():
            paths.setdefault(folder, [])
        elif rest:
            paths.setdefault(folder, []).append(entry.filename)
        else:
            outcomes.append(
                PathOutcome(entry.filename, None, "failed", "it stands in no company's folder", 0)
            )
    names = sorted(paths)
    if not names:
        return {}, outcomes
    answer = match_terms(
        snapshots, [Term(n.replace("_", " ").strip()) for n in names], now.date(), ever=True
    )
    folders = {}
    for folder, row in zip(names, answer.rows, strict=True):
        near = ", ".join(c.name for c in row.candidates[:3])
        problem = f"no single company is named by this folder ({row.outcome.replace('_', ' ')})"
        problem += f": {near}; decide it with match" if near else "; rename it"
        number = None if row.company is None else snapshots.at().number(row.company.id)
        folders[folder] = _Folder(number, problem, sorted(paths[folder]))
    return folders, outcomes


def _page(
    packed: zipfile.ZipFile,
    path: str,
    shape: PageShape,
    items: dict[str, Item],
    now: datetime,
    strange: Counter[str],
) -> tuple[DocumentRecord, list[FactRecord]]:
    name = path.rpartition("/")[2]
    kind = _KINDS.get(name.rpartition(".")[2].lower())
    if kind is None:
        raise bad_input(
            "file", name, "pages of this kind are not read", f"write {', '.join(sorted(_KINDS))}"
        )
    seen = instant_of(name, shape)
    if seen > now:
        raise bad_input("file name", name, "it was captured in the future", "check the name")
    if packed.getinfo(path).file_size > MOST_OF_PAGE:
        raise bad_input("page", name, f"it is over {MOST_OF_PAGE:,} bytes", "is this a page?")
    try:
        content = packed.read(path)
    except Exception as error:  # as above
        raise bad_input("archive", name, f"it is damaged: {error}", "pack it again") from None
    facts_of: dict[str, FactRecord] = {}
    unknown = []
    for label, text in read_pairs(content, name):
        if skipped(label, shape):
            continue
        to = meaning(label, shape)
        if to is None:
            unknown.append(label)
            continue
        figure = number_of(text)
        if figure is None:
            continue  # the page says that there is none
        item = items[to.item]
        unit = to.unit or _unit(item, figure[1], label)
        if not unit_fits(item, unit):
            raise bad_input(
                label,
                unit,
                f"{item.code} is {item.unit}, which this unit is not",
                "mend the mapping",
            )
        value = float(figure[0].scaleb(to.scale))
        fact = FactRecord(item.code, None, seen.date(), value, text, to.scale, unit, seen, label)
        if item.code in facts_of and facts_of[item.code].value != value:
            raise bad_input(
                label, text, f"the page says {item.code} twice", "map the label that counts"
            )
        facts_of[item.code] = fact
    strange.update(set(unknown))
    if not facts_of and unknown:
        raise bad_input(
            "page", name, "none of its labels has a meaning", "say under labels: what they mean"
        )
    return DocumentRecord(path, path, "page", kind, content, seen), list(facts_of.values())


def _unit(item: Item, money: str | None, label: str) -> str:
    if item.unit not in ("money", "money_per_share"):
        return item.unit
    if money is None:
        raise bad_input(
            label,
            "",
            f"{item.code} is money, and no currency is named",
            "give the label a unit: EUR",
        )
    return money if item.unit == "money" else f"{money}/shares"


def _store(
    ledger: Ledger,
    snapshot: Snapshot,
    shape: PageShape,
    name: str,
    good: list[tuple[str, int, DocumentRecord, list[FactRecord]]],
    outcomes: list[PathOutcome],
    strange: Counter[str],
) -> Loaded:
    new, batch_number, many = 0, None, sum(len(facts) for *_, facts in good)
    if good:
        title = (
            FILES[1] if shape.source == FILES[0] else shape.source.replace("_", " ").capitalize()
        )
        with ledger.batch(
            "load", f"{counted(many, 'observation')} from {counted(len(good), 'page')} of {name}"
        ) as batch:
            source = batch.source(shape.source, title)
            numbers = batch.documents(source, [document for _, _, document, _ in good])
            for (path, company, _, facts), number in zip(good, numbers, strict=True):
                added = batch.add_facts(company, source, [(number, fact) for fact in facts])
                state = "stored" if added else "unchanged"
                outcomes.append(PathOutcome(path, snapshot.ids[company], state, "", added))
                new += added
        batch_number = batch.number if batch.anything_new else None
    order = {"failed": 0, "empty": 1, "stored": 2, "unchanged": 3}
    outcomes.sort(key=lambda o: (order[o.state], o.path))
    return Loaded(
        "pages", many, batch_number, (), new, tuple(outcomes), dict(strange.most_common())
    )
