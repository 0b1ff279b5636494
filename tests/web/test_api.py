"""The API, the workers and the database together."""

import base64
import http.client
import json
import os
import signal
import threading
import time
import urllib.request
from collections.abc import Callable
from email.message import Message
from pathlib import Path

import bagit
import processes
import pytest
from client import Client, soon
from sqlalchemy import text

from ample_crate.store.models import Run
from support import House


@pytest.fixture(scope="session")
def client(house: House) -> Client:
    return Client(house.address)


@pytest.fixture(scope="session")
def master(client: Client, house: House, hd_frames: Path) -> dict:
    return client.take_in(house.folders.intake[0], hd_frames)


@pytest.fixture(scope="session")
def long_master(client: Client, house: House, slow: Path) -> dict:
    return client.take_in(house.folders.intake[0], slow)


def test_a_master_is_read_measured_and_known_by_its_checksum(client: Client, master: dict) -> None:
    import hashlib

    assert master["state"] == "ready" and "1920 x 1080" in master["summary"]
    status, jpeg, head = client.call("GET", f"/api/masters/{master['id']}/frames/3?width=320")
    assert status == 200 and jpeg[:2] == b"\xff\xd8" and head["Content-Type"] == "image/jpeg"
    with urllib.request.urlopen(f"{client.address}/api/masters/{master['id']}/play") as answer:
        assert hashlib.sha256(answer.read()).hexdigest() == master["sha256"]
    fits = {f["spec"]: f["answer"] for f in master["fits"]}
    assert fits["tannery-list"] == "needs an encode"


def test_the_way_from_crate_to_receipt(client: Client, house: House, master: dict) -> None:
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
    arrived = house.folders.inboxes / "tannery-playout" / crate["bag"]
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


def break_it(house: House, deliverable: int, change: dict) -> None:
    """Make a finished file's measured facts say something else, as a broken file would."""
    from ample_crate.store.models import Deliverable

    with house.database.session() as session:
        run = session.get(Deliverable, deliverable).runs[-1]
        run.facts = run.facts | change


def test_a_break_needs_an_exception_and_the_cap_takes_none(
    client: Client, house: House, master: dict
) -> None:
    crate = client.crate("pinfold-720p", master["id"])
    one = client.run_to_end(crate["id"])["deliverables"][0]
    break_it(
        house,
        one["id"],
        {"picture.chroma": {"declared": "4:2:2"}, "file.size": {"measured": 30_000_001}},
    )
    path = f"/api/crates/deliverables/{one['id']}/exceptions"
    seen = client.good("GET", f"/api/crates/{crate['id']}")
    assert seen["next_step"] == "look" and len(seen["obstacles"]) == 2
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
    assert row["exception"]["by"] == "A. Technician" and after["next_step"] == "look"
    status, _, _ = client.call("POST", f"/api/crates/{crate['id']}/seal")
    assert status == 409
    break_it(house, one["id"], {"file.size": {"measured": 29_999_999}})
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    sealed = client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    ledger = json.loads((house.folders.bags / sealed["bag"] / "data" / "ledger.json").read_text())
    assert ledger["deliverables"][0]["exceptions"][0]["reason"] == "agreed by telephone"


def test_a_file_changed_after_measuring_is_never_sealed(
    client: Client, house: House, master: dict
) -> None:
    crate = client.crate("tannery-list", master["id"])
    one = client.run_to_end(crate["id"])["deliverables"][0]
    made = next((house.folders.runs / str(one["run"]["id"])).glob("*.mov"))
    with open(made, "ab") as file:
        file.write(b"one byte more")
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    seen = client.until(f"/api/crates/{crate['id']}", lambda c: c["error"])
    assert (
        seen["state"] == "open" and "no longer the file that was measured" in seen["error"]["what"]
    )
    assert not list(house.folders.bags.glob(f".*{seen['number']}*"))


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
    client: Client, house: House, long_master: dict
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
    folder = house.folders.runs / str(run)
    assert not folder.exists() or list(folder.iterdir()) == []
    assert client.call("POST", f"/api/runs/{run}/cancel")[0] == 409
    client.good("POST", f"/api/deliverables/{seen['deliverables'][0]['id']}/runs")
    assert (
        client.until(path, lambda c: c["deliverables"][0]["run"]["state"] == "done")["next_step"]
        == "seal"
    )


