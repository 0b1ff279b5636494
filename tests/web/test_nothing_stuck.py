"""Nothing stays stuck and nothing is forgotten: pressed twice, killed in between, with the database
gone.
"""

from __future__ import annotations

import os
import shutil
import signal
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

import processes
import pytest
from client import Client, soon
from sqlalchemy import text, update

from ample_crate.store.models import Crate, Deliverable, Master, Run
from ample_crate.work.reconcile import reconcile
from clips import plain
from support import Installation

SPEC = "pinfold-720p"
Make = Callable[..., Path]


@pytest.fixture(scope="module")
def short(clip: Make) -> Path:
    return clip("short green.mp4", draw=plain((20, 160, 40)), frames=10)


@pytest.fixture(scope="module")
def longer(clip: Make) -> Path:
    return clip("longer green.mp4", draw=plain((20, 160, 40), (640, 360)), frames=110)


def handed_in(client: Client, installation: Installation, file: Path, name: str) -> int:
    """Hand a file in, without waiting until it is read."""
    shutil.copyfile(file, installation.folders.intake[0] / name)
    return int(client.good("POST", "/api/intake", {"folder": 0, "names": [name]})[0]["id"])


def ended(client: Client, crate: int) -> Any:
    done = {"done", "failed", "cancelled"}
    return client.until(
        f"/api/crates/{crate}",
        lambda c: all(d["run"] and d["run"]["state"] in done for d in c["deliverables"]),
    )


def states(page: Any) -> list[str]:
    return [d["run"]["state"] for d in page["deliverables"]]


def test_run_means_all_of_it_while_masters_are_still_being_read(
    client: Client, installation: Installation, short: Path, longer: Path
) -> None:
    ids = [
        handed_in(client, installation, longer, "all 1.mp4"),
        handed_in(client, installation, short, "all 2.mp4"),
        handed_in(client, installation, short, "all 3.mp4"),
    ]
    crate = client.crate(SPEC, *ids)
    assert crate["next_step"] == "run"
    page = client.good("POST", f"/api/crates/{crate['id']}/runs")
    assert page["next_step"] == "wait", "nothing is left behind to be pressed again"
    assert any("until its master is" in d["doing"] for d in page["deliverables"])
    assert states(ended(client, crate["id"])) == ["done"] * 3
    assert [
        d["doing"] for d in client.good("GET", f"/api/crates/{crate['id']}")["deliverables"]
    ] == ["done"] * 3


def test_what_shares_a_room_waits_for_the_others_sizes(
    client: Client, installation: Installation, short: Path, longer: Path
) -> None:
    first = client.ingest(installation.folders.intake[0], short, "share 1.mp4")
    second = handed_in(client, installation, longer, "share 2.mp4")
    crate = client.crate("ostler-dvd-625", first["id"], second)
    with installation.database.session() as session:
        session.get(Master, second).state = "measuring"  # as slow as a long one
    page = client.good("POST", f"/api/crates/{crate['id']}/runs")
    if not all(d["run"] for d in page["deliverables"]):
        assert (
            "until share 2.mp4 is measured, for the items share the room"
            in page["deliverables"][0]["doing"]
        )
    assert states(ended(client, crate["id"])) == ["done"] * 2


def test_waiting_can_be_stopped(
    client: Client, installation: Installation, short: Path, longer: Path
) -> None:
    master = handed_in(client, installation, longer, "stopped.mp4")
    crate = client.crate(SPEC, master)
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    page = client.good("POST", f"/api/crates/{crate['id']}/runs/stop")
    client.until(f"/api/masters/{master}", lambda m: m["state"] == "ready")
    page = client.until(f"/api/crates/{crate['id']}", lambda c: c["next_step"] == "run")
    assert (
        page["deliverables"][0]["run"] is None
        or page["deliverables"][0]["run"]["state"] == "cancelled"
    )


