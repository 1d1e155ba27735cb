"""DuckDB, embedded: what is asked is in `query`, here it is answered, and its complaints put in plain words."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from marvex.core.errors import Mistake, setting
from marvex.sources.cells import MOST_DIGITS
from marvex.sources.engine.query import Query
from marvex.sources.quoting import quoted_text

if TYPE_CHECKING:
    import duckdb


class Engine:
    """One connection, on which all tables of a request are made."""

    def __init__(self, connection: duckdb.DuckDBPyConnection) -> None:
        self._connection = connection
        self._latest: Engine | None = None

    def apart(self) -> Engine:
        """The same engine for another request, whose temporary tables have names of their own."""
        own = self._connection.cursor()
        # How far it is, others show.
        own.execute(
            "SET enable_progress_bar = true; SET enable_progress_bar_print = false; SET progress_bar_time = 0"
        )
        self._latest = Engine(own)
        return self._latest

    def bound(self, memory: str, folder: Path) -> None:
        """Takes no more memory than that, such as 1GB, and puts the rest into a folder."""
        self._connection.execute(f"SET memory_limit = {quoted_text(memory)}")
        self._connection.execute(f"SET temp_directory = {quoted_text(str(folder))}")

    @property
    def share(self) -> float | None:
        """How much of what was asked last is done, in per cent; None where that cannot be told."""
        asked = self if self._latest is None else self._latest
        found = asked._connection.query_progress()
        return None if found < 0 else found

    def close(self) -> None:
        self._connection.close()

    def rows(self, asked: Query, name: str) -> list[tuple[Any, ...]]:
        with _in_our_words(name):
            return self._connection.execute(asked.sql, list(asked.values)).fetchall()

    def take(self, table: str, columns: Mapping[str, Any], selected: str, name: str) -> None:
        """Creates a temporary table of NumPy's arrays: of many rows ten times as fast as values bound."""
        with _in_our_words(name):
            self._connection.register("taken", dict(columns))
            self._connection.execute(f"CREATE TEMP TABLE {table} AS SELECT {selected} FROM taken")
            self._connection.unregister("taken")

    def run(self, asked: Query, name: str) -> duckdb.DuckDBPyConnection:
        with _in_our_words(name):
            return self._connection.execute(asked.sql, list(asked.values))


@contextlib.contextmanager
def _in_our_words(name: str) -> Iterator[None]:
    """What the engine complains of, as a mistake of the source that it was asked about."""
    import duckdb

    try:
        yield
    except (duckdb.InterruptException, RuntimeError) as problem:
        if "interrupted" not in str(problem).lower():
            raise
        raise KeyboardInterrupt from problem  # as which it began
    except duckdb.OutOfRangeException as problem:
        raise Mistake(
            f"{name}: a sum, or an amount that is worked out, has more than {MOST_DIGITS} digits",
            f"Sum fewer rows with {setting('where')}, or work it out of shorter figures.",
        ) from problem
    except duckdb.OutOfMemoryException as problem:
        raise Mistake(
            f"{name} needs more memory than it may take",
            f"Give it more with {setting('memory', '4GB')}, or keep fewer rows with {setting('where')}.",
        ) from problem
    except (duckdb.BinderException, duckdb.CatalogException, duckdb.ParserException):
        raise  # what was asked is wrong, and not the file
    except duckdb.Error as problem:
        raise _unreadable(str(problem), name) from problem


def connected() -> Engine:
    """An engine of its own."""
    import duckdb  # not before it is needed: a pack that has not changed, for one, asks it nothing

    # Nothing is fetched from anywhere: what it comes with is enough.
    return Engine(duckdb.connect(config={"autoinstall_known_extensions": False}))


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
    place = f"{name}, row {line[1]}" if line else name
    return Mistake(
        f"{place} cannot be read as part of a table",
        "Check its quotes and its cells, and that it is a table with one heading row.",
    )


def shortened(text: str, most: int = 40) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"
