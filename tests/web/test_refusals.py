"""What the API refuses, and how it says so."""

import http.client
import json
from pathlib import Path

import pytest
from client import Client

from support import Installation


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
    client: Client, installation: Installation, name: str, data: bytes, says: str, tmp_path: Path
) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    seen = client.ingest(installation.folders.intake[0], path, ends="failed")
    assert seen["state"] == "failed" and says in seen["error"]["what"] and seen["error"]["way_out"]
    status, said, _ = client.call("GET", f"/api/masters/{seen['id']}/frames/0")
    assert status == 422 and said["way_out"]
    assert client.good("DELETE", f"/api/masters/{seen['id']}")["id"] == seen["id"]


def test_nothing_outside_the_intake_folder_can_be_taken(
    client: Client, installation: Installation, tmp_path: Path
) -> None:
    for name in ("../../etc/passwd", "/etc/passwd", "..", "nothing.mp4"):
        status, said, _ = client.call("POST", "/api/intake", {"folder": 0, "names": [name]})
        assert status in {404, 409} and said["way_out"], name
    secret = tmp_path / "secret.mp4"
    secret.write_bytes(b"secret")
    link = installation.folders.intake[0] / "link.mp4"
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


def test_the_server_is_on_loopback_only(installation: Installation) -> None:
    port = int(installation.address.rsplit(":", 1)[1])
    listening = [line.split() for line in Path("/proc/net/tcp").read_text().splitlines()[1:]]
    mine = [row[1] for row in listening if row[3] == "0A" and int(row[1].split(":")[1], 16) == port]
    assert mine and all(address.startswith("0100007F") for address in mine)
