"""Run the benchmarks, each in a process of its own, and print one table of ratios;
absolute times mean little.
"""

import argparse
import json
import os
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from importlib import import_module
from pathlib import Path

from rich import box
from rich.console import Console
from rich.table import Table

from benchmarks.timing import Result
from wise_ledger.launch.memory import look_for_garbage_less

# Modules: each is loaded with the engines it compares, and no more, since its memory is measured.
ALL = (
    "as_of", "as_of_cold", "after_a_batch", "ttm", "measures", "panel_http", "scale", "consensus", "history",
    "load", "load_columns", "vintages", "match", "total_return",
)  # fmt: skip


def main() -> int:
    parser = argparse.ArgumentParser(prog="benchmarks")
    parser.add_argument("names", nargs="*", choices=[[], *ALL], help="which; all by default")
    parser.add_argument("--size", choices=["small", "full"], default="full")
    parser.add_argument("--json", type=Path)
    given = parser.parse_args()
    look_for_garbage_less()  # as the service does; it holds for all that is compared
    names = given.names or [*ALL]
    if len(names) == 1:
        results = import_module(f"benchmarks.{names[0]}").run(given.size)
    else:  # in their small size only the answers count: they may run side by side
        with ThreadPoolExecutor(os.cpu_count() if given.size == "small" else 1) as pool:
            results = [
                r for found in pool.map(_apart, names, [given.size] * len(names)) for r in found
            ]
    table = Table(box=box.SIMPLE_HEAD)
    for title in ("benchmark", "size", "engine", "seconds", "times ours", "answers"):
        table.add_column(title, justify="right" if title in ("seconds", "times ours") else "left")
    for r in results:
        table.add_row(
            r.benchmark, r.size, r.engine, f"{r.seconds:.4f}", f"{r.ratio:.1f}", r.verdict
        )
    Console(width=None if sys.stdout.isatty() else 100).print(table)
    if given.json:
        given.json.write_text(json.dumps([r.__dict__ for r in results], indent=1) + "\n", "utf-8")
    return 0 if all(r.equal for r in results) else 1


def _apart(name: str, size: str) -> list[Result]:
    """The results of one benchmark in a process of its own, so that its memory is its own."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "results.json"
        command = [sys.executable, "-m", "benchmarks", name, "--size", size, "--json", str(path)]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        if not path.exists():
            raise SystemExit(f"{name}: {done.stderr}")
        return [Result(**row) for row in json.loads(path.read_text("utf-8"))]


if __name__ == "__main__":
    sys.exit(main())
