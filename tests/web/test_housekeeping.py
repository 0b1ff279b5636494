"""What grows is bounded: each thing by its own measure, once a day, and seen on a page."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from client import Client, soon
from sqlalchemy import delete, select, text

from ample_crate.store.models import Crate, PaceTrial, Tidying
from ample_crate.store.studied import Hearing
from ample_crate.work import housekeeping
from clips import plain
from support import Installation

DAY = 86400.0


@pytest.fixture(scope="module")
def master(client: Client, installation: Installation, clip: Callable[..., Path]) -> dict:
    return client.ingest(
        installation.folders.intake[0],
        clip("short green.mp4", draw=plain((20, 160, 40)), frames=10),
        "kept.mp4",
    )


def laid(folder: Path, name: str, size: int, age: float) -> Path:
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / name
    path.write_bytes(b"x" * size)
    os.utime(path, (time.time() - age, time.time() - age))
    return path


def test_pictures_that_nobody_asked_for_longest_go_first(installation: Installation) -> None:
    old, middle, new = (
        laid(installation.folders.pictures / "zz", f"{n}.jpg", 1000, n * DAY)
        for n in (900, 600, 300)
    )
    bounds = housekeeping.Bounds(
        pictures=sum(p.stat().st_size for p in installation.folders.pictures.rglob("*.jpg")) - 1500
    )
    assert housekeeping.tidy(installation.database, installation.folders, bounds).pictures == 2
    assert not old.exists() and not middle.exists() and new.exists()
    new.unlink()


def test_a_removed_crate_goes_with_its_files_after_a_week(
    client: Client, installation: Installation, master: dict
) -> None:
    crate = client.crate("pinfold-720p", master["id"])
    run = client.run_to_end(crate["id"])["deliverables"][0]["run"]["id"]
    client.good("DELETE", f"/api/crates/{crate['id']}")
    assert housekeeping.tidy(installation.database, installation.folders).crates == 0
    assert (installation.folders.runs / str(run)).exists(), "it can be had back"
    with installation.database.session() as session:
        session.get(Crate, crate["id"]).removed_at = datetime.now(UTC) - timedelta(days=8)
    cleared = housekeeping.tidy(installation.database, installation.folders)
    assert cleared.crates == 1 and cleared.runs == 1
    assert (
        not (installation.folders.runs / str(run)).exists()
        and client.call("GET", f"/api/crates/{crate['id']}")[0] == 404
    )


def test_copies_that_no_master_has_go_and_one_that_went_is_made_anew(
    client: Client, installation: Installation, master: dict
) -> None:
    stray = laid(installation.folders.proxies, "999999-feedbeef.mp4", 10, DAY)
    client.good("POST", f"/api/masters/{master['id']}/proxy")
    assert soon(
        lambda: client.good("GET", f"/api/masters/{master['id']}")["proxy"]["state"] == "ready"
    )
    assert housekeeping.tidy(installation.database, installation.folders).proxies == 1
    assert (
        not stray.exists()
        and len(list(installation.folders.proxies.glob(f"{master['id']}-*.mp4"))) == 1
    )
    housekeeping.tidy(installation.database, installation.folders, housekeeping.Bounds(proxies=0))
    assert client.good("GET", f"/api/masters/{master['id']}")["proxy"]["state"] == "none"


def test_copies_of_sound_that_nobody_heard_go(
    client: Client, installation: Installation, master: dict
) -> None:
    item = client.crate("tannery-list", master["id"])["deliverables"][0]
    with installation.database.session() as session:
        row = Hearing(deliverable_id=item["id"], state="done")
        session.add(row)
        session.flush()
        mine = laid(installation.folders.proxies, f"heard-{row.id}-feedbeef-1.mp4", 10, DAY)
    stray = laid(installation.folders.proxies, "heard-999999-feedbeef-1.mp4", 10, DAY)
    housekeeping.tidy(installation.database, installation.folders)
    assert mine.exists() and not stray.exists()


def test_finished_jobs_are_forgotten_after_a_week(installation: Installation) -> None:
    with installation.database.session() as session:
        made = session.scalar(
            text(
                "insert into procrastinate_jobs (queue_name, task_name, status) values ('none', "
                "'none', 'succeeded') returning id"
            )
        )
        session.execute(
            text(
                "insert into procrastinate_events (job_id, type, at) values (:id, 'succeeded', "
                "now() - interval '8 days')"
            ),
            {"id": made},
        )
    assert housekeeping.tidy(installation.database, installation.folders).jobs >= 1
    with installation.database.session() as session:
        assert not session.scalar(
            text("select count(*) from procrastinate_jobs where id = :id"), {"id": made}
        )


def test_of_the_trials_of_a_codec_the_newest_stays(installation: Installation) -> None:
    with installation.database.session() as session:
        for codec in ("vp8", "vp8", "av1"):
            session.add(PaceTrial(codec=codec, host="", state="done", document={}))
            session.flush()
    assert housekeeping.tidy(installation.database, installation.folders).trials == 1
    with installation.database.session() as session:
        kept = session.scalars(select(PaceTrial).where(PaceTrial.codec.in_(["vp8", "av1"])))
        assert sorted(row.codec for row in kept) == ["av1", "vp8"]
        session.execute(delete(PaceTrial))


def test_a_log_is_cut_to_its_end(tmp_path: Path) -> None:
    log = tmp_path / "server.log"
    log.write_text("".join(f"line {n}\n" for n in range(1000)))
    assert housekeeping.cut_log(log, 20_000) == 0
    assert housekeeping.cut_log(log, 2_000) == 1
    assert log.stat().st_size == 1000 and log.read_text().endswith("line 999\n")


def test_it_is_done_once_a_day(installation: Installation) -> None:
    now = datetime.now(UTC)
    with installation.database.session() as session:
        session.add(Tidying(at=now, document={}))
        session.flush()
        assert not housekeeping.due(session, now + timedelta(hours=23))
        assert housekeeping.due(session, now + timedelta(hours=25))
        session.rollback()


def test_the_page_shows_the_disk_and_tidies_on_request(
    client: Client, installation: Installation
) -> None:
    before = client.good("GET", "/api/housekeeping")
    assert 0 < before["disk_free"] <= before["disk_total"] and before["workers"] >= 3
    held = {h["name"]: h for h in before["holdings"]}
    laid(installation.folders.bags, ".of a test", 5000, 0)
    assert {h["name"]: h["bytes"] for h in client.good("GET", "/api/housekeeping")["holdings"]}[
        "sealed crates"
    ] >= held["sealed crates"]["bytes"] + 5000
    (installation.folders.bags / ".of a test").unlink()
    last = before["tidyings"][0]["at"] if before["tidyings"] else ""
    client.good("POST", "/api/housekeeping/tidy")
    assert soon(lambda: client.good("GET", "/api/housekeeping")["tidyings"][0]["at"] != last)
