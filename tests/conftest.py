"""What the tests share: the installed command, and small ledgers on disk."""

from __future__ import annotations

import contextlib
import csv
import io
import json
import os
import re
import shlex
import shutil
import sqlite3
import subprocess
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path
from typing import Any

import duckdb
import pytest
from hypothesis import HealthCheck
from hypothesis import settings as properties

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as the command does: there are no matrices here
os.environ.setdefault("GRPC_ENABLE_FORK_SUPPORT", "false")  # as it does before it asks a cluster

from marvex.app import draw
from marvex.app.draw import Painted
from marvex.app.session import Session
from marvex.app.view_places import view_place
from marvex.cli.main import main
from marvex.request.request import request_of
from marvex.request.settings import Settings

pytest_plugins = ["stored"]  # ledgers in databases

# No test is timed, and each example of a property may have the folder of those before it.
properties.register_profile(
    "untimed", deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture]
)
properties.load_profile("untimed")

# What the targets of their own run, with libraries that the tests do not need.
collect_ignore = ["fuzzing", "mutate.py", "matrix.py"]

MARVEX = Path(sys.executable).parent / "marvex"
ROOT = Path(__file__).parent.parent
DEMO = ROOT / "src/marvex/demo/data/ledger.csv.gz"

HEADINGS = ("date", "account", "route", "scenario", "net")


@dataclass(frozen=True)
class Outcome:
    """What a run of the command gave."""

    status: int
    out: str
    err: str


@dataclass(frozen=True)
class Desk:
    """A folder with data, in which the installed command is run."""

    folder: Path

    def run(self, *words: str, feed: bytes | None = None) -> Outcome:
        """One call within this process, which is many times as quick."""
        out, err = io.StringIO(), io.StringIO()
        given = io.TextIOWrapper(io.BytesIO(feed or b""))
        with (
            contextlib.chdir(self.folder),
            contextlib.redirect_stdout(out),
            contextlib.redirect_stderr(err),
            pytest.MonkeyPatch.context() as patched,
        ):
            patched.setattr("sys.stdin", given)
            try:
                status = main(words)
            except SystemExit as stopped:  # what argparse does after --help
                status = int(stopped.code or 0)
        for report in re.findall(r"written down in (\S+)\.$", err.getvalue(), re.MULTILINE):
            print(Path(report).read_text())  # which pytest shows of a test that fails
        return Outcome(status, out.getvalue(), err.getvalue())

    def process(self, *words: str, feed: bytes | None = None) -> Outcome:
        """One call as a process of its own: for start, signals, pipes, terminals and exit statuses."""
        done = subprocess.run(
            [MARVEX, *words], cwd=self.folder, input=feed, capture_output=True, timeout=120, check=False
        )
        return Outcome(done.returncode, done.stdout.decode(), done.stderr.decode())

    def write(self, name: str, rows: Sequence[Sequence[Any]], headings: Sequence[str] = HEADINGS) -> str:
        with (self.folder / name).open("w", newline="", encoding="utf-8") as file:
            writer = csv.writer(file)
            writer.writerow(headings)
            writer.writerows(rows)
        return name

    def keep(self, kind: str, rows: Sequence[Sequence[Any]], headings: Sequence[str]) -> list[str]:
        """The words that name the rows as they are kept by a program: json, parquet or sqlite, with types."""
        columns = [[None if cell == "" else cell for cell in column] for column in zip(*rows, strict=True)]
        if kind == "json":
            records = [dict(zip(headings, row, strict=True)) for row in zip(*columns, strict=True)]
            (self.folder / "t.json").write_text(json.dumps(records))
            return ["t.json"]
        types = []
        for place, column in enumerate(columns):
            with contextlib.suppress(ValueError):
                columns[place] = [None if cell is None else int(cell) for cell in column]
            types.append("BIGINT" if columns[place] is not column else "VARCHAR")
        (self.folder / "t.db").unlink(missing_ok=True)
        with (sqlite3.connect if kind == "sqlite" else duckdb.connect)(self.folder / "t.db") as books:
            named = (f'"{name}" {one}' for name, one in zip(headings, types, strict=True))
            books.execute(f"CREATE TABLE t ({', '.join(named)})")
            marks = ", ".join("?" * len(columns))
            books.executemany(f"INSERT INTO t VALUES ({marks})", list(zip(*columns, strict=True)))
            if kind == "parquet":
                books.execute(f"COPY t TO '{self.folder / 't.parquet'}'")
        return ["t.parquet"] if kind == "parquet" else ["sqlite:///t.db", "--table", "t"]

    def figures(self, *words: str, status: int = 0) -> dict[str, Any]:
        """The figures of a run, with every number exact."""
        done = self.run(*words, "--figures", "figures.json")
        assert done.status == status, done.err
        return self.read_figures()

    def read_figures(self) -> dict[str, Any]:
        return json.loads((self.folder / "figures.json").read_text(), parse_float=Decimal, parse_int=Decimal)

    def refused(self, *words: str, feed: bytes | None = None) -> str:
        """The message of a run that must be refused: short, with status 2, and nothing written."""
        before = sorted(self.folder.rglob("*"))
        done = self.run(*words, feed=feed)
        assert done.status == 2, (done.out, done.err)
        assert "Traceback" not in done.err
        assert done.err.startswith("marvex: ")
        assert len(done.err.splitlines()) <= 4
        assert done.out == ""
        assert sorted(self.folder.rglob("*")) == before
        return done.err


def painted(view: str, sources: Sequence[str], settings: Settings) -> Painted:
    """A picture before it is saved."""
    return draw.drawn_as(planned(view, sources, settings), settings)


def planned(view: str, sources: Sequence[str], settings: Settings) -> draw.Planned:
    """A picture before it is drawn, for as many sizes as are tried."""
    with Session() as session:
        return draw.planned(session, view, request_of(sources, settings, view_place(view)))


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    return Desk(tmp_path)


def typed(call: str) -> tuple[str, ...]:
    """The words of a call as it is typed."""
    return tuple(shlex.split(call))


def by_label(figures: dict[str, Any]) -> dict[str, dict[str, Any]]:
    """The points of `--figures` by their labels."""
    return {point["label"]: point for point in figures["points"]}


def needed(programs: Sequence[str], package: str) -> str:
    """The first of some programs that is here; where none is, the test is skipped with how to install it.

    With MARVEX_SKIP=none, as in CI, that is a failure.
    """
    found = next(filter(None, map(shutil.which, programs)), None)
    if found is None:
        what = f"{programs[0]} is not here: apt-get install {package}"
        if os.environ.get("MARVEX_SKIP") == "none":
            pytest.fail(what)
        pytest.skip(what)
    return found
