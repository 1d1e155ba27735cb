"""A table as it stands, every cell as text: for lists that are not analysed, such as one of accounts."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.values import dataclass
from marvex.sources.columns_asked import found_column
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.files import Files
from marvex.sources.readers.source_file import Wanted


@dataclass(frozen=True, slots=True)
class Listing:
    """A table as it stands, every cell as text; what is empty is an empty text."""

    name: str
    headings: tuple[str, ...]
    relation: str
    engine: Engine

    def column(self, names: Sequence[str]) -> str | None:
        """The first column that has one of the names, whatever their case."""
        known = {heading.strip().casefold(): heading for heading in reversed(self.headings)}
        return next((known[name] for name in names if name in known), None)

    def named(self, asked: str) -> str:
        """The column so named; raises Mistake with the nearest name."""
        return found_column(asked, self.headings, self.name, "account")

    def rows(self, *columns: str) -> list[tuple[str, ...]]:
        """The different rows of some columns, in the order in which they first stand."""
        texts = ", ".join(
            f"coalesce(CAST({quoted_name(one)} AS VARCHAR), '') AS c{place}" for place, one in enumerate(columns)
        )
        names = ", ".join(f"c{place}" for place in range(len(columns)))
        numbered = f"SELECT {texts}, row_number() OVER () AS number FROM {self.relation}"
        asked = f"SELECT {names} FROM ({numbered}) GROUP BY {names} ORDER BY min(number)"
        return [tuple(map(str, row)) for row in self.engine.rows(Query(asked), self.name)]


def listing_of(files: Files, engine: Engine, source: str) -> Listing:
    """The rows of a source, in any form that can be read."""
    file = files.file(Wanted(source=source))
    relation = file.relation()
    described = engine.run(Query(f"SELECT * FROM {relation} LIMIT 0"), file.name).description or []
    return Listing(file.name, tuple(str(one[0]) for one in described), relation, engine)
