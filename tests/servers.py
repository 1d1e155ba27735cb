"""Servers of the tests: PostgreSQL, MariaDB and a cluster of Spark, on loopback, each ended by its process."""

from __future__ import annotations

import contextlib
import getpass
import glob
import importlib.util
import os
import random
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

USER, PASSWORD = "analyst", "low tide 7"


def free_port() -> int:
    """One that nothing listens at, and that the system gives to no connection before a server has begun."""
    while True:
        port = random.randint(20_000, 32_000)
        with socket.socket() as one, contextlib.suppress(OSError):
            one.bind(("127.0.0.1", port))
            return port


def until(ready: Callable[[], bool], seconds: float, what: str) -> None:
    ends = time.monotonic() + seconds
    while not ready():
        if time.monotonic() > ends:
            raise TimeoutError(what)
        time.sleep(0.1)


def listens(port: int) -> bool:
    with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", port), 1):
        return True
    return False


@dataclass(frozen=True)
class Postgres:
    """A cluster with one user, who has a password."""

    port: int
    folder: Path

    @property
    def address(self) -> str:
        return f"postgresql+psycopg://{USER}@127.0.0.1:{self.port}/postgres"

    def connected(self):
        import psycopg

        return psycopg.connect(
            host="127.0.0.1", port=self.port, user=USER, password=PASSWORD, dbname="postgres", autocommit=True
        )


def postgres_programs() -> str | None:
    """The folder of PostgreSQL's programs."""
    found = shutil.which("initdb")
    folders = sorted(glob.glob("/usr/lib/postgresql/*/bin"))
    return str(Path(found).resolve().parent) if found else folders[-1] if folders else None