def at_once(times: int, ask: Callable[[], int]) -> list[int]:
    answers: list[int] = []
    threads = [threading.Thread(target=lambda: answers.append(ask())) for _ in range(times)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return sorted(answers)


def test_ten_who_press_run_at_once_start_one_run(
    client: Client, installation: Installation, short: Path
) -> None:
    master = client.ingest(installation.folders.intake[0], short, "usual.mp4")
    crate = client.crate(SPEC, master["id"])
    one = crate["deliverables"][0]["id"]
    answers = at_once(10, lambda: client.call("POST", f"/api/deliverables/{one}/runs")[0])
    assert answers == [200] + [409] * 9
    ended(client, crate["id"])
    with installation.database.session() as session:
        assert session.query(Run).filter(Run.deliverable_id == one).count() == 1


def test_nothing_can_be_run_while_its_crate_is_being_sealed(
    client: Client, installation: Installation, short: Path
) -> None:
    master = client.ingest(installation.folders.intake[0], short, "usual.mp4")
    crate = client.crate(SPEC, master["id"])
    one = client.run_to_end(crate["id"])["deliverables"][0]["id"]
    with installation.database.session() as session:
        session.execute(update(Crate).where(Crate.id == crate["id"]).values(state="sealing"))
        answers = []
        # The seal holds no row, so that it is the state that keeps others off.
        session.commit()
        answers = at_once(4, lambda: client.call("POST", f"/api/deliverables/{one}/runs")[0])
    assert answers == [409] * 4
    # Nobody ordered the seal: it is taken up all the same.
    assert client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")


def unordered(installation: Installation, row: object, **values: object) -> None:
    """Leave a row in a state as a crash leaves it: at work, and nobody there to do it."""
    with installation.database.session() as session:
        session.execute(update(type(row)).where(type(row).id == row.id).values(**values))  # type: ignore[attr-defined]
        session.execute(text("delete from procrastinate_jobs where status = 'todo'"))


def test_whatever_was_at_work_without_a_job_is_taken_up_again(
    client: Client, installation: Installation, short: Path
) -> None:
    master = client.ingest(installation.folders.intake[0], short, "usual.mp4")
    crate = client.crate(SPEC, master["id"])
    client.run_to_end(crate["id"])
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    with installation.database.session() as session:
        row, box = session.get(Master, master["id"]), session.get(Crate, crate["id"])
        run = session.get(Deliverable, crate["deliverables"][0]["id"]).runs[-1]
    for state in ("reading", "measuring"):
        unordered(installation, row, state=state)
        assert client.until(f"/api/masters/{master['id']}", lambda m: m["state"] == "ready")
    for state, after in (("queued", "done"), ("running", "done"), ("stopping", "cancelled")):
        unordered(installation, run, state=state)
        client.until(
            f"/api/crates/{crate['id']}",
            lambda c, after=after: c["deliverables"][0]["run"]["state"] == after,
        )
    unordered(installation, box, state="handing over")
    assert client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "received")


def test_what_has_a_living_job_is_left_alone(
    client: Client, installation: Installation, longer: Path
) -> None:
    handed_in(client, installation, longer, "left alone.mp4")
    assert soon(lambda: not reconcile(installation.database, installation.folders))
    with installation.database.session() as session:
        query = (
            "select args->>'id' from procrastinate_jobs where status in ('todo', "
            "'doing') and task_name = 'ample:ingest'"
        )
        waiting = list(session.scalars(text(query)))
    assert len(set(waiting)) == len(waiting)


def test_a_run_whose_file_is_gone_is_run_again_from_run(
    client: Client, installation: Installation, short: Path
) -> None:
    master = client.ingest(installation.folders.intake[0], short, "usual.mp4")
    crate = client.crate(SPEC, master["id"])
    one = client.run_to_end(crate["id"])["deliverables"][0]
    shutil.rmtree(installation.folders.runs / str(one["run"]["id"]))
    page = client.good("GET", f"/api/crates/{crate['id']}")
    assert page["next_step"] == "run" and page["deliverables"][0]["doing"] == "its file is gone"
    status, said, _ = client.call("POST", f"/api/crates/{crate['id']}/seal")
    assert status == 409 and "no longer where its run left it" in said["detail"]
    assert client.run_to_end(crate["id"])["next_step"] == "seal"


def test_what_the_disk_refuses_at_the_seal_and_at_the_hand_over_is_said_and_tried_again(
    client: Client, installation: Installation, short: Path
) -> None:
    master = client.ingest(installation.folders.intake[0], short, "refused by the disk.mp4")
    crate = f"/api/crates/{client.run_to_end(client.crate(SPEC, master['id'])['id'])['id']}"
    inbox = installation.folders.inboxes / "pinfold-drop"
    for step, place, before, after in (
        ("seal", installation.folders.bags, "open", "sealed"),
        ("hand-over", inbox, "sealed", "received"),
    ):
        aside = place.with_name("put aside")
        if place.exists():
            place.rename(aside)
        place.write_text("a file, where a folder belongs")
        client.good("POST", f"{crate}/{step}")
        told = client.until(
            crate, lambda c, state=before: c["state"] == state and c["error"] is not None
        )["error"]
        assert place.name in told["what"] and "a file" in told["what"], told
        assert (
            "unforeseen" not in told["what"]
            and str(place.parent) not in told["what"]
            and told["way_out"]
        )
        place.unlink()
        if aside.exists():
            aside.rename(place)
        client.good("POST", f"{crate}/{step}")
        client.until(crate, lambda c, state=after: c["state"] == state)


