"""Workers of other machines, which see no media folder: masters come and files go over HTTP."""

from __future__ import annotations

import base64
import hashlib
import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from urllib.parse import quote, urlsplit

import pytest
from client import Client, soon
from dropping import dropping
from specs_here import document
from workers_here import draining, wanted

from ample_crate.core.errors import Cancelled, Refused
from ample_crate.store.models import Master, Run
from ample_crate.store.places import Folders
from ample_crate.store.queries import get
from ample_crate.web.machines import secret_of
from ample_crate.work import crew
from ample_crate.work.home import Home
from clips import moving_bar
from support import Installation

Start = Callable[..., "subprocess.Popen[bytes]"]
IMAGES = [
    {"property": "picture.codec", "rule": {"is": "png"}},
    {"property": "file.wrapper", "rule": {"is": "image sequence"}},
]
NAMED = {"name": "{master}_{frame}", "asked": "must"}


@pytest.fixture(scope="module")
def master(client: Client, inbox: Path, clip: Callable[..., Path]) -> Any:
    film = clip("far away.mp4", draw=moving_bar((640, 360)), frames=40)
    return client.ingest(inbox.parent, film)


@pytest.fixture(scope="module")
def images(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("far-images", requirements=IMAGES, delivery=NAMED))
    return "far-images"


@pytest.fixture
def far(client: Client, installation: Installation, tmp_path: Path) -> Iterator[Start]:
    """Start a worker of another machine, while those here take nothing."""
    drained = draining(client)
    next(drained)
    started: list[subprocess.Popen[bytes]] = []

    def start(home: str = installation.address, secret: str = "") -> subprocess.Popen[bytes]:
        env = {
            "AMPLE_HOME": home,
            "AMPLE_SECRET": secret or secret_of(installation.folders),
            "AMPLE_MEDIA": str(tmp_path / "far"),
            "AMPLE_DATA": str(tmp_path / "data"),
            "AMPLE_PLACE": "far",
            "AMPLE_DATABASE": installation.database.url,
        }
        env = {**os.environ, **env}
        env.pop("AMPLE_INTAKE", None)
        command = [sys.executable, "-m", "ample_crate.cli", "worker"]
        started.append(subprocess.Popen(command, env=env))
        return started[-1]

    yield start
    for worker in started:
        worker.terminate()
        worker.wait()
    next(drained, None)


def ended(client: Client, crate: int) -> Any:
    done = {"done", "failed", "cancelled"}
    path = f"/api/crates/{crate}"
    page = client.until(path, lambda c: c["deliverables"][0]["run"]["state"] in done)
    return page["deliverables"][0]["run"]


def begun(client: Client, spec: str, master: Any) -> int:
    crate = client.crate(spec, master["id"], title="Made far away")
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    return int(crate["id"])


def test_a_run_is_made_far_away_and_lies_here(
    client: Client, installation: Installation, far: Start, master: Any, tmp_path: Path
) -> None:
    far()
    crate = begun(client, "tannery-list", master)
    run = ended(client, crate)
    assert run["state"] == "done", run["error"]
    with installation.database.session() as session:
        row = get(session, Run, run["id"])
        made, sha256, place = Path(row.path or ""), row.sha256, row.worker
        assert place is not None and place.place == "far"
        assert row.master_sha256 == get(session, Master, master["id"]).sha256
        assert place.queues == ["runs"]
    assert made.is_relative_to(installation.folders.runs)
    assert hashlib.sha256(made.read_bytes()).hexdigest() == sha256
    assert client.good("GET", f"/api/crates/{crate}")["next_step"] == "seal"
    # There the master stays for the next run, and nothing of what was made.
    assert [one.name for one in (tmp_path / "far" / "fetched").iterdir() if one.is_dir()]
    assert not list((tmp_path / "far" / "runs").iterdir())


def test_images_are_sent_one_by_one_and_described_here(
    client: Client, installation: Installation, far: Start, master: Any, images: str
) -> None:
    far()
    crate = begun(client, images, master)
    run = ended(client, crate)
    assert run["state"] == "done", run["error"]
    with installation.database.session() as session:
        stands = Path(get(session, Run, run["id"]).path or "")
    assert stands.name == "sequence.json"
    assert len(list((stands.parent / "frames").iterdir())) == 40
    sealed = client.good("POST", f"/api/crates/{crate}/seal")
    assert sealed["state"] == "sealing"
    client.until(f"/api/crates/{crate}", lambda c: c["state"] == "sealed")


def test_a_master_of_images_is_fetched_with_all_of_them(
    client: Client, far: Start, master: Any, images: str, installation: Installation
) -> None:
    wanted(client, "working")
    first = client.run_to_end(int(client.crate(images, master["id"])["id"]))
    with installation.database.session() as session:
        stands = Path(get(session, Run, first["deliverables"][0]["run"]["id"]).path or "")
    frames = sorted(one.resolve() for one in (stands.parent / "frames").iterdir())
    folder = installation.folders.intake[0] / "far images"
    folder.mkdir()
    for frame in frames:
        (folder / frame.name).write_bytes(frame.read_bytes())
    inner = f"/api/intake?inner={quote(folder.name)}"
    [sequence] = client.good("GET", inner)["items"]
    asked = {"folder": 0, "inner": folder.name, "names": [sequence["name"]], "rate": "25"}
    rolled = client.good("POST", "/api/intake", asked)[0]
    client.until(f"/api/masters/{rolled['id']}", lambda m: m["state"] == "ready")
    wanted(client, "drained")
    far()
    run = ended(client, begun(client, images, rolled))
    assert run["state"] == "done", run["error"]


