"""Tables in databases, by SQLAlchemy: opened to be read only, in one transaction, which sees one state."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping, Sequence
from decimal import Decimal
from pathlib import Path
from typing import Any, Self

from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.exact import EXACT
from marvex.sources.expression import Expression, columns_in
from marvex.sources.readers.dialects import ways_of
from marvex.sources.readers.store import (
    ENOUGH_ROWS,
    Kind,
    Place,
    Store,
    Tally,
    as_sent,
    figure_of,
    password_in_sight,
    query_text,
    told_otherwise,
    without_password,
    written,
)

try:
    import sqlalchemy as sa
except ImportError:
    raise Mistake("databases need SQLAlchemy, which is not installed", "pip install 'marvex[databases]'.") from None

ROWS_AT_ONCE = 20_000
LOCKED = 10  # seconds to wait for a table that another changes
STEPS = 1_000_000  # of SQLite's own machine


def opened(place: Place) -> Store:
    """The table of a place; raises Mistake where it cannot be reached, or is none."""
    try:
        url = sa.make_url(place.address)
        if url.password is not None or "password" in url.query:
            raise password_in_sight(place.address, ways_of(url.get_backend_name()).password)
        engine = sa.create_engine(url, poolclass=sa.NullPool)
    except (sa.exc.ArgumentError, sa.exc.NoSuchModuleError, ValueError) as problem:
        raise Mistake(
            f"'{without_password(place.address)}' is no address of a database",
            "Write it as postgresql+psycopg://name@host/database or sqlite:///file.db.",
        ) from problem
    except ImportError as problem:
        raise Mistake(
            f"{url.drivername} needs a driver that is not installed: {problem.name}",
            "pip install 'marvex[databases]', or the driver of your database.",
        ) from problem
    shown = str(url.database or url.drivername).rsplit("/", 1)[-1]
    if url.get_backend_name() == "sqlite":
        if url.database and not Path(url.database).is_file():
            raise Mistake(f"there is no file '{url.database}'", "Check the name and the folder.")
        return _SqliteTable(place, engine, shown)
    if url.get_backend_name() == "postgresql":
        return _PostgresTable(place, engine, shown)
    return _Table(place, engine, shown)


class _Table(Store):
    """A table or a query of a database with exact numeric columns."""

    def __init__(self, place: Place, engine: sa.Engine, database: str) -> None:
        super().__init__(place.table or Path(place.query or database).stem)
        self._engine, self._database = engine, database
        self._ways = ways_of(engine.dialect.name)
        self.is_tried, self.most_digits = self._ways.is_tried, self._ways.most_digits
        with self._in_our_words():
            self._connection = self._begun()
        try:
            self._check_letters()
            self._find(place)
        except BaseException:
            self.close()
            raise

    def _begun(self) -> sa.Connection:
        """A connection that may not write, with a transaction begun."""
        connection = self._engine.connect().execution_options(**self._ways.options)
        for told in self._ways.told:
            connection.execute(sa.text(told.format(locked=LOCKED)))
        return connection

    def _check_letters(self) -> None:
        """Raises Mistake where a database that no test has tried takes texts for one that are not."""
        if self.is_tried:
            return
        small, large, blank = (self._ways.letter_by_letter(sa.literal(one, sa.String)) for one in ("a", "A", " "))
        is_blank = sa.func.coalesce(sa.func.trim(blank), "") == ""
        found = self.rows(sa.select(sa.case((small == large, 1), else_=0), sa.case((is_blank, 1), else_=0)))
        if found != [(0, 1)]:
            raise Mistake(
                f"{self._database}: {self._engine.dialect.name} tells names apart otherwise than it is meant",
                "Write the table to a file, such as Parquet, and name that.",
            )

    def with_worked_out(self, text: str, expression: Expression, decimals: Mapping[str, int]) -> Self:
        found = super().with_worked_out(text, expression, decimals)
        if not self.is_tried:
            names = columns_in(expression)
            asked = sa.select(*map(found.column, names), as_sent(found.column(text))).select_from(found.table)
            for *cells, figure in self.rows(asked.limit(ENOUGH_ROWS)):
                own = written(expression, dict(zip(names, cells, strict=True)), decimals)
                if figure_of(own, 0) != (None if figure is None else Decimal(str(figure))):
                    raise told_otherwise(self.name, setting("amount", text))
        return found

    def _find(self, place: Place) -> None:
        """Tells what columns the table has."""
        if place.query is not None:
            text = query_text(place.query)
            # A query within brackets: what is no query does not parse. With a value bound, drivers send one command.
            plain = f"SELECT * FROM (\n{text}\n) AS asked LIMIT".replace(":", "\\:")
            source: Any = sa.text(f"{plain} :most").bindparams(most=ENOUGH_ROWS)
        elif place.table is None:
            known = self._all_tables()
            raise Mistake(
                f"{self._database} is a database: which table?",
                f"There are {listed((setting('table', one) for one in known), 6)}." if known else "It has no tables.",
            )
        else:
            schema, _, name = place.table.rpartition(".")
            self._check_table(name, schema or None)
            named = sa.table(sa.quoted_name(name, True), schema=sa.quoted_name(schema, True) if schema else None)
            source = sa.select(sa.literal_column("*")).select_from(named).limit(ENOUGH_ROWS)
        with self._in_our_words():
            answer = self._connection.execute(source)
            headings, first = list(answer.keys()), answer.fetchall()
        if len(set(headings)) < len(headings):
            raise Mistake(f"{self.name} has a column twice", "Give each its own name in the query.")
        columns: list[Any] = [sa.column(sa.quoted_name(one, True)) for one in headings]
        if place.query is not None:
            asked = sa.text(f"\n{query_text(place.query)}\n".replace(":", "\\:")).columns(*columns)
            self.table = asked.subquery("asked")
        else:
            self.table = sa.table(named.name, *columns, schema=named.schema)
        self.tell_kinds(headings, [tuple(row) for row in first])

    def _tables(self, schema: str | None = None) -> list[str]:
        with self._in_our_words():
            found = sa.inspect(self._connection)
            return sorted((*found.get_table_names(schema), *found.get_view_names(schema)))

    def _all_tables(self) -> list[str]:
        """The tables of every schema but the database's own."""
        with self._in_our_words():
            found = sa.inspect(self._connection)
            others = [one for one in found.get_schema_names() if one != found.default_schema_name]
        own = [one for one in others if one not in ("information_schema", "pg_catalog", "main")]
        return [*self._tables(), *(f"{schema}.{name}" for schema in own for name in self._tables(schema))]

    def _check_table(self, name: str, schema: str | None) -> None:
        known = self._tables(schema)
        if name not in known:
            raise Mistake(
                f"{self._database} has no table '{name}'" + (f" in {schema}" if schema else ""),
                did_you_mean(name, known, f"There are {listed(known, 8)}." if known else "It has none."),
                field="table",
            )

    def rows(self, statement: sa.Select[Any]) -> list[tuple[Any, ...]]:
        with self._in_our_words():
            return [tuple(row) for row in self._connection.execute(statement).fetchall()]

    def each(self, statement: sa.Select[Any]) -> Iterator[tuple[Any, ...]]:
        with self._in_our_words():
            streamed = self._connection.execution_options(yield_per=ROWS_AT_ONCE)
            for row in streamed.execute(statement):
                yield tuple(row)

    def exact(self, name: str, decimals: int) -> sa.ColumnElement[Any]:
        if self.most_digits and self.kinds[name] is Kind.BINARY:
            return sa.cast(self.column(name), sa.Numeric(self.most_digits, decimals))
        return super().exact(name, decimals)

    def text(self, name: str) -> sa.ColumnElement[Any]:
        return self._ways.letter_by_letter(super().text(name))

    def close(self) -> None:
        with contextlib.suppress(sa.exc.SQLAlchemyError):
            self._connection.close()
        self._engine.dispose()

    @contextlib.contextmanager
    def _in_our_words(self) -> Iterator[None]:
        try:
            yield
        except (sa.exc.SQLAlchemyError, OSError) as problem:
            if self._was_interrupted(problem):
                raise KeyboardInterrupt from None
            raise Mistake(*self._said(problem)) from None

    def _was_interrupted(self, problem: Exception) -> bool:  # noqa: ARG002
        """Whether the driver complains of Ctrl-C only, which it has swallowed."""
        return False

    def _said(self, problem: Exception) -> tuple[str, str]:
        """What the database complains of, in one line without a password, and what can be done."""
        found = getattr(problem, "orig", None) or problem
        # Some drivers give a number before what they say.
        text = str(found.args[1] if len(found.args) == 2 and isinstance(found.args[0], int) else found)
        line = without_password(" ".join(text.split("\n")[0].split()))
        where = dict.fromkeys((self.name, self._database))
        what = f"{', '.join(where)}: {line[:200]}"
        known = (
            ("password", f"Give the right one by {self._ways.password}."),
            ("lock timeout", "Another has the table locked: wait for it to end."),
            ("certificate", "Trust its authority in the address: ?sslrootcert=FILE."),
            ("timeout", f"Give it more time with {setting('give_up_after', 'SECONDS')}."),
            ("read-only", "The query may only read."),
            ("read only", "The query may only read."),
            ("syntax", "Mend the query: one SELECT, without anything after it."),
        )
        mend = next(
            (way for word, way in known if word in text.lower()), "Check the address, the table and the query."
        )
        return what, mend


