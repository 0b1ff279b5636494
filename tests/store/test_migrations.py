"""A database of any age, with rows in it, comes up to date, and what it holds can be worked
with.
"""

from __future__ import annotations

import json
import tempfile
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from typing import Any

import psycopg
import pytest
from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import text

from ample_crate.core.planning import stored
from ample_crate.store import library, queries
from ample_crate.store.cluster import Cluster
from ample_crate.store.database import Database
from ample_crate.store.models import Crate, Master, Run, Tidying
from ample_crate.store.past import past
from ample_crate.work import crates, status
from ample_crate.work.housekeeping import Cleared
from support import master_facts

MIGRATIONS = Path(library.__file__).parent / "migrations"
SPEC = "pinfold-720p"
PROXY = {"state": "ready", "file": "1-ab.mp4"}


def config(database: Database) -> Config:
    made = Config()
    made.set_main_option("script_location", str(MIGRATIONS))
    made.attributes["engine"] = database.engine
    return made


REVISIONS = [s.revision for s in reversed(list(ScriptDirectory(str(MIGRATIONS)).walk_revisions()))]


@pytest.fixture(scope="module")
def cluster() -> Iterator[Cluster]:
    with tempfile.TemporaryDirectory(prefix="ample-store-", dir="/tmp") as folder:
        Path(folder).chmod(0o755)
        made = Cluster(Path(folder) / "database", durable=False)
        made.start()
        yield made
        made.stop()


FIRST_ROUTE = json.loads((Path(__file__).parent / "first_route.json").read_text())


def route(old: bool) -> dict[str, Any]:
    """A route as the first version kept it: before sound was mixed by loudspeaker, or after."""
    made: dict[str, Any] = json.loads(json.dumps(FIRST_ROUTE))
    if old:
        for operation in made["plan"]["operations"]:
            del operation["degrees"]
            operation["alternate"] = False
        del made["plan"]["source"]["uneven"]
        sound = made["plan"]["sound"]
        for key in ("tracks", "gains", "limited"):
            del sound[key]
        sound |= {"source_layout": "stereo", "mix": "keep", "relabel": False}
    return made


Row = tuple[str, dict[str, Any]]


def since(revision: str, first: str) -> bool:
    """Say whether a revision has what another one brought."""
    return REVISIONS.index(revision) >= REVISIONS.index(first)


def register(revision: str) -> list[Row]:
    """A recipient, a spec and a master as a database of some age keeps them."""
    spec = library.find(SPEC)
    recipient = next(r for r in library.recipients() if r.key == spec.recipient)
    master: dict[str, Any] = {
        "id": 1,
        "name": "film.mov",
        "path": "/nowhere/film.mov",
        "origin": "intake",
        "size": 5,
        "sha256": "ab",
        "state": "ready",
        "facts": master_facts().as_json(),
        "notes": [],
    }
    if revision in {"0002", "0003"}:
        master["card"] = {"identity": "5|1", "frames": 500}
    if since(revision, "0002"):
        master["proxy" if since(revision, "0010") else "play"] = PROXY
    return [
        (
            "recipient",
            {
                "key": recipient.key,
                "name": recipient.name,
                "kind": recipient.kind,
                "document": recipient.model_dump(mode="json"),
            },
        ),
        (
            "spec",
            {
                "id": spec.id,
                "version": spec.version,
                "recipient_key": spec.recipient,
                "document": spec.model_dump(mode="json", by_alias=True, exclude_none=True),
            },
        ),
        ("master", master),
    ]


def crate_rows(id: int, state: str) -> list[Row]:
    """A crate with one item."""
    spec = library.find(SPEC)
    crate = {
        "id": id,
        "number": 200 + id,
        "revision": 1,
        "title": f"Crate {id}",
        "recipient_key": spec.recipient,
        "spec_id": spec.id,
        "spec_version": spec.version,
        "due_at": "2026-12-01T12:00:00+00:00",
        "state": state,
    }
    item = {
        "id": id,
        "crate_id": id,
        "master_id": 1,
        "position": 0,
        "choices": {},
        "exceptions": [],
    }
    return [("crate", crate), ("deliverable", item)]


