"""All sources of a request, read into one set of facts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

from marvex.core.compare.totals import Total
from marvex.sources.cells import MOST_DIGITS
from marvex.sources.engine import query
from marvex.sources.engine.categories_alike import check_categories
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.ends import scenarios_of, written_grain
from marvex.sources.engine.gathered import Gathered
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.names import read_names
from marvex.sources.engine.query import Query
from marvex.sources.engine.reading import read_source
from marvex.sources.engine.signs import check_signs
from marvex.sources.engine.source import Source
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.engine.statements import with_statements
from marvex.sources.readers.files import Files
from marvex.sources.readers.sheet_table import Wishes
from marvex.sources.readers.source_file import SourceFile, Wanted

if TYPE_CHECKING:
    from marvex.sources.engine.spreading import Spreading


def read_ledger(
    files: Files, engine: Engine, asked: Sequence[AskedOfSource], gathered: Gathered, *, is_held: bool = False
) -> Ledger:
    """All sources of a request, read into one set of facts.

    Parameters
    ----------
    engine : its temporary tables are this ledger's own.
    gathered : what is kept of the sources for other requests.
    is_held : the rows are kept in the engine, for a survey that asks them many things.
    """
    names = [
        {} if one.name_map is None else read_names(files.file(Wanted(source=one.name_map)), engine, place)
        for place, one in enumerate(asked)
    ]
    opened = [files.file(one.wanted) for one in asked]
    asked = with_statements(opened, asked, names)
    shared = _shared_headings(opened)
    sources: list[Source] = []
    for place, (file, one) in enumerate(zip(opened, asked, strict=True)):
        if len(asked) > 1:
            is_list = bool(sources) and not one.columns.by and bool(sources[0].roles.by)
            named_by = sources[0].roles.by[0] if is_list else None
            of_rows = replace(one.columns, shared=shared)
            one = replace(one, columns=of_rows, is_one_of_several=True, named_by=named_by)
        sources.append(
            read_source(place, file, engine, one, gathered=gathered, lookup=_lookup(files, one), is_held=is_held)
        )
    check_categories(sources)
    total_as, calendar = asked[0].total_as, asked[0].calendar
    name = " and ".join(one.name for one in sources)
    # The engine would give a union of decimals the type that rounds one of them.
    decimals = max(one.facts.reading.decimals for one in sources)
    of_per = max(one.facts.per_reading.decimals for one in sources)
    exact = ", ".join(
        f"CAST({column} AS DECIMAL({MOST_DIGITS}, {places})) AS {column}"
        for column, places in (("amount", decimals), ("highest", decimals), ("lowest", decimals), ("per", of_per))
    )
    columns = f"* REPLACE ({exact})" if len(sources) > 1 else "*"
    tables = " UNION ALL ".join(f"SELECT {columns} FROM {one.facts.table}" for one in sources)
    engine.run(Query(f"CREATE TEMP VIEW facts AS {tables}"), name)
    spreading: Spreading | None = None
    if asked[0].spread is not None:
        from marvex.sources.engine.spreading import spread

        width = max(len(one.roles.by) for one in sources)
        written = partial(written_grain, sources=sources)
        spreading = spread(engine, asked[0].spread, calendar, width, decimals, name, written)
    if total_as.way is Total.DISTINCT:
        keys = " UNION ALL ".join(f"SELECT * FROM {one.facts.keys}" for one in sources)
        engine.run(Query(f"CREATE TEMP VIEW keys AS {keys}"), name)
    if total_as.adds_rows and (len(sources) > 1 or sources[0].roles.has_scenarios):
        check_signs(sources, sources[0].statement, engine, len(sources[0].roles.compared_by))
    engine.run(query.CREATE_SCENARIO_DAYS, name)
    days = engine.rows(query.SCENARIO_DAYS, name)
    has_amounts = total_as.way not in (Total.COUNT, Total.DISTINCT)
    scenarios = scenarios_of(
        sources, engine, calendar, days, has_amounts=has_amounts, spread=spreading.said if spreading else ()
    )
    return Ledger(
        sources,
        engine,
        scenarios,
        has_scenarios=len({scenario for scenario, *_ in days}) > 1,  # those without a figure among them
        spreading=spreading,
        renamed=_renamed(names),
    )


def _renamed(names: Sequence[Mapping[str, str]]) -> dict[str, str]:
    """The names that are shown, each with the one that it is shown for; none that stand for several."""
    found: dict[str, set[str]] = {}
    for of_source in names:
        for name, shown in of_source.items():
            found.setdefault(shown, set()).add(name)
    return {shown: of.pop() for shown, of in found.items() if len(of) == 1}


def _shared_headings(files: Sequence[SourceFile]) -> frozenset[str]:
    """The headings that all of several files have, in small letters; none where the types of one say its columns."""
    headings = [{one.casefold() for one in file.layout.headings} if file.layout else set() for file in files]
    return frozenset(set.intersection(*headings))


def _lookup(files: Files, asked: AskedOfSource) -> SourceFile | None:
    if asked.lookup is None:
        return None
    return files.file(Wanted(source=asked.lookup, wishes=Wishes(is_list=True), keep_totals=True))
