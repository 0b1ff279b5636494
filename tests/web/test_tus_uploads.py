"""Uploads in pieces, by the open protocol for them."""

import base64
import http.client
import time
from collections.abc import Callable
from email.message import Message
from pathlib import Path

from client import Client, soon

from support import Installation


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
    client: Client, installation: Installation, clip: Callable[..., Path]
) -> None:

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
    kept = list(installation.folders.masters.rglob("*.mp4"))
    assert any(p.read_bytes() == data for p in kept) and all(
        p.is_relative_to(installation.folders.masters) for p in kept
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
