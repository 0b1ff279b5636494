"""Files that are tried on a spec, and specs that are drawn from files: nothing of them is kept."""

from __future__ import annotations

import json
import socket
import struct
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any
from urllib.parse import quote, urlsplit

from client import Client, soon
from specs_here import document

from ample_crate.web.front import GATHERED
from support import Installation


def look(client: Client, path: Path, query: str = "") -> list[dict[str, Any]]:
    request = urllib.request.Request(
        f"{client.address}/api/trials?name={quote(path.name)}{query}",
        path.read_bytes(),
        method="POST",
    )
    with urllib.request.urlopen(request, timeout=120) as answer:
        return [json.loads(line) for line in answer]


def left_over(installation: Installation) -> list[str]:
    return [p.name for p in installation.folders.uploads.iterdir() if p.name.startswith("look-")]


def test_a_file_is_tried_and_nothing_is_kept(
    client: Client, installation: Installation, hd_frames: Path
) -> None:
    before = client.good("GET", "/api/masters")["total"]
    lines = look(client, hd_frames, "&spec=tannery-list")
    assert any("progress" in line for line in lines)
    looked = lines[-1]["trial"]
    assert looked["verdict"] == "breaks"
    found = {f["property"]: f for f in looked["findings"]}
    assert (
        found["file.wrapper"]["verdict"] == "breaks"
        and "must be MOV" in found["file.wrapper"]["why"]
    )
    assert found["sound.layout"]["found"] == "5.1" and found["picture.size"]["verdict"] == "meets"
    assert client.good("GET", "/api/masters")["total"] == before and left_over(installation) == []


def test_a_file_larger_than_any_other_request_is_tried(
    client: Client, installation: Installation, tiny: Path, tmp_path: Path
) -> None:
    large = tmp_path / "large.mp4"
    # A box of nothing behind the film, which every reader steps over (ISO/IEC 14496-12, 8.1.2).
    large.write_bytes(
        tiny.read_bytes() + struct.pack(">I4s", 2 * GATHERED, b"free") + bytes(2 * GATHERED - 8)
    )
    looked = look(client, large, "&spec=tannery-list")[-1]["trial"]
    assert {f["property"]: f for f in looked["findings"]}["picture.codec"]["verdict"] == "meets"
    assert left_over(installation) == []


def test_a_file_they_accepted_becomes_rules_that_accept_it(
    client: Client, installation: Installation, tiny: Path, save: Callable[..., Any]
) -> None:
    looked = look(client, tiny)[-1]["trial"]
    rows = [p["row"] for p in looked["proposals"] if p["usual"]]
    assert {"picture.codec", "motion.rate", "file.wrapper"} <= {r["property"] for r in rows}
    save(document("as-accepted", requirements=rows))
    again = look(client, tiny, "&spec=as-accepted")[-1]["trial"]
    assert again["verdict"] == "meets", [f for f in again["findings"] if f["verdict"] != "meets"]
    assert left_over(installation) == []


def test_what_cannot_be_tried_says_why(
    client: Client, installation: Installation, tmp_path: Path
) -> None:
    words = tmp_path / "words.mp4"
    words.write_text("this is no film")
    assert look(client, words)[-1]["problem"]["what"]
    status, said, _ = client.call("POST", "/api/trials?name=empty.mp4", data=b"")
    assert status == 422 and "empty" in said["detail"]
    status, said, _ = client.call("POST", "/api/trials?name=x.mp4&spec=nothing", data=b"x")
    assert status == 404
    assert left_over(installation) == []


def test_a_reader_who_leaves_ends_the_work(
    client: Client, installation: Installation, hd_fast: Path
) -> None:
    parts, data = urlsplit(client.address), hd_fast.read_bytes()
    with socket.create_connection((parts.hostname, parts.port)) as line:
        head = (
            f"POST /api/trials?name=gone.mp4 HTTP/1.1\r\nHost: "
            f"{parts.netloc}\r\nContent-Length: {len(data)}\r\n\r\n"
        )
        line.sendall(head.encode() + data)
        assert line.recv(200).startswith(b"HTTP/1.1 200")
    assert soon(lambda: left_over(installation) == [])


def test_a_master_suggests_rules_too(client: Client, tiny_master: Any) -> None:
    made = client.good("GET", f"/api/specs/from-master/{tiny_master['id']}")
    assert {"picture.size", "sound.tracks"} <= {p["property"] for p in made["proposals"]}
