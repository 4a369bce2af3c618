"""Real servers for the tests: a PostgreSQL cluster, Spark with two workers; skipped where there is none."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pandas as pd
import pytest


def _programs() -> Path | None:
    """Where PostgreSQL keeps its programs, which are on no path."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"))
    plain = shutil.which("initdb")
    return found[-1].parent if found else Path(plain).parent if plain else None


class Cluster:
    """A cluster started as an ordinary user; `address` is that of its database."""

    def __init__(self, home: Path, programs: Path) -> None:
        self.home, self.port = home, str(40000 + os.getpid() % 20000)
        self.user = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
        self.control = [*self.user, programs / "pg_ctl", "-D", home / "data"]
        self.address = f"postgresql://postgres@/postgres?host={home}&port={self.port}"
        subprocess.run(
            [*self.user, programs / "initdb", "-D", home / "data", "-A", "trust", "--no-sync", "-E", "UTF8",
             "--locale=C.UTF-8"],
            check=True, capture_output=True, cwd="/",
        )  # fmt: skip

    def start(self) -> None:
        options = f"-k {self.home} -p {self.port} -c listen_addresses='' -c fsync=off"
        subprocess.run([*self.control, "-w", "-l", self.home / "log", "-o", options, "start"], check=True, cwd="/")

    def stop(self) -> None:
        subprocess.run([*self.control, "-m", "immediate", "stop"], check=True, cwd="/", capture_output=True)

    def run(self, *statements: str, user: str = "postgres") -> list[Any]:
        """Statements run for the tests themselves; the answer of the last."""
        import psycopg

        with psycopg.connect(f"host={self.home} port={self.port} user={user} dbname=postgres", autocommit=True) as base:
            for statement in statements:
                found = base.execute(statement)  # type: ignore[arg-type]
            return found.fetchall() if found.description else []

    def load(self, name: str, frame: pd.DataFrame, **types: Any) -> None:
        import sqlalchemy

        engine = sqlalchemy.create_engine(self.address.replace("postgresql", "postgresql+psycopg", 1))
        frame.to_sql(name, engine, index=False, dtype=types or None, if_exists="replace")
        engine.dispose()


@contextmanager
def postgres_cluster(home: Path) -> Iterator[Cluster]:
    programs = _programs()
    if programs is None:
        pytest.skip("no PostgreSQL on this machine")
    for folder in (home, *home.parents):
        if folder.is_relative_to("/tmp") and folder != Path("/tmp"):
            folder.chmod(0o755)
    if os.geteuid() == 0:
        shutil.chown(home, "postgres")
    cluster = Cluster(home, programs)
    cluster.start()
    try:
        yield cluster
    finally:
        cluster.stop()


@contextmanager
def spark_session(workers: int = 2, *, compiled: bool = True) -> Iterator[Any]:
    """A session with workers, each a process of its own; for few rows statements are better not compiled."""
    pytest.importorskip("pyspark", reason="no Spark on this machine")
    if shutil.which("java") is None:
        pytest.skip("no Java on this machine")
    if "PYTEST_XDIST_WORKER" in os.environ:
        pytest.skip("Spark takes all processors: pytest -p no:xdist -o addopts= tests/engine/test_remote_engines.py")
    from pyspark.sql import SparkSession

    os.environ["PYSPARK_PYTHON"] = sys.executable
    settings = {
        "spark.driver.bindAddress": "127.0.0.1", "spark.driver.host": "127.0.0.1", "spark.ui.enabled": "false",
        "spark.sql.session.timeZone": "UTC", "spark.ui.showConsoleProgress": "false",
        "spark.sql.shuffle.partitions": "2", "spark.driver.memory": "1g",
    }  # fmt: skip
    if not compiled:
        settings |= {"spark.sql.codegen.wholeStage": "false", "spark.sql.codegen.factoryMode": "NO_CODEGEN"}
    builder: Any = SparkSession.builder
    for key, value in settings.items():
        builder = builder.config(key, value)
    session = builder.master(f"local-cluster[{workers},1,1024]").getOrCreate()
    session.sparkContext.setLogLevel("OFF")
    try:
        yield session
    finally:
        session.stop()
