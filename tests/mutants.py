"""Do the tests kill? python -m tests.mutants COUNT SEED [PATH ...]

Small seeded changes are made to core and files, each in a copy of the tree: a sign, a bound, min for max, and for or, a
dropped not, a number a little larger. The tests that have most to do with the changed file run against it; the share
that some test notices is printed, and where the others are. PATH: files or folders to change, in place of all.
"""

from __future__ import annotations

import ast
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parents[1]
SEEDED = ("src/tailor/core", "src/tailor/files")
FILES = 7  # test files that run against a change
SECONDS = 420
AT_ONCE = 2
SWAPS: dict[type[ast.AST], str] = {
    ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*", ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">",
    ast.Eq: "!=", ast.NotEq: "==", ast.And: "or", ast.Or: "and",
}  # fmt: skip
NAMES = {"min": "max", "max": "min", "any": "all", "all": "any", "argmin": "argmax", "argmax": "argmin",
         "minimum": "maximum", "maximum": "minimum", "floor": "ceil", "ceil": "floor"}  # fmt: skip
WRITTEN = {ast.Add: "+", ast.Sub: "-", ast.Mult: "*", ast.Div: "/", ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">",
           ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!=", ast.And: "and", ast.Or: "or"}  # fmt: skip


@dataclass(frozen=True)
class Change:
    """One small change: from and to which character of a file, and what stands there then."""

    path: str
    start: int
    end: int
    text: str
    line: int
    was: str

    def __str__(self) -> str:
        return f"{self.path}:{self.line}: {self.was} -> {self.text}"


def changes(path: Path) -> Iterator[Change]:
    """Every small change that can be made to a file."""
    source = path.read_text()
    starts = [0]
    for line in source.splitlines(keepends=True):
        starts.append(starts[-1] + len(line))

    def at(line: int, column: int) -> int:
        text = source[starts[line - 1] : starts[line]]
        return starts[line - 1] + len(text.encode()[:column].decode())

    def change(start: int, end: int, text: str) -> Change:
        name = str(path.relative_to(ROOT))
        return Change(name, start, end, text, source.count("\n", 0, start) + 1, source[start:end])

    def between(one: ast.expr, other: ast.expr, kind: type[ast.AST]) -> Iterator[Change]:
        start, end = at(one.end_lineno or 0, one.end_col_offset or 0), at(other.lineno, other.col_offset)
        found = re.search(rf"(?<![<>=!*/]){re.escape(WRITTEN[kind])}(?![<>=*/])", source[start:end])
        if found is not None:
            yield change(start + found.start(), start + found.end(), SWAPS[kind])

    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.BinOp) and type(node.op) in SWAPS:
            yield from between(node.left, node.right, type(node.op))
        elif isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in SWAPS:
            yield from between(node.left, node.comparators[0], type(node.ops[0]))
        elif isinstance(node, ast.BoolOp):
            yield from between(node.values[0], node.values[1], type(node.op))
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not | ast.USub | ast.Invert):
            yield change(at(node.lineno, node.col_offset), at(node.operand.lineno, node.operand.col_offset), "")
        elif isinstance(node, ast.Call):
            name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            if name in NAMES:
                end = at(node.func.end_lineno or 0, node.func.end_col_offset or 0)
                yield change(end - len(name), end, NAMES[name])
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float) and node.value not in (0, 1, 2):
            start, end = at(node.lineno, node.col_offset), at(node.end_lineno or 0, node.end_col_offset or 0)
            yield change(start, end, repr(node.value * 1.3 if isinstance(node.value, float) else node.value + 1))


@cache
def imports() -> dict[str, frozenset[str]]:
    """What each test file imports of Tailor, by its path."""
    found = {}
    for path in sorted((ROOT / "tests").rglob("test_*.py")):
        names = set(re.findall(r"^from (tailor[\w.]*) import|^import (tailor[\w.]*)", path.read_text(), re.MULTILINE))
        found[str(path.relative_to(ROOT))] = frozenset(one or other for one, other in names)
    return found


def related(change: Change) -> list[str]:
    """The test files that have most to do with a changed file: that import it, speak of it, or of what is in it."""
    module = change.path.removeprefix("src/").removesuffix(".py").replace("/", ".")
    source = (ROOT / change.path).read_text()
    names = {n.name for n in ast.parse(source).body if isinstance(n, ast.FunctionDef | ast.ClassDef)}
    scores = {}
    for path, known in imports().items():
        text = (ROOT / path).read_text()
        spoken = sum(len(re.findall(rf"\b{name}\b", text)) for name in names if not name.startswith("_"))
        near = sum(module.rsplit(".", 1)[0] == name.rsplit(".", 1)[0] for name in known)
        scores[path] = 100 * (module in known) + min(spoken, 40) + 3 * near + (5 if "desk" not in path else 0)
    ranked = sorted(scores, key=lambda path: -scores[path])
    return ranked[:FILES]


def killed(change: Change) -> bool:
    """Whether a test fails when a change is made."""
    with tempfile.TemporaryDirectory() as folder:
        for name in ("src", "tests", "bench", "docs", "packaging"):
            shutil.copytree(
                ROOT / name, Path(folder) / name, ignore=shutil.ignore_patterns("__pycache__"), symlinks=True
            )
        for name in ("pyproject.toml", "requirements.lock", "README.md", "Makefile"):
            shutil.copyfile(ROOT / name, Path(folder) / name)
        path = Path(folder) / change.path
        source = path.read_text()
        path.write_text(source[: change.start] + change.text + source[change.end :])
        threads = {"OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1", "QT_QPA_PLATFORM": "offscreen"}
        environment = {**os.environ, **threads, "PYTHONPATH": str(Path(folder) / "src")}
        words = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *related(change)]
        try:
            done = subprocess.run(words, cwd=folder, env=environment, capture_output=True, timeout=SECONDS, check=False)
        except subprocess.TimeoutExpired:
            return False  # not noticed in the time there was
        return done.returncode != 0


def main(count: str = "20", seed: str = "1", *paths: str) -> None:
    files = [f for name in paths or SEEDED for f in (sorted((ROOT / name).rglob("*.py")) or [ROOT / name])]
    every = [change for file in files for change in changes(file)]
    chosen: Sequence[Change] = random.Random(int(seed)).sample(every, min(int(count), len(every)))
    with ThreadPoolExecutor(AT_ONCE) as pool:
        noticed = 0
        for change, seen in zip(chosen, pool.map(killed, chosen), strict=True):
            noticed += seen
            print("killed  " if seen else "SURVIVED", change, flush=True)
    print(f"{noticed} of {len(chosen)} killed: {noticed / len(chosen):.0%}")


if __name__ == "__main__":
    main(*sys.argv[1:])
