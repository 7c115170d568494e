"""Do the tests kill? python -m tests.mutants COUNT SEED [PATH ...]

Small seeded changes are made to core and files, each in a copy of the tree: a sign, a bound, min for max, and for or, a
dropped not, a number a little larger. The tests that go over the changed line run against it: some of what stands
first, then those of the files that have most to do with it, the quickest first; the share that some test notices is
printed, and where the others are.
PATH: files or folders to change, in place of all.

Which test goes over which line is noted once, by running them all (in .mutants, for the commit they stand at). Of lines
that nothing is noted of, as those that are compiled or were changed since, the tests run that have most to do with
their file.
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
from collections import defaultdict
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from queue import SimpleQueue
from xml.etree import ElementTree

from coverage import CoverageData

from tests import shared
from tests.besides import ELSE

ROOT = Path(__file__).parents[1]
SEEDED = ("src/tailor/core", "src/tailor/files")
NOTED = ROOT / ".mutants"
FILES = 7  # test files that have most to do with a change
STANDING, TEST, STAND = (
    "tests/test_standing.py",
    "test_it_comes_to_what_was_looked_at",
    12,
)  # tests of what stands, and how many of them are run first
SECONDS, LONGEST = 420, 100.0  # that a change may take, and that the tests against it take where none fails
AT_ONCE = 2
TREE = ("src", "tests", "bench", "docs", "packaging", "pyproject.toml", "requirements.lock", "README.md", "Makefile")
COMPILED = ("src/tailor/core/cut", "src/tailor/core/together/drawn.py")  # where one file's code lies in another's
PLAIN = {"OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1", "QT_QPA_PLATFORM": "offscreen", "SWEEP": "all"}
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


def felt(change: Change) -> Iterator[tuple[str, int]]:
    """The files and lines where a change is felt: its own, or of a constant those where it is used."""
    source = (ROOT / change.path).read_text()
    for node in ast.parse(source).body:
        if isinstance(node, ast.Assign | ast.AnnAssign) and node.lineno <= change.line <= (node.end_lineno or 0):
            targets = node.targets if isinstance(node, ast.Assign) else [node.target]
            names = "|".join(n.id for target in targets for n in ast.walk(target) if isinstance(n, ast.Name))
            module = change.path.removeprefix("src/").removesuffix(".py").replace("/", ".")
            taken = re.compile(rf"from {re.escape(module)} import [^)]*?\b({names})\b")
            for path in sorted((ROOT / "src").rglob("*.py")):
                text, name = path.read_text(), str(path.relative_to(ROOT))
                if name == change.path or taken.search(text):
                    used = re.compile(rf"\b({names})\b")
                    yield from ((name, k) for k, line in enumerate(text.splitlines(), 1) if used.search(line))
            return
    yield change.path, change.line


@dataclass(frozen=True, eq=False)
class Watched:
    """What was noted of the tests. times: seconds each takes, by its name. over: the tests that go over each line of a
    file of src, by its path. changed: files that are no longer as they were then.
    """

    times: dict[str, float]
    data: CoverageData
    root: str
    changed: frozenset[str]

    @cache  # noqa: B019  of one run
    def _by_line(self, path: str) -> dict[int, list[str]]:
        return self.data.contexts_by_lineno(str(Path(self.root) / path))

    def tests(self, change: Change) -> list[str]:
        """Those to run against a change, in their order; none where nothing is noted of its line."""
        if change.path in self.changed:
            return []
        always = {f"{STANDING}::{TEST}[{name}]" for name in ELSE} & self.times.keys()  # some of it is read at import
        over = always | {
            name.split("|")[0] for path, line in felt(change) for name in self._by_line(path).get(line, ()) if name
        }
        near = {path: k for k, path in enumerate(related(change))}
        quick = sorted(over, key=lambda name: self.times.get(name, 0.0))
        stands = [name for name in quick if name.startswith(STANDING)][:STAND]
        others = [name for name in quick if name not in stands]
        rest = sorted(others, key=lambda name: near.get(name.split("::")[0], FILES))
        spent, chosen = 0.0, list[str]()
        for name in [*stands, *rest]:
            spent += self.times.get(name, 0.0)
            if chosen and spent > LONGEST:
                break
            chosen.append(name)
        return chosen


def watched() -> Watched:
    """What is noted of the tests, who are run for it where nothing is."""
    data, times, at = (NOTED / name for name in ("lines", "times.xml", "commit"))
    if not at.exists():
        NOTED.mkdir(exist_ok=True)
        print("Noting which test goes over which line, once: half an hour.", flush=True)
        words = ["-m", "pytest", "-n", str(AT_ONCE), "--cov=tailor", "--cov-context=test", "--cov-report=",
                 f"--junitxml={times}"]  # fmt: skip
        environment = {**os.environ, **PLAIN, "COVERAGE_FILE": str(data), shared.PLACE: ""}
        subprocess.run([sys.executable, *words], cwd=ROOT, env=environment, check=True)
        at.write_text(_git("rev-parse", "HEAD") + "\n" + str(ROOT))
    commit, root = at.read_text().splitlines()
    took = defaultdict[str, float](float)
    for case in ElementTree.parse(times).iter("testcase"):
        took[f"{case.get('classname', '').replace('.', '/')}.py::{case.get('name')}"] += float(case.get("time", 0))
    lines = CoverageData(str(data))
    lines.read()
    return Watched(dict(took), lines, root, frozenset(_git("diff", "--name-only", commit, "--", "src").split()))


def _git(*words: str) -> str:
    return subprocess.run(["git", *words], cwd=ROOT, capture_output=True, text=True, check=True).stdout.strip()


def copied(folder: Path) -> Path:
    """The tree copied to a folder, with what is compiled of it."""
    for name in TREE:
        if (ROOT / name).is_dir():
            shutil.copytree(ROOT / name, folder / name, symlinks=True)
        else:
            shutil.copy2(ROOT / name, folder / name)
    return folder


def killed(change: Change, tests: Sequence[str], folder: Path) -> bool:
    """Whether a test fails when a change is made in a copy of the tree, which is then as it was."""
    path = folder / change.path
    source, stat = path.read_text(), path.stat()
    if change.path.startswith(COMPILED):
        for old in (folder / "src").rglob("*.nb[ic]"):
            old.unlink()
    path.write_text(source[: change.start] + change.text + source[change.end :])
    environment = {**os.environ, **PLAIN, "PYTHONPATH": str(folder / "src")}
    words = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *(tests or related(change))]
    try:
        done = subprocess.run(words, cwd=folder, env=environment, capture_output=True, timeout=SECONDS, check=False)
    except subprocess.TimeoutExpired:
        return bool(tests)  # which take a quarter of that: it hangs, and nobody overlooks that
    finally:
        path.write_text(source)
        os.utime(path, ns=(stat.st_atime_ns, stat.st_mtime_ns))
    return done.returncode != 0


def main(count: str = "20", seed: str = "1", *paths: str) -> None:
    files = [f for name in paths or SEEDED for f in (sorted((ROOT / name).rglob("*.py")) or [ROOT / name])]
    every = [change for file in files for change in changes(file)]
    chosen: Sequence[Change] = random.Random(int(seed)).sample(every, min(int(count), len(every)))
    noted = watched()
    against = [noted.tests(change) for change in chosen]
    with tempfile.TemporaryDirectory() as place, ThreadPoolExecutor(AT_ONCE) as pool:
        free = SimpleQueue[Path]()
        for k in range(AT_ONCE):
            free.put(copied(Path(place) / str(k)))

        def tried(change: Change, tests: Sequence[str]) -> bool:
            folder = free.get()
            try:
                return killed(change, tests, folder)
            finally:
                free.put(folder)

        noticed = 0
        for change, tests, seen in zip(chosen, against, pool.map(tried, chosen, against), strict=True):
            noticed += seen
            print("killed  " if seen else f"SURVIVED {len(tests)} tests", change, flush=True)
    print(f"{noticed} of {len(chosen)} killed: {noticed / len(chosen):.0%}")


if __name__ == "__main__":
    main(*sys.argv[1:])
