"""A small table as it stands, every cell as text: for lists that are not analysed, such as one of accounts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.files import Files
from marvex.sources.readers.source_file import Wanted
from marvex.sources.roles import found_column


@dataclass(frozen=True, slots=True)
class Table:
    """Headings and the rows under them; what is empty is an empty text."""

    name: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]

    def column(self, names: Sequence[str]) -> int | None:
        """The place of the first column that has one of the names, whatever their case."""
        known = [heading.strip().casefold() for heading in self.headings]
        return next((known.index(name) for name in names if name in known), None)

    def named(self, asked: str) -> int:
        """The place of the column so named; raises Mistake with the nearest name."""
        return self.headings.index(found_column(asked, self.headings, self.name, "account"))


def table_of(files: Files, engine: Engine, source: str) -> Table:
    """The rows of a source, in any form that can be read."""
    file = files.file(Wanted(source=source))
    relation = file.relation()
    described = engine.run(Query(f"SELECT * FROM {relation} LIMIT 0"), file.name).description or []
    headings = tuple(str(one[0]) for one in described)
    columns = ", ".join(f"coalesce(CAST({quoted_name(one)} AS VARCHAR), '')" for one in headings)
    rows = engine.rows(Query(f"SELECT {columns} FROM {relation}"), file.name)
    return Table(file.name, headings, tuple(tuple(str(cell) for cell in row) for row in rows))
