"""Names to show for names in the source, from a two-column table (`--name-map FILE`)."""

from __future__ import annotations

from marvex.core.errors import Mistake, setting
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.query import Query
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.sheet_table import FoundTable
from marvex.sources.readers.source_file import SourceFile


def names_table(place: int) -> str:
    """The table of the names to show of one of the sources."""
    return f"names_{place}"


def read_names(file: SourceFile, engine: Engine, place: int) -> dict[str, str]:
    """Creates the names of a source from a two-column table, and gives them: name in the source, name to show."""
    if file.layout is None or len(file.layout.headings) != 2:
        raise Mistake(
            f"{setting('name_map')} {file.name} does not have two columns", "Give: name in the source, name to show."
        )
    name, shown = (quoted_name(heading) for heading in file.layout.headings)
    relation = file.relation()
    engine.run(
        Query(
            f"CREATE TEMP TABLE {names_table(place)} AS "
            f"SELECT trim({name}) AS name, any_value(trim({shown})) AS shown, "
            f"count(DISTINCT trim({shown})) AS several FROM {relation} WHERE trim({name}) <> '' GROUP BY 1"
        ),
        file.name,
    )
    twice = engine.rows(Query(f"SELECT name FROM {names_table(place)} WHERE several > 1 LIMIT 1"), file.name)
    if twice:
        raise Mistake(
            f"{setting('name_map')} {file.name} shows '{twice[0][0]}' as two names", "Give each name one to show."
        )
    found = engine.rows(Query(f"SELECT name, shown FROM {names_table(place)}"), file.name)
    return {str(name): str(to_show) for name, to_show in found}


def has_named(facts: Facts, found: FoundTable | None, engine: Engine, source: str) -> bool:
    """Whether a source, of which the raw facts have been made, has any of the names that are to be shown otherwise.

    Parameters
    ----------
    found : the statement that it was found to be, whose totals have names as well.
    """
    asked = " UNION ".join(f"SELECT trim(c{place}) FROM raw" for place in range(len(facts.roles.by)))
    known = {str(one) for (one,) in engine.rows(Query(asked), source)}
    known |= {line.label for line in found.statement.lines} if found else set()
    named = engine.rows(Query(f"SELECT name FROM {names_table(facts.place)}"), source)
    return any(name in known for (name,) in named)