@contextlib.contextmanager
def postgres_cluster() -> Iterator[Postgres]:
    programs = postgres_programs()
    assert programs
    folder, port = Path(tempfile.mkdtemp(prefix="marvex-postgres-")), free_port()
    # It does not run as root, who is then the one who starts it.
    as_other = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
    (folder / "password").write_text(PASSWORD)
    if as_other:
        for path in (folder, folder / "password"):
            shutil.chown(path, "postgres")
    made = [*as_other, f"{programs}/initdb", "-D", f"{folder}/data", "-U", USER, "-A", "scram-sha-256"]
    made += ["--pwfile", f"{folder}/password", "-E", "UTF8", "--locale", "C.UTF-8", "--no-sync"]
    subprocess.run(made, check=True, capture_output=True, cwd=folder)
    certified(folder / "data/server.key", folder / "data/server.crt", "127.0.0.1", as_other)
    settings = {"listen_addresses": "127.0.0.1", "unix_socket_directories": "", "fsync": "off", "ssl": "on"}
    told = [word for name, value in settings.items() for word in ("-c", f"{name}={value}")]
    server = subprocess.Popen(
        [*as_other, f"{programs}/postgres", "-D", f"{folder}/data", "-p", str(port), *told],
        cwd=folder,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        cluster = Postgres(port, folder)

        def answers() -> bool:
            with contextlib.suppress(Exception):
                cluster.connected().close()
                return True
            return False

        until(answers, 120, "PostgreSQL does not answer")
        yield cluster
    finally:
        pid = int((folder / "data/postmaster.pid").read_text().split()[0])
        os.kill(pid, signal.SIGINT)
        server.wait(30)
        shutil.rmtree(folder, ignore_errors=True)


@contextlib.contextmanager
def mariadb_server() -> Iterator[int]:
    """A MariaDB with an empty database `books` and the user root without a password: its port."""
    folder, port = Path(tempfile.mkdtemp(prefix="marvex-mariadb-")), free_port()
    user = "mysql" if os.geteuid() == 0 else getpass.getuser()
    if user == "mysql":
        shutil.chown(folder, user)
    made = ["mariadb-install-db", f"--user={user}", f"--datadir={folder}/data", "--skip-test-db"]
    subprocess.run([*made, "--auth-root-authentication-method=normal"], check=True, capture_output=True)
    told = [f"--user={user}", f"--datadir={folder}/data", "--bind-address=127.0.0.1", f"--port={port}"]
    told += [
        f"--tmpdir={folder}/data",
        f"--socket={folder}/socket",
        f"--pid-file={folder}/pid",
        f"--log-error={folder}/log",
    ]
    server = subprocess.Popen([shutil.which("mariadbd") or "/usr/sbin/mariadbd", "--no-defaults", *told])
    try:
        until(lambda: listens(port), 120, "MariaDB does not answer")
        import pymysql

        with pymysql.connect(host="127.0.0.1", port=port, user="root") as first, first.cursor() as asked:
            asked.execute("CREATE DATABASE books CHARACTER SET utf8mb4")
        yield port
    finally:
        server.terminate()
        server.wait(30)
        shutil.rmtree(folder, ignore_errors=True)


def certified(key: Path, certificate: Path, name: str, as_other: Sequence[str] = ()) -> Path:
    """A certificate of somebody's own, that nobody else trusts."""
    made = [*as_other, "openssl", "req", "-new", "-x509", "-days", "30", "-nodes", "-subj", f"/CN={name}"]
    subprocess.run([*made, "-keyout", str(key), "-out", str(certificate)], check=True, capture_output=True)
    key.chmod(0o600)
    return certificate


def has_spark() -> bool:
    found = importlib.util.find_spec("pyspark")
    return found is not None and (Path(found.origin or "").parent / "bin/spark-class").is_file()


@contextlib.contextmanager
def spark_cluster() -> Iterator[str]:
    """A master, two workers of one core and 1 GB, and a Connect server; gives the server's address."""
    found = importlib.util.find_spec("pyspark")
    assert found and found.origin
    home, folder = Path(found.origin).parent, Path(tempfile.mkdtemp(prefix="marvex-spark-"))
    master, port = free_port(), free_port()
    environment = {**os.environ, "SPARK_HOME": str(home), "SPARK_LOCAL_IP": "127.0.0.1"}
    started: list[subprocess.Popen[bytes]] = []

    def start(*words: str) -> None:
        log = (folder / f"{len(started)}.log").open("wb")
        started.append(
            subprocess.Popen(words, cwd=folder, env=environment, stdout=log, stderr=log, start_new_session=True)
        )

    spark_class, url = str(home / "bin/spark-class"), f"spark://127.0.0.1:{master}"
    deploy = "org.apache.spark.deploy"
    try:
        start(
            spark_class, f"{deploy}.master.Master", "--host", "127.0.0.1", "--port", str(master), "--webui-port", "0"
        )
        until(lambda: listens(master), 180, "Spark's master does not listen")
        for number in range(2):
            worker = [spark_class, f"{deploy}.worker.Worker", "-c", "1", "-m", "1G", "--host", "127.0.0.1"]
            start(*worker, "--webui-port", "0", "-d", str(folder / f"worker-{number}"), url)
        settings = {
            "spark.connect.grpc.binding.port": port,
            "spark.connect.grpc.binding.address": "127.0.0.1",
            "spark.executor.memory": "600m",
            "spark.ui.enabled": "false",
            "spark.sql.warehouse.dir": folder / "warehouse",
            "spark.sql.shuffle.partitions": 2,
        }
        told = [word for name, value in settings.items() for word in ("--conf", f"{name}={value}")]
        server = ["--class", "org.apache.spark.sql.connect.service.SparkConnectServer", "--master", url]
        start(str(home / "bin/spark-submit"), *server, *told, "spark-internal")
        until(lambda: listens(port), 300, "Spark's Connect server does not listen")
        yield f"sc://127.0.0.1:{port}"
    finally:
        for one in reversed(started):
            with contextlib.suppress(ProcessLookupError):
                os.killpg(one.pid, signal.SIGTERM)
        for one in started:
            with contextlib.suppress(subprocess.TimeoutExpired):
                one.wait(20)
        shutil.rmtree(folder, ignore_errors=True)
