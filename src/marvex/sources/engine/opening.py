"""A source's rows are opened: those of a file with the columns that are worked out, or a table of a store."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field, replace

from marvex.core.values import dataclass
from marvex.sources.columns_asked import ColumnsAsked
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.derived import Relation, derived, looked_up
from marvex.sources.engine.gathered import Gathered
from marvex.sources.engine.query import Query
from marvex.sources.engine.rows import FileRows, Rows
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.engine.typed_columns import Typed, typed_columns
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.source_file import ROW_COLUMN, SourceFile


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Opened:
    """The rows of a source, with its headings and what is asked by them.

    Parameters
    ----------
    relation : what the rows of a file are selected from, and `typed` its columns that need not be read as text.
    """

    rows: Rows
    headings: tuple[str, ...]
    asked: ColumnsAsked
    relation: str = ""
    typed: dict[str, Typed] = field(default_factory=dict)


def opened(
    file: SourceFile,
    engine: Engine,
    asked: AskedOfSource,
    gathered: Gathered,
    lookup: SourceFile | None,
    *,
    held: str | None,
) -> Opened:
    """The rows, with the columns that a lookup has and those that are worked out.

    Parameters
    ----------
    held : the table in which they are kept, where many things are asked of them.
    """
    name = file.name
    if file.store is not None:
        from marvex.sources.engine.stored_columns import stored_columns
        from marvex.sources.engine.stored_rows import StoredRows

        own, headings, columns = stored_columns(file.store, asked, lookup, engine, name)
        return Opened(rows=StoredRows(own, engine, name, gathered), headings=headings, asked=columns)
    sql, headings, typed = _as_it_is(file, engine, asked)
    relation = Relation(sql=sql, headings=headings, row_column=file.row_column)
    if lookup is not None:
        relation = looked_up(relation, lookup, asked.lookup_column, engine, name)
    relation, columns = derived(relation, typed, asked.columns, asked.numbers, engine, name)
    if held is not None:
        relation, typed = _held(relation, held, engine, name), {}
    return Opened(
        rows=FileRows(relation, engine, name, gathered),
        headings=relation.headings,
        asked=columns,
        relation=relation.sql,
        typed=typed,
    )


def _as_it_is(
    file: SourceFile, engine: Engine, asked: AskedOfSource
) -> tuple[str, tuple[str, ...], dict[str, Typed]]:
    """What the rows of a file are selected from, its headings, and its columns that have a type."""
    relation = file.relation()
    if file.layout is not None:
        return relation, file.layout.headings, {}
    answer = engine.run(Query(f"SELECT * FROM {relation} LIMIT 0"), file.name)
    described = [(str(one[0]), str(one[1])) for one in answer.description or []]
    relation, typed = typed_columns(relation, described, _named_amounts(asked), engine, file.name)
    return relation, tuple(name for name, _ in described if name != ROW_COLUMN), typed


def _named_amounts(asked: AskedOfSource) -> Sequence[str]:
    """The columns of figures that the call names, or the texts that name them; none where it names no amount."""
    columns = asked.columns
    if columns.current is None and not columns.amounts:
        return ()
    others = (columns.per, columns.current, columns.base, *columns.by, *asked.where)
    return (*columns.amounts, *(one for one in others if one))


def _held(relation: Relation, table: str, engine: Engine, name: str) -> Relation:
    """The source read once into a table of trimmed texts, in its order."""
    row = [quoted_name(one) for one in (relation.row_column, relation.missing) if one]
    texts = [f"trim(CAST({one} AS VARCHAR)) AS {one}" for one in map(quoted_name, relation.headings)]
    columns = ", ".join([*texts, *row])
    engine.run(Query(f"CREATE TEMP TABLE {table} AS SELECT {columns} FROM {relation.sql}"), name)
    return replace(relation, sql=table)
