"""DuckDB, embedded: what is asked is in `query`, here it is answered, and its complaints put in plain words."""

from __future__ import annotations

import contextlib
import itertools
import re
from collections.abc import Iterator
from typing import Any

import duckdb

from marvex.core.errors import Mistake, setting
from marvex.sources.cells import MOST_DIGITS
from marvex.sources.engine.query import Query
from marvex.sources.readers.files import SourceFile, quoted_name
from marvex.sources.readers.work import Work

_begun: list[Work[duckdb.DuckDBPyConnection]] = []


def begin() -> None:
    """Begins to make a connection, which takes about as long as loading what comes before its first question."""
    if not _begun:
        _begun.append(Work(duckdb.connect))


class Engine:
    """One connection, on which all tables of a call are made."""

    def __init__(self, connection: duckdb.DuckDBPyConnection) -> None:
        self._connection = connection
        self._places = itertools.count()

    def relation_of(self, file: SourceFile) -> str:
        """What a source's rows are selected from: the file where it lies, or a table of the cells read already."""
        if file.columns is None or file.layout is None:
            return file.relation()
        table, arrays = f"cells_{next(self._places)}", {f"c{n}": array for n, array in enumerate(file.columns)}
        texts = [
            f"{(_number if array.dtype.kind == 'f' else _filled)(name)} AS {quoted_name(heading)}"
            for (name, array), heading in zip(arrays.items(), file.layout.headings, strict=True)
        ]
        self._connection.register("arrays", arrays)
        # Reading what Python holds, threads only wait for each other.
        self._connection.execute("SET threads = 1")
        self.run(Query(f"CREATE TEMP TABLE {table} AS SELECT {', '.join(texts)} FROM arrays"), file.name)
        self._connection.execute("RESET threads")
        self._connection.unregister("arrays")
        return table

    def rows(self, asked: Query, name: str) -> list[tuple[Any, ...]]:
        return self.run(asked, name).fetchall()

    def run(self, asked: Query, name: str) -> duckdb.DuckDBPyConnection:
        try:
            return self._connection.execute(asked.sql, list(asked.values))
        except duckdb.OutOfRangeException as problem:
            raise Mistake(
                f"{name}: the sum has more than {MOST_DIGITS} digits", f"Sum fewer rows with {setting('where')}."
            ) from problem
        except duckdb.Error as problem:
            raise _unreadable(str(problem), name) from problem


@contextlib.contextmanager
def connected() -> Iterator[Engine]:
    """An engine of its own, closed at the end."""
    with _begun.pop().result() if _begun else duckdb.connect() as connection:
        yield Engine(connection)


def _number(name: str) -> str:
    """A binary number as its shortest text, a whole one without a point."""
    is_whole = f"{name} = trunc({name}) AND abs({name}) < 1e15"
    return f"CASE WHEN {is_whole} THEN {name}::BIGINT::VARCHAR ELSE {name}::VARCHAR END"


def _filled(name: str) -> str:
    return f"nullif({name}, '')"


def _unreadable(problem: str, name: str) -> Mistake:
    """What the engine says of a file, in the analyst's words."""
    line = re.search(r"on Line: (\d+)", problem)
    widths = re.search(r"Expected Number of Columns: (\d+) Found: (\d+)", problem)
    if line and widths:
        expected, found = widths.groups()
        return Mistake(
            f"{name}, row {line[1]} has {found} cells where the headings have {expected}",
            "Mend the row, or put cells that hold the delimiter in quotes.",
        )
    return Mistake(
        f"{name} cannot be read: {shortened(problem.splitlines()[0], 160)}",
        "Check that it is a table with one heading row.",
    )


def shortened(text: str, most: int = 40) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"