class _PostgresTable(_Table):
    """A table of PostgreSQL, which knows how many groups there will be of its columns, and not of what is made of them.

    Of a column whose texts are told apart letter by letter anyway a great many groups take half the time so.
    """

    def _find(self, place: Place) -> None:
        super()._find(place)
        self._exact_texts: frozenset[str] = frozenset()
        if place.table is not None:
            asked = sa.text(
                "SELECT attname FROM pg_attribute WHERE attrelid = to_regclass(:named) "
                "AND atttypid IN ('text'::regtype, 'varchar'::regtype) "
                "AND attcollation = (SELECT oid FROM pg_collation "
                "WHERE collname = 'default' AND collnamespace = 'pg_catalog'::regnamespace)"
            )
            named = self._engine.dialect.identifier_preparer.format_table(self.table)
            with self._in_our_words():
                self._exact_texts = frozenset(self._connection.execute(asked, {"named": named}).scalars())

    def grouped(self, name: str) -> sa.ColumnElement[Any]:
        return self.column(name) if name in self._exact_texts else super().grouped(name)


class _SqliteTable(_Table):
    """A table of SQLite, whose columns have no types: each value says what it is, and sums are made exact here."""

    has_types = False

    def _begun(self) -> sa.Connection:
        connection = self._engine.connect()
        driver: Any = connection.connection.driver_connection
        driver.create_aggregate("exact_tally", 2, _ExactTally)
        driver.create_function("exact_figure", 2, _exact_figure, deterministic=True)
        driver.set_progress_handler(lambda: 0, STEPS)  # at which it can be interrupted
        for pragma in ("query_only = ON", "case_sensitive_like = ON"):
            driver.execute(f"PRAGMA {pragma}")
        driver.execute("BEGIN")
        return connection

    def _was_interrupted(self, problem: Exception) -> bool:
        return any(sign in str(problem) for sign in ("interrupted", "method raised error"))

    def tell_kinds(self, headings: Sequence[str], first: Sequence[Sequence[Any]]) -> None:
        super().tell_kinds(headings, first)
        kinds = {heading: self.kinds[heading] for heading in headings}
        self.kinds = {one: Kind.TEXT if kind in (Kind.DAY, Kind.TIME) else kind for one, kind in kinds.items()}

    def holds_figures(self, name: str) -> bool:  # noqa: ARG002  # each cell is looked at by itself
        return True

    def grouped(self, name: str) -> sa.ColumnElement[Any]:
        return self.text(name)

    def _worked_out(
        self, text: str, expression: Expression, decimals: Mapping[str, int]
    ) -> tuple[sa.ColumnElement[Any], None]:
        names = columns_in(expression)
        called = f"worked_out_{len(self._labels)}_{abs(hash(text))}"

        def worked_out(*cells: Any) -> str | None:
            return written(expression, dict(zip(names, cells, strict=True)), decimals)

        driver: Any = self._connection.connection.driver_connection
        driver.create_function(called, len(names), worked_out, deterministic=True)
        return getattr(sa.func, called)(*map(self.column, names), type_=sa.String), None

    def exact(self, name: str, decimals: int) -> sa.ColumnElement[Any]:
        return sa.func.exact_figure(self.column(name), decimals, type_=sa.String)

    def tallied(self, name: str, decimals: int, *, with_ends: bool) -> list[sa.ColumnElement[Any]]:  # noqa: ARG002
        return [sa.func.exact_tally(self.column(name), decimals, type_=sa.String)]

    def tally_of(self, found: Sequence[Any], column: str) -> Tally:
        amount, count, unread, highest, lowest = str(found[0]).split(" ")
        figures = [self._decimal(None if one == "-" else one, column) for one in (amount, highest, lowest)]
        return Tally(amount=figures[0], figures=int(count), unread=int(unread), highest=figures[1], lowest=figures[2])


class _ExactTally:
    """The sum of a column of SQLite, how many figures and how many other cells it has, and its ends, as one text."""

    def __init__(self) -> None:
        self.amount: Decimal | None = None
        self.highest: Decimal | None = None
        self.lowest: Decimal | None = None
        self.count = self.unread = 0

    def step(self, value: Any, decimals: int) -> None:
        if value is None or value == "":
            return
        found = figure_of(value, decimals)
        if found is None:
            self.unread += 1
            return
        self.count += 1
        self.amount = found if self.amount is None else EXACT.add(self.amount, found)
        self.highest = found if self.highest is None or found > self.highest else self.highest
        self.lowest = found if self.lowest is None or found < self.lowest else self.lowest

    def finalize(self) -> str:
        ends = ("-" if one is None else f"{one:f}" for one in (self.highest, self.lowest))
        return " ".join(("-" if self.amount is None else f"{self.amount:f}", f"{self.count} {self.unread}", *ends))


def _exact_figure(value: Any, decimals: int) -> str | None:
    found = None if value is None else figure_of(value, decimals)
    return None if found is None else f"{found:f}"
