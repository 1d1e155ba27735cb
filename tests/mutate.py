"""Mutation of the core: is every change that makes it wrong noticed by a test? `make mutate MINUTES=20`.

A sample of the changes that cosmic-ray can make is made, one by one, in copies of the project; of each, the tests
that go through the changed line are run, the quick ones first. `MINUTES=all` tries every change.
"""

from __future__ import annotations

import ast
import os
import random
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import time
import xml.etree.ElementTree as ET
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from cosmic_ray.commands.init import _all_work_items
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator

ROOT = Path(__file__).parent.parent
CORE = Path("src/marvex/core")
MOST_TESTS = 60  # of those that go through a line, the quickest
MOST_SECONDS = 150
# `int | None` in an annotation is never run, and what a data class may do besides holding its values is no result.
NO_RESULT = (
    "BinaryOperator_BitOr",
    "Operator_Is_Eq",
    "IsNot_NotEq",
    "Operator_Eq_Is",
    "NotEq_IsNot",
)  # the same of what is one object
TESTS = ("core", "app")


def copy_of_project(folder: Path) -> Path:
    for name in ("src", "tests", "docs"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__", "screenshots"))
    for name in ("pyproject.toml", "README.md", "Makefile"):
        shutil.copy(ROOT / name, folder)
    return folder


def environment(project: Path, **more: str) -> dict[str, str]:
    return {
        **os.environ,
        "PYTHONPATH": str(project / "src"),
        "PYTHONDONTWRITEBYTECODE": "1",
        "MARVEX_CALLS": "60",
        **more,
    }


def covered(project: Path, files: Sequence[Path], place: int) -> tuple[Path, Path]:
    """Runs some test files; gives where the lines that each test goes through, and their times, are written."""
    data, times = project / f".coverage.{place}", project / f"times{place}.xml"
    settings = project / f"coverage{place}.ini"
    settings.write_text(f"[run]\ndynamic_context = test_function\nsource = {CORE}\ndata_file = {data}\n")
    words = ["-m", "coverage", "run", f"--rcfile={settings}", "-m", "pytest", "-q", "-n", "0", f"--junitxml={times}"]
    subprocess.run(
        [sys.executable, *words, *map(str, files)], cwd=project, env=environment(project), check=True,
        stdout=subprocess.DEVNULL,
    )  # fmt: skip
    return data, times


def tests_by_line(project: Path) -> dict[tuple[str, int], list[str]]:
    """The tests that go through each line of the core, the quickest first."""
    files = sorted((path for name in TESTS for path in (project / "tests" / name).glob("test_*.py")),
                   key=lambda path: -path.stat().st_size)  # fmt: skip
    with ThreadPoolExecutor() as pool:
        found = list(pool.map(lambda place: covered(project, files[place::2], place), range(2)))
    seconds: dict[str, float] = defaultdict(float)
    for _, times in found:
        for case in ET.parse(times).getroot().iter("testcase"):
            name = f"{case.get('classname')}.{str(case.get('name')).partition('[')[0]}"
            seconds[name.rpartition("tests.")[2]] += float(case.get("time") or 0)
    lines: dict[tuple[str, int], set[str]] = defaultdict(set)
    from coverage.numbits import numbits_to_nums

    for data, _ in found:
        asked = "SELECT path, context, numbits FROM line_bits JOIN file ON file.id = file_id JOIN context ON context.id = context_id"
        for path, context, bits in sqlite3.connect(data).execute(asked):
            for line in numbits_to_nums(bits):
                lines[str(Path(path).relative_to(project)), line].add(context)
    known = {path.stem: path.relative_to(project) for path in files}

    def node(context: str) -> tuple[float, str] | None:
        *_, module, name = context.split(".") if "." in context else ("", "", "")
        if module not in known:
            return None
        return seconds.get(f"{known[module].parent.name}.{module}.{name}", 60.0), f"{known[module]}::{name}"

    return {
        place: [name for _, name in sorted(filter(None, map(node, contexts)))][:MOST_TESTS]
        for place, contexts in lines.items()
    }


def _lines_without_result(path: Path) -> set[int]:
    """The lines of a module where a change changes no result: decorators of data classes, words for the reader."""
    found: set[int] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ClassDef | ast.FunctionDef):
            for one in node.decorator_list:
                found |= set(range(one.lineno, (one.end_lineno or one.lineno) + 1))
        if isinstance(node, ast.If) and "TYPE_CHECKING" in ast.unparse(node.test):
            found |= set(range(node.lineno, (node.end_lineno or node.lineno) + 1))
    return found


def tried(project: Path, item: Any, tests: Sequence[str]) -> bool:
    """Whether a test notices a change; the file is put back."""
    mutation = item.mutations[0]
    path = project / mutation.module_path
    original = path.read_text()
    operator = get_operator(mutation.operator_name)(**mutation.operator_args)
    changed = mutate_code(original, operator, mutation.occurrence)
    path.write_text(changed if isinstance(changed, str) else changed[0])
    words = [sys.executable, "-m", "pytest", "-q", "-x", "-n", "0", "-p", "no:cacheprovider"]
    try:
        for asked in ([str(mutation.module_path)], tests):
            if asked and subprocess.run(
                [*words, *asked], cwd=project, env=environment(project), timeout=MOST_SECONDS, check=False,
                stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
            ).returncode not in (0, 5):  # fmt: skip
                return True
    except subprocess.TimeoutExpired:
        return True
    finally:
        path.write_text(original)
    return False


def main() -> None:
    asked = os.environ.get("MINUTES", "20")
    end = time.monotonic() + 60 * float(asked) if asked != "all" else float("inf")
    os.chdir(ROOT)
    modules = [path for path in sorted(CORE.rglob("*.py")) if path.name != "__init__.py"]
    without = {path: _lines_without_result(path) for path in modules}
    items = [
        item
        for item in _all_work_items(modules, {})
        if not any(one in item.mutations[0].operator_name for one in NO_RESULT)
        and not set(range(item.mutations[0].start_pos[0], item.mutations[0].end_pos[0] + 1))
        & without[Path(item.mutations[0].module_path)]
    ]
    random.Random(int(os.environ.get("SEED", "17"))).shuffle(items)
    with tempfile.TemporaryDirectory() as folder:
        projects = [copy_of_project(Path(folder) / str(place)) for place in range(2)]
        lines = tests_by_line(projects[0])
        noticed, missed = 0, list[Any]()

        def work(place: int) -> list[tuple[Any, bool]]:
            results = []
            for item in items[place::2]:
                if time.monotonic() > end:
                    break
                mutation = item.mutations[0]
                tests = lines.get((str(mutation.module_path), mutation.start_pos[0]), [])
                results.append((item.mutations[0], tried(projects[place], item, tests)))
            return results

        with ThreadPoolExecutor() as pool:
            for results in pool.map(work, range(2)):
                noticed += sum(was for _, was in results)
                missed += [mutation for mutation, was in results if not was]
    total = noticed + len(missed)
    print(f"{total} of {len(items):,} changes tried, {noticed} noticed: {noticed / max(total, 1):.0%}")
    for one in sorted(missed, key=lambda one: (str(one.module_path), one.start_pos)):
        print(
            f"missed: {one.module_path}:{one.start_pos[0]}:{one.start_pos[1]} {one.operator_name} #{one.occurrence}"
        )


if __name__ == "__main__":
    main()