def test_a_worker_killed_in_mid_run_leaves_no_half_file_and_the_run_is_taken_up(
    client: Client, house: House, long_master: dict
) -> None:
    crate = client.crate("tannery-list", long_master["id"])
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    path = f"/api/crates/{crate['id']}"
    seen = client.until(
        path, lambda c: (c["deliverables"][0]["run"]["progress"] or {}).get("frame", 0) > 0
    )
    run = seen["deliverables"][0]["run"]["id"]
    worker = house.crew.workers[1]
    children = processes.descendants(worker.pid)
    os.kill(worker.pid, signal.SIGKILL)
    worker.wait()
    assert children
    assert soon(lambda: not any(processes.alive(c) for c in children)), (
        "the encoder must not outlive its worker"
    )
    folder = house.folders.runs / str(run)
    assert [p.name for p in folder.iterdir() if not p.name.startswith(".")] == [], (
        "no half file under a final name"
    )
    assert house.crew.mend() == ["a worker"]
    seen = client.until(path, lambda c: c["deliverables"][0]["run"]["state"] == "done")
    assert seen["deliverables"][0]["run"]["starts"] == 2
    assert [p.suffix for p in folder.iterdir()] == [".mov"]


def test_a_worker_only_thought_lost_leaves_the_run_to_the_one_that_took_it_up(
    client: Client, house: House, long_master: dict
) -> None:
    crate = client.crate("tannery-list", long_master["id"])
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    path = f"/api/crates/{crate['id']}"
    run = client.until(
        path, lambda c: (c["deliverables"][0]["run"]["progress"] or {}).get("frame", 0) > 0
    )["deliverables"][0]["run"]["id"]
    with house.database.session() as session:
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
    folder = house.folders.runs / str(run)
    assert soon(lambda: list(folder.iterdir()) == [])
    with house.database.session() as session:
        row = session.get(Run, run)
        assert row is not None and (row.state, row.path, row.finished_at) == ("running", None, None)
        row.state = "cancelled"
        session.execute(
            text("delete from procrastinate_jobs where worker_id = :worker"), {"worker": worker}
        )
        session.execute(
            text("delete from procrastinate_workers where id = :worker"), {"worker": worker}
        )


def tus(
    client: Client, method: str, path: str, data: bytes | None = None, **headers: str
) -> tuple[int, object, Message]:
    named = {k.replace("_", "-"): v for k, v in headers.items()}
    return client.call(
        method,
        path,
        data=data,
        headers={"Tus-Resumable": "1.0.0", "Content-Type": "application/offset+octet-stream"}
        | named,
    )


def begin(client: Client, name: str, length: int) -> str:
    meta = "filename " + base64.b64encode(name.encode()).decode()
    status, _, head = tus(
        client, "POST", "/api/uploads", b"", Upload_Length=str(length), Upload_Metadata=meta
    )
    assert status == 201
    return head["Location"]


def test_an_upload_in_pieces_goes_on_after_a_dropped_line(
    client: Client, house: House, clip: Callable[..., Path]
) -> None:
    import http.client

    data = clip("plain.mp4").read_bytes()
    at = begin(client, "../../up\u202eload é.mp4", len(data))
    half = len(data) // 2
    # A line that drops: fewer bytes arrive than the header promised.
    host = client.address.removeprefix("http://")
    line = http.client.HTTPConnection(host)
    line.putrequest("PATCH", at)
    for name, value in {
        "Tus-Resumable": "1.0.0",
        "Upload-Offset": "0",
        "Content-Type": "application/offset+octet-stream",
        "Content-Length": str(len(data)),
    }.items():
        line.putheader(name, value)
    line.endheaders()
    line.send(data[:half])
    line.close()

    def kept() -> int:
        return int(tus(client, "HEAD", at)[2]["Upload-Offset"])

    def at_rest() -> bool:
        before = kept()
        time.sleep(1)
        return 0 < before == kept()

    assert soon(at_rest)
    offset = kept()
    assert offset <= half
    assert tus(client, "PATCH", at, data[:10], Upload_Offset="0")[0] == 409
    status, _, head = tus(client, "PATCH", at, data[offset:], Upload_Offset=str(offset))
    assert status == 204 and head["Upload-Offset"] == str(len(data))
    id = int(head["Ample-Master"])
    master = client.until(f"/api/masters/{id}", lambda m: m["state"] in {"ready", "failed"})
    assert master["name"] == "upload é.mp4" and master["state"] == "ready"
    kept = list(house.folders.masters.rglob("*.mp4"))
    assert any(p.read_bytes() == data for p in kept) and all(
        p.is_relative_to(house.folders.masters) for p in kept
    )
    assert (
        client.good("DELETE", f"/api/masters/{id}")
        and client.call("GET", f"/api/masters/{id}")[0] == 404
    )