def test_a_line_that_drops_goes_on_where_it_was(
    client: Client, installation: Installation, master: Any, tmp_path: Path
) -> None:
    size = master["size"]
    port = urlsplit(installation.address).port or 0
    folders = Folders(tmp_path / "here").make()
    told: list[float] = []
    with dropping(port, size // 3, cuts=2) as line:
        home = Home(f"http://127.0.0.1:{line.port}", secret_of(installation.folders), folders)
        taken = home.take([master["id"]], lambda body: told.append(body["share"]), lambda: False)
        assert line.cut == 2
        # What had come was not fetched again.
        assert line.came < size * 3 / 2
    [file] = taken.files
    assert file.name == master["name"]
    assert hashlib.sha256(file.read_bytes()).hexdigest() == taken.sha256
    assert told == sorted(told) and told[-1] == 1.0
    # What is here already is not fetched again.
    told.clear()
    again = Home(installation.address, secret_of(installation.folders), folders)
    assert again.take([master["id"]], lambda body: told.append(body["share"]), bool) == taken
    assert told == []


def test_fetching_is_stopped(installation: Installation, master: Any, tmp_path: Path) -> None:
    folders = Folders(tmp_path / "here").make()
    home = Home(installation.address, secret_of(installation.folders), folders)
    with pytest.raises(Cancelled):
        home.take([master["id"]], lambda body: None, lambda: True)


def test_what_arrives_otherwise_is_not_used(
    installation: Installation, master: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folders = Folders(tmp_path / "here").make()
    home = Home(installation.address, secret_of(installation.folders), folders)
    monkeypatch.setattr("ample_crate.work.sums.of", lambda path: "another")
    with pytest.raises(Exception, match="did not arrive as it was read"):
        home.take([master["id"]], lambda body: None, lambda: False)
    assert not [one for one in (tmp_path / "here" / "fetched").iterdir() if one.is_dir()]


def test_a_machine_that_does_not_know_the_secret_is_told_so(
    installation: Installation, master: Any, tmp_path: Path
) -> None:
    home = Home(installation.address, "wrong", Folders(tmp_path / "here").make())
    with pytest.raises(Refused, match="installation's own machines") as told:
        home.check([master["id"]])
    assert "AMPLE_SECRET" in told.value.way_out


def sent(client: Client, installation: Installation, query: str, **head: str) -> tuple[int, Any]:
    given = {"Authorization": f"Bearer {secret_of(installation.folders)}"} | head
    status, body, _ = client.call("PUT", f"/api/machines/{query}", None, given, b"a file")
    return status, body


def test_what_is_sent_is_looked_at(
    client: Client, installation: Installation, tiny_master: Any
) -> None:
    crate = client.run_to_end(int(client.crate("tannery-list", tiny_master["id"])["id"]))
    run = crate["deliverables"][0]["run"]["id"]
    right = base64.b64encode(hashlib.sha256(b"a file").digest()).decode()
    digest = {"Repr-Digest": f"sha-256=:{right}:"}
    # A run that has ended is nobody's to send to.
    status, told = sent(client, installation, f"runs/{run}/files?start=1&name=a.mov", **digest)
    assert status == 409 and "another worker's" in told["detail"]
    with installation.database.session() as session:
        get(session, Run, run).state = "running"
    try:
        for name in ("../a.mov", "/a.mov", ".a.mov", "a/../../b"):
            at = f"runs/{run}/files?start=1&name={name}"
            status, told = sent(client, installation, at, **digest)
            assert status == 422 and "no name of a file" in told["detail"], (name, told)
        at = f"runs/{run}/files?start=1&name=sent.mov"
        for wrong in ("", "md5=:abc:", "sha-256=:!:"):
            status, told = sent(client, installation, at, **{"Repr-Digest": wrong})
            assert status == 422 and "with its digest" in told["detail"]
        other = base64.b64encode(hashlib.sha256(b"another").digest()).decode()
        status, told = sent(client, installation, at, **{"Repr-Digest": f"sha-256=:{other}:"})
        assert status == 422 and "as its digest says" in told["detail"]
        folder = installation.folders.runs / str(run)
        assert not [one for one in folder.iterdir() if "sent" in one.name or ".part" in one.name]
        assert sent(client, installation, at, **digest)[0] == 204
        assert (folder / "sent.mov").read_bytes() == b"a file"
    finally:
        with installation.database.session() as session:
            get(session, Run, run).state = "done"


def test_a_worker_that_knows_no_secret_says_what_is_missing(installation: Installation) -> None:
    env = {**os.environ, "AMPLE_HOME": installation.address, "AMPLE_SECRET": ""}
    command = [sys.executable, "-m", "ample_crate.cli", "worker", "--database", "postgresql://x"]
    done = subprocess.run(command, env=env, capture_output=True, text=True, check=False)
    assert done.returncode == 2 and "AMPLE_SECRET" in done.stderr


def test_far_workers_are_counted_as_lanes_and_help_nobody(
    client: Client, installation: Installation, far: Start
) -> None:
    far()
    assert soon(lambda: any(w["place"] == "far" for w in client.good("GET", "/api/day")["workers"]))
    with installation.database.session() as session:
        assert len(crew.lanes(session)) == 1
        assert crew.idle(session) == 0
