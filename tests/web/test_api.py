"""The API, the workers and the database together."""

import json
import os
import signal
import threading
import urllib.request
from pathlib import Path

import bagit
import processes
import pytest
from client import Client, soon
from sqlalchemy import text

from ample_crate.store.models import Run
from support import Installation


@pytest.fixture(scope="session")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture(scope="session")
def master(client: Client, installation: Installation, hd_frames: Path) -> dict:
    return client.ingest(installation.folders.intake[0], hd_frames)


@pytest.fixture(scope="session")
def long_master(client: Client, installation: Installation, slow: Path) -> dict:
    return client.ingest(installation.folders.intake[0], slow)


def test_a_master_is_read_measured_and_known_by_its_checksum(client: Client, master: dict) -> None:
    import hashlib

    assert master["state"] == "ready" and "1920 x 1080" in master["summary"]
    status, jpeg, head = client.call("GET", f"/api/masters/{master['id']}/frames/3?width=320")
    assert status == 200 and jpeg[:2] == b"\xff\xd8" and head["Content-Type"] == "image/jpeg"
    with urllib.request.urlopen(f"{client.address}/api/masters/{master['id']}/play") as answer:
        assert hashlib.sha256(answer.read()).hexdigest() == master["sha256"]
    fits = {f["spec"]: f["answer"] for f in master["fits"]}
    assert fits["tannery-list"] == "needs an encode"


def test_the_way_from_crate_to_receipt(
    client: Client, installation: Installation, master: dict
) -> None:
    crate = client.crate("tannery-list", master["id"], title="The whole way")
    assert crate["next_step"] == "run" and crate["ready"]["total"] > 0
    assert {r["verdict"] for r in crate["deliverables"][0]["rows"]} == {"unproven"}
    crate = client.run_to_end(crate["id"])
    one = crate["deliverables"][0]
    assert one["verdict"] in {"meets", "advice"} and crate["next_step"] == "seal"
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    crate = client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    status, said, _ = client.call(
        "PATCH",
        f"/api/crates/deliverables/{one['id']}",
        {"property": "picture.bit_rate", "value": "6 Mb/s"},
    )
    assert status == 409 and "cannot change" in said["detail"]
    client.good("POST", f"/api/crates/{crate['id']}/hand-over")
    crate = client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "received")
    receipt = crate["receipts"][0]
    assert receipt["accepted"] and one["finished"]["sha256"] in {
        f["sha256"] for f in receipt["files"]
    }
    arrived = installation.folders.inboxes / "tannery-playout" / crate["bag"]
    assert bagit.Bag(str(arrived)).validate()
    assert any(r["crate"] == crate["id"] for r in client.good("GET", "/api/receipts"))
    newer = client.good("POST", f"/api/crates/{crate['id']}/revisions")
    assert (
        newer["revision"] == 2
        and newer["next_step"] == "run"
        and newer["deliverables"][0]["name"].endswith("_r2.mov")
    )


def test_a_choice_makes_the_finished_file_stale(client: Client, master: dict) -> None:
    crate = client.crate("tannery-list", master["id"])
    id = crate["deliverables"][0]["id"]
    crate = client.run_to_end(crate["id"])
    changed = client.good(
        "PATCH",
        f"/api/crates/deliverables/{id}",
        {"property": "picture.bit_rate", "value": "6 Mb/s"},
    )
    assert (
        changed["deliverables"][0]["stale"]
        and changed["next_step"] == "run"
        and changed["deliverables"][0]["verdict"] == "unproven"
    )
    status, said, _ = client.call("POST", f"/api/crates/{crate['id']}/seal")
    assert status == 409 and "plan or its master has changed" in said["detail"]
    back = client.good(
        "PATCH", f"/api/crates/deliverables/{id}", {"property": "picture.bit_rate", "value": None}
    )
    assert not back["deliverables"][0]["stale"] and back["next_step"] == "seal"
    status, said, _ = client.call(
        "PATCH", f"/api/crates/deliverables/{id}", {"property": "sound.codec", "value": "mp3"}
    )
    assert status == 422 and "outside what the spec allows" in said["detail"] and said["way_out"]