def run_row(id: int, deliverable: int, state: str, old: bool) -> Row:
    """A run of an item."""
    return "run", {
        "id": id,
        "deliverable_id": deliverable,
        "state": state,
        "route": route(old),
        "choices": {},
        "notes": [],
        "starts": 1,
        "path": "/nowhere/made.mp4",
        "size": 7,
        "sha256": "cd",
        "encode_seconds": 2.0,
        "measure_seconds": 1.0,
    }


def fill(database: Database, revision: str) -> None:
    """Put a recipient, spec, master, a crate that was received and one that is open, and runs into
    a database of some age.
    """
    rows = [*register(revision), *crate_rows(1, "received"), *crate_rows(2, "open")]
    answer = {"message": "m", "files": []}
    rows.append(("receipt", {"crate_id": 1, "accepted": True, "sent_bytes": 9, "document": answer}))
    runs = [(1, 1, "done"), (2, 2, "done"), (3, 2, "queued"), (4, 2, "running")]
    if since(revision, "0006"):
        runs = runs[:3]
    rows += [run_row(*run, old=not since(revision, "0005")) for run in runs]
    if since(revision, "0007"):
        cleared = asdict(Cleared(proxies=3))
        if not since(revision, "0010"):
            cleared["plays"] = cleared.pop("proxies")
        rows.append(("tidying", {"document": cleared}))
    with database.engine.begin() as connection:
        for table, values in rows:
            plain = {
                k: json.dumps(v) if isinstance(v, dict | list) else v for k, v in values.items()
            }
            names = ", ".join(f'"{k}"' for k in plain)
            holes = ", ".join(f":{k}" for k in plain)
            connection.execute(text(f"insert into {table} ({names}) values ({holes})"), plain)


@pytest.mark.parametrize("revision", REVISIONS)
def test_an_older_database_comes_up_to_date(revision: str, cluster: Cluster) -> None:
    name = f"aged_{revision}"
    with psycopg.connect(cluster.url, autocommit=True) as connection:
        connection.execute(f"create database {name}")
    database = Database(cluster.url.rsplit("/", 1)[0] + f"/{name}")
    try:
        command.upgrade(config(database), revision)
        fill(database, revision)
        database.migrate()
        with database.session() as session:
            assert session.scalar(text("select version_num from alembic_version")) == REVISIONS[-1]
            kept = session.get(Crate, 1)
            assert kept is not None and kept.state == "received" and kept.receipts[0].accepted
            master = session.get(Master, 1)
            assert master is not None
            assert master.proxy == (PROXY if since(revision, "0002") else None)
            made = status.item_statuses(kept)
            assert made[0].finished is not None and made[0].finished.size == 7
            tidied = [Cleared(**row.document) for row in session.query(Tidying)]
            assert [t.proxies for t in tidied] == [3] * since(revision, "0007")
            for run in session.query(Run):
                shown = stored.route_of(run.route)
                assert [s.title for s in shown.steps] == [s["title"] for s in FIRST_ROUTE["steps"]]
                # It can be looked at, not carried out any more.
                assert shown.plan is None and stored.record_of(run.route["plan"]).cap == 30_000_000
            # Of several unfinished runs of an item one may be left.
            unfinished = session.query(Run).filter(Run.state.in_(status.UNFINISHED)).count()
            assert unfinished <= 1
            open_one = session.get(Crate, 2)
            assert open_one is not None and crates.next_step(
                open_one, status.item_statuses(open_one)
            ) in {"run", "wait"}
            assert past(session).encode["h264"] > 0
            assert queries.next_number(session) == 203
            master = session.get(Master, 1)
            assert master is not None and "identity" not in master.card
    finally:
        database.dispose()


def test_the_models_are_what_the_migrations_make(cluster: Cluster) -> None:
    with psycopg.connect(cluster.url, autocommit=True) as connection:
        connection.execute("create database new_one")
    database = Database(cluster.url.rsplit("/", 1)[0] + "/new_one")
    try:
        database.migrate()
        command.check(config(database))
    finally:
        database.dispose()
