"""What arrives over the API: folders, sequences, stills, uploads, and what cannot be read."""

import shutil
import threading
import time
import urllib.parse
from pathlib import Path

import pytest
from client import Client, soon
from master_pages import Make, find, ready
from PIL import Image

from clips import moving_bar
from support import Installation


def test_intake_folders_are_browsed_and_sequences_are_one(
    client: Client, installation: Installation, inbox: Path, clip: Make
) -> None:
    for number in (3, 4, 5, 7):
        Image.fromarray(moving_bar((160, 90), 100)(number / 25)).save(
            inbox / f"shot_{number:04d}.png"
        )
    shutil.copy(clip("twice.mp4", frames=12), inbox / "loose.mp4")
    top = client.good("GET", "/api/intake")
    assert {
        "kind": "folder",
        "name": "reels",
        "size": 0,
        "count": 1,
        "missing": 0,
        "taken": False,
    } in top["items"]
    items = {i["name"]: i for i in client.good("GET", "/api/intake?inner=reels")["items"]}
    assert (
        items["shot_[0003-0007].png"]["count"] == 4
        and items["shot_[0003-0007].png"]["missing"] == 1
    )
    body = {
        "folder": 0,
        "inner": "reels",
        "names": ["shot_[0003-0007].png"],
        "rate": "24",
        "production": "Fog",
    }
    page = ready(client, client.good("POST", "/api/intake", body)[0]["id"])
    assert (
        page["frames"] == 5
        and page["rate"] == "24/1"
        and page["origin"] == "sequence"
        and page["production"] == "Fog"
    )
    assert page["notes"] == ["Frame 6 is missing."] and len(page["sha256"]) == 64
    assert client.call("GET", f"/api/masters/{page['id']}/frames/2?width=160")[0] == 200
    items = {i["name"]: i["taken"] for i in client.good("GET", "/api/intake?inner=reels")["items"]}
    assert items == {"shot_[0003-0007].png": True, "loose.mp4": False}
    assert (
        client.good("DELETE", f"/api/masters/{page['id']}") and (inbox / "shot_0003.png").exists()
    )
    for inner, status in (("../..", 409), ("nowhere", 404)):
        assert client.call("GET", f"/api/intake?inner={urllib.parse.quote(inner)}")[0] == status
    assert client.call("POST", "/api/intake", body | {"rate": "0"})[0] == 422


def test_a_watched_folder_takes_in_what_is_new_once_it_is_whole(
    client: Client, installation: Installation, inbox: Path, clip: Make
) -> None:
    assert client.good("PUT", "/api/intake/watch", {"folder": 0, "on": True})["watched"]
    data = clip("watched.mp4", frames=15).read_bytes()
    growing = inbox / "growing.mp4"

    def grow() -> None:
        for part in range(80):
            with growing.open("ab") as file:
                file.write(data[part * len(data) // 80 : (part + 1) * len(data) // 80])
            time.sleep(0.1)

    writer = threading.Thread(target=grow)
    writer.start()
    while writer.is_alive():
        assert "growing.mp4" not in find(client, "growing")
    assert soon(lambda: "growing.mp4" in find(client, "growing"))
    row = client.good("GET", "/api/masters?q=growing")["rows"][0]
    assert ready(client, row["id"])["state"] == "ready"
    client.good("DELETE", f"/api/masters/{row['id']}")
    time.sleep(10)
    assert find(client, "growing") == [], "what was dismissed is not handed in again"
    assert not client.good("PUT", "/api/intake/watch", {"folder": 0, "on": False})["watched"]


def test_stills_are_joined_as_one_sequence(
    client: Client, installation: Installation, inbox: Path
) -> None:
    for number in range(4):
        Image.fromarray(moving_bar((160, 90), 100)(number / 25)).save(inbox / f"still{number}.png")
    # Taken one at a time they are stills; an upload of many images comes in like this.
    from ample_crate.store import masters

    with installation.database.session() as session:
        ids = [
            masters.add(session, (inbox / f"still{n}.png").resolve(), f"still{n}.png", "intake").id
            for n in range(4)
        ]
    assert (
        client.call("POST", "/api/intake/join", {"ids": [ids[0], ids[2]], "rate": "soon"})[0] == 422
    )
    made = client.good("POST", "/api/intake/join", {"ids": ids, "rate": "30000/1001"})
    page = ready(client, made["id"])
    assert page["state"] == "ready" and page["frames"] == 4 and page["rate"] == "30000/1001"
    assert all(client.call("GET", f"/api/masters/{id}")[0] == 404 for id in ids)


@pytest.mark.parametrize("name", ["sequence.json", "streams.json"])
def test_what_leads_to_other_files_is_never_taken_in(
    name: str, client: Client, inbox: Path, tmp_path: Path
) -> None:
    """A description next to links to files that lie in no intake folder."""
    secret = tmp_path / "secret.m2v"
    secret.write_bytes(b"x")
    for inner in ("parts", "frames"):
        (inbox / inner).mkdir(exist_ok=True)
        (inbox / inner / "secret.m2v").unlink(missing_ok=True)
        (inbox / inner / "secret.m2v").symlink_to(secret)
    (inbox / name).write_text('{"files": ["secret.m2v"]}')
    (inbox / "film.mov").unlink(missing_ok=True)
    (inbox / "film.mov").symlink_to(inbox / name)
    for taken in (name, "film.mov"):
        asked = {"folder": 0, "inner": "reels", "names": [taken]}
        status, said, _ = client.call("POST", "/api/intake", asked)
        assert status == 409 and "stands for others" in said["detail"], said
    (inbox / name).unlink()
    (inbox / "film.mov").unlink()


def test_uploads_left_half_way_are_listed_and_can_be_forgotten(client: Client) -> None:
    head = {
        "Tus-Resumable": "1.0.0",
        "Upload-Length": "1000",
        "Upload-Metadata": "filename aGFsZi5tb3Y=",
    }
    _, _, answer = client.call("POST", "/api/uploads", headers=head)
    place = answer["Location"]
    client.call(
        "PATCH",
        place,
        data=b"x" * 400,
        headers={
            "Tus-Resumable": "1.0.0",
            "Upload-Offset": "0",
            "Content-Type": "application/offset+octet-stream",
        },
    )
    one = next(u for u in client.good("GET", "/api/uploads/unfinished") if place.endswith(u["id"]))
    assert (one["name"], one["length"], one["arrived"]) == ("half.mov", 1000, 400)
    client.call("DELETE", place, headers={"Tus-Resumable": "1.0.0"})
    assert all(not place.endswith(u["id"]) for u in client.good("GET", "/api/uploads/unfinished"))


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("nothing.mov", b"", "empty"),
        ("words.mxf", b"A lantern in the fog.\n" * 99, "text file"),
        ("noise.ts", bytes(range(7, 250)) * 40, "not a readable"),
    ],
)
def test_what_cannot_be_read_says_why_and_stays_until_dismissed(
    client: Client, installation: Installation, name: str, data: bytes, says: str, tmp_path: Path
) -> None:
    (tmp_path / name).write_bytes(data)
    page = client.ingest(installation.folders.intake[0], tmp_path / name, ends="failed")
    assert page["state"] == "failed" and says in page["error"]["what"] and page["error"]["way_out"]
    assert name in find(client, name) and page["fits"][0]["answer"] == "not known yet"
    client.good("DELETE", f"/api/masters/{page['id']}")
    assert name not in find(client, name)
