"""What goes wrong with a database: one clear line, no password, nothing written, nothing left open on the server."""

from __future__ import annotations

import contextlib
import re
import sqlite3
import threading
import time
from pathlib import Path

import pytest

from conftest import Desk
from servers import PASSWORD, Postgres, free_port
from stored import SERVERS, Kept

pytestmark = SERVERS
LEDGER = ("--amount", "paid", "--date", "day", "--by", "crew", "--for", "2025", "--versus", "2024")


@pytest.fixture
def books(desk: Desk, in_postgres: Kept) -> Desk:  # noqa: ARG001
    (desk.folder / "q.sql").write_text("SELECT day, crew, scenario, paid FROM fares.ledger")
    return desk


def left_open(postgres: Postgres) -> list[str]:
    """The sessions that others than this one have on the server."""
    with postgres.connected() as own:
        found = own.execute(
            "SELECT query FROM pg_stat_activity WHERE datname IS NOT NULL AND pid <> pg_backend_pid() "
            "AND backend_type = 'client backend'"
        )
        return [str(row[0]) for row in found.fetchall()]


def refused(desk: Desk, postgres: Postgres, *words: str) -> str:
    said = desk.refused("table", *words, *LEDGER)
    assert PASSWORD not in said
    assert left_open(postgres) == []
    return said


def asked(books: Desk, postgres: Postgres, query: str, *words: str) -> str:
    (books.folder / "q.sql").write_text(query)
    return refused(books, postgres, postgres.address, "--query", "q.sql", *words)


def test_a_wrong_password_and_one_in_sight(books: Desk, postgres: Postgres, monkeypatch: pytest.MonkeyPatch) -> None:
    in_sight = postgres.address.replace("analyst@", "analyst:hunter2@")
    said = refused(books, postgres, in_sight, "--table", "fares.ledger")
    assert "has a password in it" in said and "hunter2" not in said
    monkeypatch.setenv("PGPASSWORD", "wrong tide")
    said = refused(books, postgres, postgres.address, "--table", "fares.ledger")
    assert "password authentication failed" in said and "PGPASSWORD" in said and "wrong tide" not in said


def test_what_is_not_there(books: Desk, postgres: Postgres) -> None:
    away = f"postgresql+psycopg://analyst@127.0.0.1:{free_port()}/postgres"
    assert "Connection refused" in refused(books, postgres, away, "--table", "ledger")
    said = refused(books, postgres, postgres.address, "--table", "fares.leger")
    assert "has no table 'leger' in fares" in said and "Did you mean ledger?" in said
    assert "--table" in refused(books, postgres, postgres.address)
    assert "there is no file 'gone.db'" in refused(books, postgres, "sqlite:///gone.db", "--table", "x")
    assert "is no address" in refused(books, postgres, "tin+can://string", "--table", "x")
    assert "ledger.csv is no database" in refused(books, postgres, "ledger.csv", "--table", "x")


def test_a_certificate_that_is_not_trusted(books: Desk, postgres: Postgres) -> None:
    authority = books.folder / "other.crt"
    authority.write_text((Path(__file__).parent / "other-authority.crt").read_text())
    address = f"{postgres.address}?sslmode=verify-full&sslrootcert={authority}"
    said = refused(books, postgres, address, "--table", "fares.ledger")
    assert "certificate verify failed" in said and "sslrootcert" in said


def test_a_column_of_the_wrong_type(books: Desk, postgres: Postgres) -> None:
    said = asked(books, postgres, "SELECT day, crew, scenario, paid::text AS paid FROM fares.ledger")
    assert "column paid holds text" in said
    said = asked(books, postgres, "SELECT day, crew, scenario, 'NaN'::numeric AS paid FROM fares.ledger")
    assert "column paid holds NaN" in said