def test_a_master_whose_file_comes_back_is_read_again_from_run(
    client: Client, installation: Installation, short: Path
) -> None:
    master = handed_in(client, installation, short, "comes back.mp4")
    client.until(f"/api/masters/{master}", lambda m: m["state"] == "ready")
    file = installation.folders.intake[0] / "comes back.mp4"
    file.unlink()
    crate = client.crate(SPEC, master)
    page = client.run_to_end(crate["id"])
    assert (
        states(page) == ["failed"]
        and "not there any more" in page["deliverables"][0]["run"]["error"]["what"]
    )
    with installation.database.session() as session:
        session.get(Master, master).state = "failed"
    shutil.copyfile(short, file)
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    client.until(f"/api/crates/{crate['id']}", lambda c: states(c) == ["done"])


def test_a_removed_crate_can_be_had_back(
    client: Client, installation: Installation, short: Path
) -> None:
    master = client.ingest(installation.folders.intake[0], short, "removed.mp4")
    crate = client.crate(SPEC, master["id"], title="Removed and had back")
    client.good("DELETE", f"/api/crates/{crate['id']}")
    assert crate["id"] not in {c["id"] for c in client.good("GET", "/api/floor")["crates"]}
    status, said, _ = client.call("POST", f"/api/crates/{crate['id']}/runs")
    assert (
        status == 409
        and "was removed" in said["detail"]
        and said["way_out"] == "Put it back first."
    )
    back = client.good("POST", f"/api/crates/{crate['id']}/restore")
    assert back["removed_at"] is None and back["deliverables"][0]["item"] == "removed.mp4"
    assert crate["id"] in {c["id"] for c in client.good("GET", "/api/floor")["crates"]}
    client.good("DELETE", f"/api/crates/{crate['id']}")
    assert client.good("DELETE", f"/api/masters/{master['id']}")["id"] == master["id"]


def answer(client: Client, path: str) -> tuple[int, dict[str, str]]:
    try:
        with urllib.request.urlopen(client.address + path, timeout=60) as got:
            return got.status, {k.lower(): v for k, v in got.headers.items()}
    except urllib.error.HTTPError as error:
        return error.code, {k.lower(): v for k, v in error.headers.items()} | {
            "body": error.read().decode()
        }


def test_the_database_may_go_in_mid_run_and_the_run_goes_on(
    client: Client, installation: Installation, longer: Path
) -> None:
    master = client.ingest(installation.folders.intake[0], longer, "all 1.mp4")
    crate = client.crate(SPEC, master["id"])
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    client.until(
        f"/api/crates/{crate['id']}", lambda c: c["deliverables"][0]["run"]["state"] == "running"
    )
    assert installation.cluster.pid is not None
    os.kill(installation.cluster.pid, signal.SIGKILL)
    assert soon(lambda: installation.cluster.lost)
    try:
        for path in ("/api/floor", f"/api/crates/{crate['id']}", "/api/masters", "/api/health"):
            status, said = answer(client, path)
            assert status == 503 and said["retry-after"] == "2", path
            assert not any(
                word in said["body"].lower()
                for word in ("psycopg", "select", "sqlalche", "traceback")
            )
    finally:
        installation.cluster.start()
    page = ended(client, crate["id"])
    assert states(page) == ["done"]
    stuck = "select count(*) from procrastinate_jobs where status = 'doing'"
    assert soon(lambda: not _count(installation, stuck))


def _count(installation: Installation, query: str) -> int:
    with installation.database.session() as session:
        return int(session.scalar(text(query)) or 0)


def test_the_web_server_is_brought_back_on_its_port(
    client: Client, installation: Installation
) -> None:
    for pid in [*processes.descendants(installation.pool.web.pid), installation.pool.web.pid]:
        os.kill(pid, signal.SIGKILL)
    installation.pool.web.wait()
    answers: list[int] = []
    asking = threading.Thread(target=lambda: answers.append(answer(client, "/api/health")[0]))
    asking.start()
    time.sleep(0.2)
    assert installation.pool.mend() == ["the web server"]
    asking.join()
    assert answers == [200], "who asked meanwhile has waited, and was not turned away"
