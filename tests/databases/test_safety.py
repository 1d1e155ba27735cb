"""What goes wrong with a database: one clear line, no password, nothing written, nothing left open on the server."""

from __future__ import annotations

import contextlib
import json
import re
import signal
import socket
import sqlite3
import subprocess
import threading
import time
from decimal import Decimal
from pathlib import Path

import pytest

from conftest import MARVEX, Desk, typed
from marvex.sources.engine.gathered import Gathered
from servers import PASSWORD, Postgres, certified, free_port, until
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
    authority = certified(books.folder / "other.key", books.folder / "other.crt", "nobody")
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


def test_ctrl_c_cancels_what_the_server_does(books: Desk, postgres: Postgres) -> None:
    (books.folder / "q.sql").write_text(SLOW)
    words = ("table", postgres.address, "--query", "q.sql", *LEDGER)
    process = subprocess.Popen([MARVEX, *words], cwd=books.folder, stderr=subprocess.PIPE)
    until(lambda: any("pg_sleep" in one for one in left_open(postgres)), 30, "it never asked")
    process.send_signal(signal.SIGINT)
    assert process.wait(20) == 130
    assert left_open(postgres) == []


class Wire:
    """Stands between a client and a server, and counts what the server sends."""

    def __init__(self, port: int) -> None:
        self.sent, self._server = 0, socket.create_server(("127.0.0.1", 0))
        self.port, self._to = self._server.getsockname()[1], port
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                client, _ = self._server.accept()
                server = socket.create_connection(("127.0.0.1", self._to))
                for one, other, counts in ((client, server, False), (server, client, True)):
                    threading.Thread(target=self._pass, args=(one, other, counts), daemon=True).start()

    def _pass(self, one: socket.socket, other: socket.socket, counts: bool) -> None:
        with contextlib.suppress(OSError):
            while piece := one.recv(65_536):
                self.sent += len(piece) if counts else 0
                other.sendall(piece)
            other.shutdown(socket.SHUT_WR)

    def close(self) -> None:
        self._server.close()


def test_of_a_million_rows_only_facts_cross_the_wire(books: Desk, postgres: Postgres) -> None:
    with postgres.connected() as own:
        own.execute(
            "CREATE TABLE IF NOT EXISTS million AS SELECT date '2024-01-01' + i % 730 AS day, 'Route ' || i % 12 AS route, "
            "CASE WHEN i % 3 = 0 THEN 'budget' ELSE 'actual' END AS scenario, (i % 9973) / 100.0 AS net, "
            "md5(i::text) AS note FROM generate_series(1, 1000000) AS i"
        )
    wire = Wire(postgres.port)
    address = f"{postgres.address.replace(str(postgres.port), str(wire.port))}?sslmode=disable"
    words = ("table", address, "--table", "million", "--by", "route", "--for", "2025", "--versus", "2024")
    found = books.figures(*words, "--amount", "net", "--order", "name")
    wire.close()
    # Of each day, route and scenario one fact at most; of the rows themselves but the first thousand, nothing.
    assert found["source"]["rows_read"] == 1_000_000 and wire.sent < 2_000_000
    with postgres.connected() as own:
        asked_plainly = own.execute(
            "SELECT sum(net) FROM million WHERE scenario = 'actual' AND day BETWEEN '2025-01-01' AND '2025-12-31'"
        ).fetchone()
    assert found["points"][-1]["current"] == asked_plainly[0]


