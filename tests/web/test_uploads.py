"""The open tus protocol 1.0.0 (tus.io/protocols/resumable-upload), to the letter; section names are
its own.
"""

from __future__ import annotations

import base64
import hashlib
import http.client
import os
import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from email.message import Message
from email.utils import parsedate_to_datetime
from pathlib import Path
from typing import Any

import pytest
from client import Client, soon

from ample_crate.store.models import Master, Upload
from ample_crate.web.front import GATHERED
from ample_crate.work import arrivals
from support import Installation

Answer = tuple[int, Any, Message]


def tus(
    client: Client,
    method: str,
    path: str,
    data: bytes | None = None,
    version: str = "1.0.0",
    **headers: str,
) -> Answer:
    head = {"Content-Type": "application/offset+octet-stream", "Tus-Resumable": version}
    head |= {name.replace("_", "-"): value for name, value in headers.items()}
    return client.call(method, path, headers={k: v for k, v in head.items() if v}, data=data)


def begin(client: Client, length: int, name: str = "a.mp4") -> str:
    said = "filename " + base64.b64encode(name.encode()).decode() + ",is_confidential"
    status, _, head = tus(
        client, "POST", "/api/uploads", b"", Upload_Length=str(length), Upload_Metadata=said
    )
    assert status == 201 and head["Tus-Resumable"] == "1.0.0"
    return head["Location"]


def offset(client: Client, at: str) -> int:
    return int(tus(client, "HEAD", at)[2]["Upload-Offset"])


def test_options_says_what_is_spoken(client: Client) -> None:
    for path in ("/api/uploads", "/api/uploads/feedbeef"):
        status, _, head = client.call("OPTIONS", path, headers={"Content-Type": ""})
        assert (
            status == 204 and head["Tus-Version"] == "1.0.0" and int(head["Tus-Max-Size"]) > 10**12
        )
        assert set(head["Tus-Extension"].split(",")) == {
            "creation",
            "checksum",
            "expiration",
            "termination",
        }
        assert "sha1" in head["Tus-Checksum-Algorithm"].split(",")


@pytest.mark.parametrize("version", ["0.2.2", "2.0.0", ""])
@pytest.mark.parametrize("method", ["POST", "HEAD", "PATCH", "DELETE"])
def test_another_version_is_refused(client: Client, method: str, version: str) -> None:
    """Tus-Resumable: the server must answer 412 with Tus-Version, and must not process the
    request.
    """
    path = "/api/uploads" if method == "POST" else "/api/uploads/feedbeef"
    status, _, head = tus(
        client,
        method,
        path,
        None if method == "HEAD" else b"",
        version,
        Upload_Length="3",
        Upload_Offset="0",
    )
    assert status == 412 and head["Tus-Version"] == "1.0.0"


def test_head_gives_offset_length_metadata_and_is_not_cached(client: Client) -> None:
    at = begin(client, 10, "name.mp4")
    status, _, head = tus(client, "HEAD", at)
    assert status == 200 and head["Upload-Offset"] == "0" and head["Upload-Length"] == "10"
    assert head["Cache-Control"] == "no-store" and head["Upload-Metadata"].endswith(
        ",is_confidential"
    )
    left = parsedate_to_datetime(head["Upload-Expires"]) - datetime.now(UTC)
    assert timedelta(days=6) < left < timedelta(days=8)
    assert "Upload-Offset" not in tus(client, "HEAD", "/api/uploads/feedbeef")[2]
    assert tus(client, "DELETE", at)[0] == 204 and tus(client, "HEAD", at)[0] == 404


def test_a_method_can_be_meant(client: Client) -> None:
    """X-HTTP-Method-Override: the server must take its value for the request's method."""
    at = begin(client, 3)
    status, _, head = tus(
        client, "POST", at, b"abc", Upload_Offset="0", X_HTTP_Method_Override="PATCH"
    )
    assert status == 204 and head["Upload-Offset"] == "3"


def test_pieces_of_a_wrong_kind_place_or_length(client: Client) -> None:
    at = begin(client, 6)
    assert tus(client, "PATCH", at, b"abc", Upload_Offset="0", Content_Type="text/plain")[0] == 415
    assert tus(client, "PATCH", at, b"abc", Upload_Offset="3")[0] == 409
    assert tus(client, "PATCH", at, b"abcdefg", Upload_Offset="0")[0] == 413
    assert tus(client, "PATCH", at, b"abc", Upload_Offset="0")[2]["Upload-Offset"] == "3"
    assert tus(client, "PATCH", at, b"abc", Upload_Offset="0")[0] == 409
    assert offset(client, at) == 3
    tus(client, "DELETE", at)