def break_it(installation: Installation, deliverable: int, change: dict) -> None:
    """Make a finished file's measured facts say something else, as a broken file would."""
    from ample_crate.store.models import Deliverable

    with installation.database.session() as session:
        run = session.get(Deliverable, deliverable).runs[-1]
        run.facts = run.facts | change


def test_a_break_needs_an_exception_and_the_cap_takes_none(
    client: Client, installation: Installation, master: dict
) -> None:
    crate = client.crate("pinfold-720p", master["id"])
    one = client.run_to_end(crate["id"])["deliverables"][0]
    break_it(
        installation,
        one["id"],
        {"picture.chroma": {"declared": "4:2:2"}, "file.size": {"measured": 30_000_001}},
    )
    path = f"/api/crates/deliverables/{one['id']}/exceptions"
    seen = client.good("GET", f"/api/crates/{crate['id']}")
    assert seen["next_step"] == "review" and len(seen["obstacles"]) == 2
    status, said, _ = client.call(
        "POST", path, {"property": "file.size", "reason": "please", "by": "me"}
    )
    assert status == 409 and "never be sealed" in said["detail"]
    after = client.good(
        "POST",
        path,
        {"property": "picture.chroma", "reason": "agreed by telephone", "by": "A. Technician"},
    )
    row = next(r for r in after["deliverables"][0]["rows"] if r["property"] == "picture.chroma")
    assert row["exception"]["by"] == "A. Technician" and after["next_step"] == "review"
    status, _, _ = client.call("POST", f"/api/crates/{crate['id']}/seal")
    assert status == 409
    break_it(installation, one["id"], {"file.size": {"measured": 29_999_999}})
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    sealed = client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    ledger = json.loads(
        (installation.folders.bags / sealed["bag"] / "data" / "ledger.json").read_text()
    )
    assert ledger["deliverables"][0]["exceptions"][0]["reason"] == "agreed by telephone"


def test_a_file_changed_after_measuring_is_never_sealed(
    client: Client, installation: Installation, master: dict
) -> None:
    crate = client.crate("tannery-list", master["id"])
    one = client.run_to_end(crate["id"])["deliverables"][0]
    made = next((installation.folders.runs / str(one["run"]["id"])).glob("*.mov"))
    with open(made, "ab") as file:
        file.write(b"one byte more")
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    seen = client.until(f"/api/crates/{crate['id']}", lambda c: c["error"])
    assert (
        seen["state"] == "open" and "no longer the file that was measured" in seen["error"]["what"]
    )
    assert not list(installation.folders.bags.glob(f".*{seen['number']}*"))


def test_items_of_a_list_and_progress_news(client: Client, master: dict, long_master: dict) -> None:
    crate = client.crate("tannery-list", master["id"], long_master["id"])
    heard: list[dict] = []
    stop, listening = threading.Event(), threading.Event()

    def listen() -> None:
        with urllib.request.urlopen(f"{client.address}/api/events", timeout=60) as stream:
            for line in stream:
                listening.set()
                if line.startswith(b"data:"):
                    heard.append(json.loads(line[5:]))
                if stop.is_set():
                    return

    threading.Thread(target=listen, daemon=True).start()
    assert listening.wait(60)
    crate = client.run_to_end(crate["id"])
    stop.set()
    moving = [
        n["progress"]
        for n in heard
        if n["topic"] == "run" and n.get("progress", {}).get("stage") == "encode"
    ]
    assert len({p["frame"] for p in moving}) >= 2, "the frame must be seen to move"
    assert all(p["speed"] > 0 and p["elapsed"] > 0 for p in moving[1:])
    assert {d["verdict"] for d in crate["deliverables"]} <= {"meets", "advice"}


