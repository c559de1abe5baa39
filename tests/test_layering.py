"""The rooms know only the rooms that the architecture names beside them (docs/architecture.md)."""

import ast
import unittest
from collections.abc import Iterator
from pathlib import Path

SOURCE = Path(__file__).parents[1] / "src" / "wise_ledger"
KNOWS = {
    "core": set(),
    "store": {"core"},
    "sources": {"core"},
    "engine": {"core", "store"},
    "work": {"core", "store", "engine", "sources"},
    "wire": set(),
    "service": {"work", "wire"},
    "client": {"wire"},
    "cli": {"client", "wire"},
    "standins": set(),
    "launch": {
        "core",
        "store",
        "engine",
        "sources",
        "work",
        "wire",
        "service",
        "client",
        "cli",
        "standins",
    },
}
GROUND = {"words"}  # beside the rooms
# What the innermost room must not touch: files, networks, clocks, the environment.
OUTSIDE = {
    "sqlalchemy",
    "httpx",
    "fastapi",
    "click",
    "requests",
    "socket",
    "os",
    "time",
    "urllib",
    "sqlite3",
    "starlette",
}


def imports(path: Path) -> Iterator[str]:
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            assert not node.level, f"{path}: imports are absolute"
            yield node.module or ""


class Layering(unittest.TestCase):
    def test_every_room_is_listed(self) -> None:
        rooms = {p.name for p in SOURCE.iterdir() if p.is_dir() and p.name != "__pycache__"}
        self.assertEqual(rooms, set(KNOWS))

    def test_rooms_know_only_their_neighbours(self) -> None:
        for room, known in KNOWS.items():
            for path in (SOURCE / room).rglob("*.py"):
                for name in imports(path):
                    parts = name.split(".")
                    if parts[0] == "wise_ledger" and len(parts) > 1:
                        self.assertIn(
                            parts[1],
                            known | GROUND | {room},
                            f"{path.relative_to(SOURCE)} imports {name}",
                        )

    def test_what_every_room_may_use_knows_nobody(self) -> None:
        beside = {p.stem for p in SOURCE.glob("*.py")} - {"__init__"}
        self.assertEqual(beside, GROUND)
        for name in GROUND:
            own = [n for n in imports(SOURCE / f"{name}.py") if n.startswith("wise_ledger")]
            self.assertEqual(own, [])

    def test_core_touches_nothing_outside(self) -> None:
        for path in (SOURCE / "core").rglob("*.py"):
            touched = {name.split(".")[0] for name in imports(path)} & OUTSIDE
            self.assertFalse(touched, path)
            self.assertNotIn("datetime.now", path.read_text("utf-8"), path)

    def test_files_are_small_and_every_public_function_is_described(self) -> None:
        sizes = []
        for path in SOURCE.rglob("*.py"):
            tree = ast.parse(path.read_text("utf-8"))
            sizes.append(len(path.read_text("utf-8").splitlines()))
            self.assertLess(sizes[-1], 500, path)
            if path.name != "__init__.py" or sizes[-1] > 1:
                self.assertTrue(ast.get_docstring(tree) or sizes[-1] == 0, path)
            for node in tree.body:
                if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith(
                    "_"
                ):
                    described = ast.get_docstring(node) or path.parent.name == "versions"
                    self.assertTrue(described, f"{path.relative_to(SOURCE)}: {node.name}")
        self.assertLess(sorted(sizes)[len(sizes) // 2], 150)