def test_bad_uploads_say_why(client: Client) -> None:
    status, said, _ = tus(client, "POST", "/api/uploads", b"", Upload_Length="many")
    assert status == 400 and said["way_out"]  # type: ignore[index]
    assert tus(client, "HEAD", "/api/uploads/feedbeef")[0] == 404
    status, said, _ = tus(
        client,
        "POST",
        "/api/uploads",
        b"",
        Upload_Length=str(10**15),
        Upload_Metadata="filename YQ==",
    )
    assert status == 413
    status, said, _ = tus(
        client,
        "POST",
        "/api/uploads",
        b"",
        Upload_Length=str(15 * 10**11),
        Upload_Metadata="filename YQ==",
    )
    assert status == 507 and "free and" in said["detail"]  # type: ignore[index]


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("empty.mp4", b"", "is empty"),
        ("words.mp4", b"Just words about a film.\n" * 50, "text file"),
        ("rubbish.mov", bytes(range(256)) * 40, "not a readable"),
        (
            "huge.y4m",
            b"YUV4MPEG2 W60000 H60000 F25:1 Ip A1:1 C420\nFRAME\n" + b"\x80" * 4096,
            "huge.y4m",
        ),
    ],
)
def test_bad_masters_fail_alone_with_their_cause(
    client: Client, house: House, name: str, data: bytes, says: str, tmp_path: Path
) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    seen = client.take_in(house.folders.intake[0], path)
    assert seen["state"] == "failed" and says in seen["error"]["what"] and seen["error"]["way_out"]
    status, said, _ = client.call("GET", f"/api/masters/{seen['id']}/frames/0")
    assert status == 422 and said["way_out"]
    assert client.good("DELETE", f"/api/masters/{seen['id']}")["id"] == seen["id"]


def test_nothing_outside_the_intake_folder_can_be_taken(
    client: Client, house: House, tmp_path: Path
) -> None:
    for name in ("../../etc/passwd", "/etc/passwd", "..", "nothing.mp4"):
        status, said, _ = client.call("POST", "/api/intake", {"folder": 0, "names": [name]})
        assert status in {404, 409} and said["way_out"], name
    secret = tmp_path / "secret.mp4"
    secret.write_bytes(b"secret")
    link = house.folders.intake[0] / "link.mp4"
    link.symlink_to(secret)
    status, said, _ = client.call("POST", "/api/intake", {"folder": 0, "names": ["link.mp4"]})
    link.unlink()
    assert status == 409 and "outside the media folders" in said["detail"]


def test_other_sites_and_hosts_are_refused(client: Client) -> None:
    assert (
        client.call("POST", "/api/crates/1/runs", headers={"Origin": "http://elsewhere.example"})[0]
        == 403
    )
    assert client.call("GET", "/api/floor", headers={"Host": "elsewhere.example"})[0] == 403


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({}, "title"),
        (
            {"title": "x", "spec": "nobody", "due_at": "2030-01-01T00:00:00Z", "masters": [1]},
            "no spec",
        ),
        ({"title": "x", "spec": "tannery-list", "due_at": "soon", "masters": [1]}, "due_at"),
        (
            {
                "title": "x",
                "spec": "tannery-list",
                "due_at": "2030-01-01T00:00:00Z",
                "masters": [999999],
            },
            "no master",
        ),
        (
            {
                "title": "x",
                "spec": "tannery-list",
                "due_at": "2030-01-01T00:00:00Z",
                "masters": [1],
                "colour": 1,
            },
            "colour",
        ),
    ],
)
def test_bad_requests_are_problems_that_name_the_field(
    client: Client, body: dict, says: str
) -> None:
    status, said, head = client.call("POST", "/api/crates", body)
    assert status in {404, 422} and head["Content-Type"] == "application/problem+json"
    assert says in said["detail"] and said["status"] == status and said["way_out"]


def test_a_document_too_long_to_be_one_is_not_read(client: Client) -> None:
    line = http.client.HTTPConnection(client.address.removeprefix("http://"), timeout=60)
    line.putrequest("POST", "/api/specs/check")
    for name, value in (("Content-Type", "application/json"), ("Content-Length", "9000000000")):
        line.putheader(name, value)
    line.endheaders()
    answer = line.getresponse()
    assert answer.status == 413 and "8000000 are read" in json.loads(answer.read())["detail"]
    line.close()


def test_the_server_is_on_loopback_only(house: House) -> None:
    port = int(house.address.rsplit(":", 1)[1])
    listening = [line.split() for line in Path("/proc/net/tcp").read_text().splitlines()[1:]]
    mine = [row[1] for row in listening if row[3] == "0A" and int(row[1].split(":")[1], 16) == port]
    assert mine and all(address.startswith("0100007F") for address in mine)