@pytest.mark.parametrize(
    ("query", "why"),
    [
        ("DELETE FROM fares.ledger RETURNING *", "syntax error"),
        ("WITH gone AS (DELETE FROM fares.ledger RETURNING *) SELECT * FROM gone", "data-modifying"),
        ("SELECT * FROM fares.ledger; DROP TABLE fares.ledger", "syntax error"),
        ("SELECT 1) AS a; COMMIT; DROP TABLE fares.ledger; SELECT * FROM (SELECT 1", "multiple commands"),
        ("SELECT l.*, fares.emptied() FROM fares.ledger l", "read-only transaction"),
    ],
)
def test_a_query_that_writes(books: Desk, postgres: Postgres, query: str, why: str) -> None:
    with postgres.connected() as own:
        own.execute(
            "CREATE OR REPLACE FUNCTION fares.emptied() RETURNS int LANGUAGE plpgsql AS "
            "$$ BEGIN DELETE FROM fares.ledger; RETURN 1; END $$"
        )
    assert re.search(why, asked(books, postgres, query))
    with postgres.connected() as own:
        assert own.execute("SELECT count(*) FROM fares.ledger").fetchone() == (6000,)


def test_sqlite_is_not_written_to(desk: Desk, shelf: Path) -> None:
    (desk.folder / "books.db").write_bytes((shelf / "books.db").read_bytes())
    for query in ("DELETE FROM ledger RETURNING *", "SELECT * FROM ledger; DROP TABLE ledger"):
        (desk.folder / "q.sql").write_text(query)
        desk.refused("table", "sqlite:///books.db", "--query", "q.sql", *LEDGER)
    with sqlite3.connect(desk.folder / "books.db") as own:
        assert own.execute("SELECT count(*) FROM ledger").fetchone() == (6000,)
        own.execute("UPDATE ledger SET paid = '12..4' WHERE rowid = 7")
    said = desk.refused("table", "sqlite:///books.db", "--table", "ledger", *LEDGER)
    assert "column paid: '12..4' is not a figure" in said


def test_a_table_that_another_has_locked(books: Desk, postgres: Postgres, monkeypatch: pytest.MonkeyPatch) -> None:
    import marvex.sources.readers.databases as databases

    monkeypatch.setattr(databases, "LOCKED", 1)
    with postgres.connected() as other:
        other.execute("BEGIN")
        other.execute("LOCK TABLE fares.ledger IN ACCESS EXCLUSIVE MODE")
        said = books.refused("table", postgres.address, "--table", "fares.ledger", *LEDGER)
        assert "lock timeout" in said and "locked" in said
        other.execute("ROLLBACK")


SLOW = "SELECT l.* FROM fares.ledger l, (SELECT pg_sleep(40)) AS s"


def test_a_call_that_is_given_up_leaves_nothing_running(books: Desk, postgres: Postgres) -> None:
    began = time.monotonic()
    assert "within 1 seconds" in asked(books, postgres, SLOW, "--give-up-after", "1")
    assert time.monotonic() - began < 15


def test_a_server_that_goes_away_in_the_middle(books: Desk, postgres: Postgres) -> None:
    def end_it() -> None:
        for _ in range(100):
            with postgres.connected() as own:
                found = own.execute(
                    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query LIKE '%pg_sleep(40)%' "
                    "AND pid <> pg_backend_pid()"
                ).fetchall()
            if found:
                return
            time.sleep(0.1)

    ending = threading.Thread(target=end_it)
    ending.start()
    try:
        assert re.search("terminating connection|closed the connection", asked(books, postgres, SLOW))
    finally:
        ending.join()


def test_two_totals_of_a_call_see_one_state(books: Desk, postgres: Postgres) -> None:  # noqa: ARG001
    """Rows that come while a call goes on are in none of its figures, or in all."""
    from marvex.sources.readers.databases import opened
    from marvex.sources.readers.store import Place

    store = opened(Place(address=postgres.address, table="fares.ledger"))
    with contextlib.closing(store), postgres.connected() as other:
        from sqlalchemy import func, select

        count = select(func.count()).select_from(store.table)
        before = store.rows(count)
        other.execute("INSERT INTO fares.ledger (day, paid) VALUES ('2025-01-01', 1)")
        try:
            assert store.rows(count) == before
        finally:
            other.execute("DELETE FROM fares.ledger WHERE scenario IS NULL")