@pytest.mark.parametrize("kept", ["sqlite", "csv", "parquet"])
def test_a_pack_adds_a_source_up_once_for_all_views(
    desk: Desk, shelf: Path, kept: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("marvex.sources.readers.source_file.SMALL", 0)  # as files of millions of rows are read
    asked: list[str] = []
    once = Gathered.raw_of
    monkeypatch.setattr(Gathered, "raw_of", lambda *words: asked.append(str(found := once(*words))) or found)
    views = {
        "crews": (["crew"], []),
        "harbours": (["harbour"], []),
        "nights": (["harbour"], ["crew=night"]),
        "some": (["account", "crew"], ["harbour~*a*", "account>=4020"]),
    }
    source = f'"sqlite:///{shelf}/books.db"\ntable = "ledger"' if kept == "sqlite" else f'"{shelf}/ledger.{kept}"'
    pack = f'[pack]\ntitle = "Books"\nfor = "2025"\n[source]\nfile = {source}\n'
    pack += 'amount = "paid"\ndate = "day"\n'
    for name, (columns, where) in views.items():
        by = ",".join(columns)
        pack += f'[[view]]\nname = "{name}"\ndraw = "table"\nby = "{by}"\nwhere = {where}\nversus = "year-ago"\norder = "name"\n'
    (desk.folder / "books.toml").write_text(pack)
    done = desk.run("pack", "books.toml")
    assert done.status == 0, done.err
    assert len(asked) >= 4 and all("FROM gathered_0" in one for one in asked)
    for name, (columns, where) in views.items():
        words = [*typed("--amount paid --date day --by"), ",".join(columns), *typed("--for 2025 --versus year-ago")]
        words += [word for one in where for word in ("--where", one)]
        plain = desk.figures("table", str(shelf / "ledger.csv"), *words, "--order", "name")
        built = json.loads(
            (desk.folder / f"books/figures/{name}.json").read_text(), parse_float=Decimal, parse_int=Decimal
        )
        assert built["points"] == plain["points"] and built["source"]["rows_used"] == plain["source"]["rows_used"]
    # Whether a database has changed nobody else can tell: it is asked at each build.
    assert ("made 4 views" in desk.run("pack", "books.toml").err) is (kept == "sqlite")


def test_what_goes_wrong_with_a_cluster(desk: Desk, spark: str, in_spark: Kept) -> None:
    table, columns = (
        ("table", *in_spark.words),
        ("--amount", "paid", "--date", "day", "--by", "crew", "--for", "2025"),
    )
    away = f"sc://127.0.0.1:{free_port()}"
    assert "cannot be reached" in desk.refused("table", away, "--table", "ledger", *columns)
    assert "no address of a cluster" in desk.refused("table", "sc://here:there", "--table", "ledger")
    said = desk.refused("table", f"{spark}/;token=hunter2", "--table", "ledger")
    assert "has a password in it" in said and "hunter2" not in said
    said = desk.refused("table", spark, "--table", "leger", *columns)
    assert "has no table 'leger'" in said and "Did you mean ledger?" in said
    assert "column crew holds text" in desk.refused(*table, *columns[2:], "--amount", "crew")
    for query in ("DROP TABLE ledger", "SELECT 1; DROP TABLE ledger", "INSERT INTO ledger SELECT * FROM ledger"):
        (desk.folder / "q.sql").write_text(query)
        assert "PARSE_SYNTAX_ERROR" in desk.refused("table", spark, "--query", "q.sql", *columns)
    began = time.monotonic()
    (desk.folder / "q.sql").write_text(
        "SELECT l.* FROM ledger l CROSS JOIN (SELECT sum(a.id * b.id % 7) FROM range(1000000) a CROSS JOIN range(1000000) b)"
    )
    assert "within 3 seconds" in desk.refused("table", spark, "--query", "q.sql", *columns, "--give-up-after", "3")
    assert time.monotonic() - began < 60
    assert desk.run(*table, *columns, "--versus", "2024").status == 0  # the cluster is free again, and whole


def test_a_pack_begins_from_a_table_and_builds_as_it_is(desk: Desk, shelf: Path) -> None:
    (desk.folder / "q.sql").write_text("SELECT day, crew, harbour, scenario, paid FROM ledger WHERE crew <> 'none'")
    (desk.folder / "packs").mkdir()
    (desk.folder / "books.db").write_bytes((shelf / "books.db").read_bytes())
    assert "which table?" in desk.refused("begin", "sqlite:///books.db", "-o", "packs/p.toml")
    done = desk.run("begin", "sqlite:///books.db", "--query", "q.sql", "-o", "packs/p.toml")
    assert done.status == 0, done.err
    # Paths of a pack start from its folder.
    pack = (desk.folder / "packs/p.toml").read_text()
    assert 'file = "sqlite:///../books.db"' in pack and 'query = "../q.sql"' in pack
    done = desk.run("pack", "packs/p.toml")
    assert done.status == 0 and (desk.folder / "packs/p/index.html").is_file(), done.err


@pytest.mark.parametrize("kept", ["sqlite", "csv"])
def test_two_lookups_of_one_source_are_two(
    desk: Desk, shelf: Path, kept: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("marvex.sources.readers.source_file.SMALL", 0)
    source = f'"sqlite:///{shelf}/books.db"\ntable = "ledger"' if kept == "sqlite" else f'"{shelf}/ledger.csv"'
    pack = f'[pack]\ntitle = "Books"\nfor = "2025"\n[source]\nfile = {source}\namount = "paid"\ndate = "day"\n'
    for name, kinds in (("one", "ABABA"), ("two", "AABBB")):
        rows = zip(("4010", "4020", "5100", "5110", "5200"), kinds, strict=True)
        desk.write(f"{name}.csv", list(rows), ("account", "kind"))
        pack += f'[[view]]\nname = "{name}"\ndraw = "table"\nby = "kind"\nlookup = "{name}.csv"\nversus = "2024"\norder = "name"\n'
    (desk.folder / "books.toml").write_text(pack)
    assert desk.run("pack", "books.toml").status == 0
    built = []
    for name in ("one", "two"):
        words = ["--amount", "paid", "--date", "day", "--by", "kind", "--lookup", f"{name}.csv", "--for", "2025"]
        plain = desk.figures("table", str(shelf / "ledger.csv"), *words, "--versus", "2024", "--order", "name")
        text = (desk.folder / f"books/figures/{name}.json").read_text()
        built.append(json.loads(text, parse_float=Decimal, parse_int=Decimal)["points"])
        assert built[-1] == plain["points"]
    assert built[0] != built[1]
