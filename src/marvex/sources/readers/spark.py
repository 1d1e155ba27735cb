"""Tables of a cluster, by Spark Connect: a database's statements, sent as plans; only facts are collected."""

from __future__ import annotations

import contextlib
import logging
import os
import socket
import warnings
from collections.abc import Iterator
from typing import Any

from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.sources.readers.store import ENOUGH_ROWS, Place, Store, password_in_sight, query_text, without_password

# A pack forks what paints its pictures, which asks nothing of a cluster: gRPC would stop all of its threads at each
# fork, and go on when they have stopped (0.2 s, with four connections, where a fork takes 0.009).
os.environ.setdefault("GRPC_ENABLE_FORK_SUPPORT", "false")
warnings.filterwarnings("ignore", module="pyspark")  # of libraries that it asks for, and that are not used here
try:
    import sqlalchemy as sa
    from pyspark.errors import PySparkException
    from pyspark.sql.connect.client.retries import DefaultPolicy
    from pyspark.sql.connect.session import SparkSession
    from sqlalchemy.engine.default import DefaultDialect
    from sqlalchemy.sql.compiler import GenericTypeCompiler, IdentifierPreparer, SQLCompiler
except ImportError as problem:
    raise Mistake(
        f"a cluster needs PySpark's client, of which {problem.name} is not installed", "pip install 'marvex[spark]'."
    ) from None

PORT = 15002  # of a Connect server, where none is said
SECONDS, TRIES = 10, 3


def opened(place: Place) -> Store:
    """The table of a place; raises Mistake where the cluster cannot be reached, or has no such table."""
    return _SparkTable(place)


class _SparkTable(Store):
    """A table or a query of a cluster. Statements of one call may see different states: it promises no more."""

    is_quick = False
    most_digits = 38

    def __init__(self, place: Place) -> None:
        super().__init__(place.table or "query")
        logging.getLogger("pyspark").setLevel(logging.CRITICAL)
        self._dialect = _SparkDialect()
        self._address = without_password(place.address.partition(";")[0])
        if "token=" in place.address.lower():
            raise password_in_sight(place.address, "SPARK_CONNECT_AUTHENTICATE_TOKEN")
        self._check_reached(place.address)
        with self._in_our_words():
            self._session = SparkSession.builder.remote(place.address).getOrCreate()
            # Its own tries go on for ten minutes.
            self._session.client.set_retry_policies([DefaultPolicy(max_retries=TRIES)])
        try:
            self._find(place)
        except BaseException:
            self.close()
            raise

    def _check_reached(self, address: str) -> None:
        """Raises Mistake where nothing answers at an address, which the client would not tell for minutes."""
        host, _, port = address.removeprefix("sc://").partition("/")[0].partition(":")
        if not host or not (port or "1").isdecimal():
            raise Mistake(f"'{self._address}' is no address of a cluster", "Write it as sc://host:15002.")
        try:
            socket.create_connection((host, int(port or PORT)), SECONDS).close()
        except OSError as problem:
            raise Mistake(
                f"{self.name}, {self._address}: cannot be reached: {problem.strerror or problem}",
                "Check the address, and that its Connect server runs.",
            ) from None

    def _find(self, place: Place) -> None:
        quoted = self._dialect.identifier_preparer.quote_identifier
        if place.query is not None:
            source = f"(\n{query_text(place.query)}\n)"  # so that only a query parses
        elif place.table is None:
            with self._in_our_words():
                known = [one.name for one in self._session.catalog.listTables()]
            raise Mistake(
                f"{self._address} is a cluster: which table?",
                f"There are {listed((setting('table', one) for one in known), 6)}." if known else "It has no tables.",
            )
        else:
            source = ".".join(quoted(part) for part in place.table.split("."))
            with self._in_our_words():
                if not self._session.catalog.tableExists(source):
                    known = [one.name for one in self._session.catalog.listTables()]
                    raise Mistake(
                        f"{self._address} has no table '{place.table}'",
                        did_you_mean(
                            place.table, known, f"There are {listed(known, 8)}." if known else "It has none."
                        ),
                        field="table",
                    )
        with self._in_our_words():
            found = self._session.sql(f"SELECT * FROM {source} LIMIT {ENOUGH_ROWS}")
            headings, first = found.columns, [tuple(row) for row in found.collect()]
        columns: list[Any] = [sa.column(sa.quoted_name(one, True)) for one in headings]
        self.table = sa.text(f"SELECT * FROM {source}".replace(":", "\\:")).columns(*columns).subquery("asked")
        self.tell_kinds(headings, first)

    def _asked(self, statement: sa.Select[Any]) -> Any:
        compiled = statement.compile(dialect=self._dialect, compile_kwargs={"render_postcompile": True})
        return self._session.sql(str(compiled), args=dict(compiled.construct_params()))

    def rows(self, statement: sa.Select[Any]) -> list[tuple[Any, ...]]:
        with self._in_our_words():
            return [tuple(row) for row in self._asked(statement).collect()]

    def each(self, statement: sa.Select[Any]) -> Iterator[tuple[Any, ...]]:
        with self._in_our_words():
            for row in self._asked(statement).toLocalIterator():
                yield tuple(row)

    def exact(self, name: str, decimals: int) -> sa.ColumnElement[Any]:
        found = super().exact(name, decimals)
        # Its sums have ten digits more than their columns, and no more than 38.
        return sa.cast(found, sa.Numeric(38, 0)) if self._is_whole(name) else found

    def _is_whole(self, name: str) -> bool:
        place = list(self.kinds).index(name)
        return any(isinstance(row[place], int) for row in self.first)

    def close(self) -> None:
        with contextlib.suppress(Exception):
            self._session.stop()

    @contextlib.contextmanager
    def _in_our_words(self) -> Iterator[None]:
        try:
            yield
        except KeyboardInterrupt:
            with contextlib.suppress(Exception):
                self._session.interruptAll()
            raise
        except (PySparkException, OSError, ValueError) as problem:
            text = " ".join(next((line for line in str(problem).splitlines() if line.strip()), "").split())
            raise Mistake(
                f"{self.name}, {self._address}: {without_password(text)[:200]}",
                "Check the address, the table and the query.",
            ) from None


class _Preparer(IdentifierPreparer):
    """Names stand between backward quotes."""

    def __init__(self, dialect: DefaultDialect) -> None:
        super().__init__(dialect, initial_quote="`", final_quote="`")

    def _requires_quotes(self, value: str) -> bool:  # noqa: ARG002
        return True


class _Types(GenericTypeCompiler):
    """The names of types."""

    def visit_VARCHAR(self, type_: Any, **how: Any) -> str:  # noqa: N802, ARG002
        return "STRING"

    def visit_NUMERIC(self, type_: Any, **how: Any) -> str:  # noqa: N802, ARG002
        return "DECIMAL(38, 18)" if type_.precision is None else f"DECIMAL({type_.precision}, {type_.scale or 0})"


class _Compiler(SQLCompiler):
    """What is written in another way."""

    def visit_regexp_match_op_binary(self, binary: Any, operator: Any, **how: Any) -> str:  # noqa: ARG002
        return f"{self.process(binary.left, **how)} RLIKE {self.process(binary.right, **how)}"


class _SparkDialect(DefaultDialect):
    """The SQL of Spark, with named parameters."""

    name = "spark"
    default_paramstyle = "named"
    statement_compiler = _Compiler
    type_compiler_cls = _Types
    preparer: type[IdentifierPreparer] = _Preparer
    supports_native_boolean = True

    def __init__(self) -> None:
        super().__init__(paramstyle="named")