def test_a_piece_whose_checksum_does_not_fit_is_not_kept(client: Client) -> None:
    at = begin(client, 6)
    good = {
        kind: base64.b64encode(hashlib.new(kind, b"abc").digest()).decode()
        for kind in ("sha1", "md5", "sha256")
    }
    status, said, _ = tus(
        client, "PATCH", at, b"abd", Upload_Offset="0", Upload_Checksum=f"sha1 {good['sha1']}"
    )
    assert status == 460 and said["way_out"] == "Send it again." and offset(client, at) == 0
    assert (
        tus(client, "PATCH", at, b"abc", Upload_Offset="0", Upload_Checksum="crc32 AAAA")[0] == 400
    )
    assert (
        tus(
            client,
            "PATCH",
            at,
            b"abc",
            Upload_Offset="0",
            Upload_Checksum=f"sha256 {good['sha256']}",
        )[0]
        == 204
    )
    assert offset(client, at) == 3
    tus(client, "DELETE", at)


def test_two_who_write_at_once_do_not_make_it_longer(
    client: Client, installation: Installation, clip: Callable[..., Path]
) -> None:
    data = clip("plain.mp4").read_bytes()
    at = begin(client, len(data), "once.mp4")
    answers: list[int] = []

    def send() -> None:
        answers.append(tus(client, "PATCH", at, data, Upload_Offset="0")[0])

    threads = [threading.Thread(target=send) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert answers.count(204) == 1 and set(answers) <= {204, 409, 423}
    with installation.database.session() as session:
        id = session.get(Upload, at.rsplit("/", 1)[1]).master_id
        path = Path(session.get(Master, id).path)
    assert path.read_bytes() == data
    # What is finished grows no more.
    assert tus(client, "PATCH", at, data, Upload_Offset="0")[0] == 409
    assert tus(client, "PATCH", at, b"more", Upload_Offset=str(len(data)))[0] == 413
    assert tus(client, "PATCH", at, b"", Upload_Offset=str(len(data)))[0] == 204
    assert path.read_bytes() == data and offset(client, at) == len(data)


def test_who_holds_the_part_keeps_others_off(client: Client, installation: Installation) -> None:
    # Long enough that it goes to the application while it is still coming in.
    sent = GATHERED + 3
    at = begin(client, sent + 7)
    line = http.client.HTTPConnection(client.address.removeprefix("http://"))
    line.putrequest("PATCH", at)
    for name, value in {
        "Tus-Resumable": "1.0.0",
        "Upload-Offset": "0",
        "Content-Type": "application/offset+octet-stream",
        "Content-Length": str(sent + 7),
    }.items():
        line.putheader(name, value)
    line.endheaders()
    line.send(b"a" * sent)
    part = arrivals.part(installation.folders, at.rsplit("/", 1)[1])
    # Who asks before the first bytes are written could hold the part in that very moment.
    assert soon(lambda: part.stat().st_size > 0)
    status, said, _ = tus(client, "PATCH", at, b"", Upload_Offset="99")
    assert status == 423 and "coming in" in said["detail"]
    line.close()
    # The line has dropped: what came is kept, and another may go on.
    assert soon(lambda: tus(client, "PATCH", at, b"", Upload_Offset="99")[0] == 409)
    assert offset(client, at) == sent
    tus(client, "DELETE", at)


def test_an_upload_cut_off_at_its_end_becomes_a_master_all_the_same(
    client: Client, installation: Installation, clip: Callable[..., Path]
) -> None:
    """A crash after the last byte, before the master was made: nobody sends a piece any more."""
    data = clip("plain.mp4").read_bytes()
    at = begin(client, len(data), "cut off.mp4")
    id = at.rsplit("/", 1)[1]
    arrivals.part(installation.folders, id).write_bytes(data)

    def master() -> int | None:
        with installation.database.session() as session:
            return session.get(Upload, id).master_id

    assert soon(lambda: master() is not None)
    assert (
        client.until(f"/api/masters/{master()}", lambda m: m["state"] == "ready")["name"]
        == "cut off.mp4"
    )


def test_what_nobody_goes_on_with_is_cleared_away(
    client: Client, installation: Installation
) -> None:
    old, new = begin(client, 10), begin(client, 10)
    part = arrivals.part(installation.folders, old.rsplit("/", 1)[1])
    long_ago = time.time() - arrivals.KEPT.total_seconds() - 60
    os.utime(part, (long_ago, long_ago))

    def cleared() -> bool:
        # Its own housekeeping may be at it in this very moment, and hold the row.
        with installation.database.session() as session:
            arrivals.expire(session, installation.folders, datetime.now(UTC))
        return tus(client, "HEAD", old)[0] == 404 and not part.exists()

    assert soon(cleared)
    assert tus(client, "HEAD", new)[0] == 200
    tus(client, "DELETE", new)


def test_odd_beginnings(client: Client) -> None:
    for length in ("-1", "1.5", "²", "", "9" * 40):
        status, said, _ = tus(
            client,
            "POST",
            "/api/uploads",
            b"",
            Upload_Length=length,
            Upload_Metadata="filename YQ==",
        )
        assert status in {400, 413} and said["way_out"], length
    assert (
        tus(
            client,
            "POST",
            "/api/uploads",
            b"",
            Upload_Length="3",
            Upload_Metadata="filename " + "A" * 5000,
        )[0]
        == 400
    )
    assert (
        tus(client, "POST", "/api/uploads", b"", Upload_Length="3", Upload_Metadata="filename *")[0]
        == 422
    )
