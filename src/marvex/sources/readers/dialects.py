"""What each kind of database has to be told, so that its answers are exact, of one state, and letter by letter."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import Any

import sqlalchemy as sa

from marvex.core.values import dataclass
from marvex.sources.cells import MOST_DIGITS


@dataclass(frozen=True, kw_only=True)
class Ways:
    """The ways of one kind of database.

    Parameters
    ----------
    options : of the connection.
    told : what it is told when the connection has begun; `locked` are the seconds to wait for a table.
    most_digits : that a figure may have in its arithmetic; 0 for any number.
    letters : the collation that compares texts letter by letter, where a column's own may take North and north for one.
    password : where one is given that others cannot see.
    is_tried : whether tests hold its answers against those of files; else each call looks at some rows itself.
    """

    options: Mapping[str, Any] = field(default_factory=dict)
    told: tuple[str, ...] = ()
    most_digits: int = MOST_DIGITS
    letters: str | None = None
    password: str = "the driver's own file or environment"
    is_tried: bool = False

    def letter_by_letter(self, text: sa.ColumnElement[Any]) -> sa.ColumnElement[Any]:
        """A text that is compared letter by letter, whatever the database's own way."""
        return sa.collate(text, self.letters) if self.letters else text


_MARIADB = Ways(
    told=("SET SESSION TRANSACTION READ ONLY", "START TRANSACTION WITH CONSISTENT SNAPSHOT"),
    letters="utf8mb4_bin",
    password="the driver's own file, as ?read_default_file=~/.my.cnf",
    is_tried=True,
)
_WAYS = {
    "postgresql": Ways(
        options={"isolation_level": "REPEATABLE READ", "postgresql_readonly": True},
        # A day is one whatever the server's own time and way of writing.
        told=(
            "SET LOCAL timezone TO 'UTC'",
            "SET LOCAL datestyle TO 'ISO'",
            "SET LOCAL lock_timeout TO '{locked}s'",
        ),
        most_digits=0,
        letters="C",
        password="PGPASSWORD or the driver's own file, such as ~/.pgpass",
        is_tried=True,
    ),
    "mysql": _MARIADB,
    "mariadb": _MARIADB,
    "mssql": Ways(letters="Latin1_General_BIN2"),
    "sqlite": Ways(letters="BINARY", is_tried=True),
}


def ways_of(dialect: str) -> Ways:
    """The ways of a database, by the name that SQLAlchemy has for its kind."""
    return _WAYS.get(dialect, Ways())