def test_a_run_can_be_stopped_and_run_again(
    client: Client, installation: Installation, long_master: dict
) -> None:
    crate = client.crate("tannery-list", long_master["id"])
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    path = f"/api/crates/{crate['id']}"
    seen = client.until(
        path, lambda c: (c["deliverables"][0]["run"]["progress"] or {}).get("frame", 0) > 0
    )
    run = seen["deliverables"][0]["run"]["id"]
    client.good("POST", f"/api/runs/{run}/cancel")
    seen = client.until(path, lambda c: c["deliverables"][0]["run"]["state"] == "cancelled")
    folder = installation.folders.runs / str(run)
    assert not folder.exists() or list(folder.iterdir()) == []
    assert client.call("POST", f"/api/runs/{run}/cancel")[0] == 409
    client.good("POST", f"/api/deliverables/{seen['deliverables'][0]['id']}/runs")
    assert (
        client.until(path, lambda c: c["deliverables"][0]["run"]["state"] == "done")["next_step"]
        == "seal"
    )


def test_a_worker_killed_in_mid_run_leaves_no_half_file_and_the_run_is_taken_up(
    client: Client, installation: Installation, long_master: dict
) -> None:
    crate = client.crate("tannery-list", long_master["id"])
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    path = f"/api/crates/{crate['id']}"
    seen = client.until(
        path, lambda c: (c["deliverables"][0]["run"]["progress"] or {}).get("frame", 0) > 0
    )
    run = seen["deliverables"][0]["run"]["id"]
    worker = installation.pool.workers[1]
    children = processes.descendants(worker.pid)
    os.kill(worker.pid, signal.SIGKILL)
    worker.wait()
    assert children
    assert soon(lambda: not any(processes.alive(c) for c in children)), (
        "the encoder must not outlive its worker"
    )
    folder = installation.folders.runs / str(run)
    assert [p.name for p in folder.iterdir() if not p.name.startswith(".")] == [], (
        "no half file under a final name"
    )
    assert installation.pool.mend() == ["a worker"]
    seen = client.until(path, lambda c: c["deliverables"][0]["run"]["state"] == "done")
    assert seen["deliverables"][0]["run"]["starts"] == 2
    assert [p.suffix for p in folder.iterdir()] == [".mov"]


def test_a_worker_only_thought_lost_leaves_the_run_to_the_one_that_took_it_up(
    client: Client, installation: Installation, long_master: dict
) -> None:
    crate = client.crate("tannery-list", long_master["id"])
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    path = f"/api/crates/{crate['id']}"
    run = client.until(
        path, lambda c: (c["deliverables"][0]["run"]["progress"] or {}).get("frame", 0) > 0
    )["deliverables"][0]["run"]["id"]
    with installation.database.session() as session:
        row = session.get(Run, run)
        assert row is not None
        row.starts = 2  # as another worker does when it begins
        worker = session.scalar(
            text(
                "insert into procrastinate_workers (last_heartbeat) values (now() + interval '1 "
                "hour') returning id"
            )
        )
        job = (
            "insert into procrastinate_jobs (queue_name, task_name, args, status, worker_id) "
            "values ('encodes', 'ample:encode', jsonb_build_object('id', :run), 'doing', :worker)"
        )
        session.execute(text(job), {"run": run, "worker": worker})
    folder = installation.folders.runs / str(run)
    assert soon(lambda: list(folder.iterdir()) == [])
    with installation.database.session() as session:
        row = session.get(Run, run)
        assert row is not None and (row.state, row.path, row.finished_at) == ("running", None, None)
        row.state = "cancelled"
        session.execute(
            text("delete from procrastinate_jobs where worker_id = :worker"), {"worker": worker}
        )
        session.execute(
            text("delete from procrastinate_workers where id = :worker"), {"worker": worker}
        )
