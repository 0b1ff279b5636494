"""Clients that hold on without asking for anything stop nobody else."""

from __future__ import annotations

import asyncio
import contextlib
import resource
import socket
import threading
from collections import Counter
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import pytest
from client import Client

from ample_crate.web import front
from ample_crate.web.news import News
from support import Installation

WAIT = 60.0  # seconds; whatever does not come by then never will


@pytest.fixture
def lines(installation: Installation) -> Iterator[list[socket.socket]]:
    """Lines to the installation, as many as one wants; all are closed at the end."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(4096, hard), hard))
    held: list[socket.socket] = []
    with ExitStack() as all_of_them:
        yield held
        for one in held:
            all_of_them.enter_context(contextlib.closing(one))
    resource.setrlimit(resource.RLIMIT_NOFILE, (soft, hard))


def said(installation: Installation, lines: list[socket.socket], request: str) -> socket.socket:
    line = socket.create_connection(
        ("127.0.0.1", int(installation.pool.address.rpartition(":")[2])), timeout=WAIT
    )
    lines.append(line)
    line.sendall(request.replace("\n", "\r\n").encode())
    return line


def status(line: socket.socket) -> int:
    answer = line.recv(4096)
    return int(answer.split()[1]) if answer else 0


def test_a_thousand_idle_streams_stop_nobody(
    client: Client, installation: Installation, lines: list[socket.socket]
) -> None:
    streams = [
        said(installation, lines, "GET /api/events HTTP/1.1\nHost: 127.0.0.1\n\n")
        for _ in range(1000)
    ]
    answers = Counter(status(line) for line in streams)
    assert set(answers) == {200, 429} and 0 < answers[200] <= front.STREAMS, answers
    assert client.good("GET", "/api/health")["database"] == "here"
    assert "crates" in client.good("GET", "/api/floor")


def test_two_hundred_slow_bodies_stop_nobody(
    client: Client, installation: Installation, lines: list[socket.socket]
) -> None:
    for number in range(200):
        ask = "POST /api/crates" if number % 2 else "PATCH /api/uploads/0123456789abcdef01234567"
        said(
            installation,
            lines,
            f"{ask} HTTP/1.1\nHost: 127.0.0.1\nContent-Type: application/json\nContent-Length: "
            f"900\n\n{{",
        )
    assert client.good("GET", "/api/health")["database"] == "here"
    assert "crates" in client.good("GET", "/api/floor")


def test_one_client_cannot_hold_more_bodies_than_a_client_needs(
    client: Client, installation: Installation, lines: list[socket.socket]
) -> None:
    slow = (
        "POST /api/crates HTTP/1.1\nHost: 127.0.0.1\nContent-Type: "
        "application/json\nContent-Length: 900\n\n{"
    )
    held = [said(installation, lines, slow) for _ in range(front.BODIES)]
    # Lines are taken one after the other, so that those before are counted when a later one is
    # refused.
    refused = said(installation, lines, slow)
    assert status(refused) == 429
    for line in held:
        line.close()


def test_what_is_done_with_a_long_body_keeps_no_other_from_coming_in(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(front, "LONG_BODIES", 1)
    monkeypatch.setattr(front, "GATHERED", 1 << 16)
    here, go_on = threading.Semaphore(0), threading.Event()

    def works_long(environ: dict[str, Any], start_response: Any) -> list[bytes]:
        while environ["wsgi.input"].read(1 << 16):
            pass
        here.release()
        go_on.wait()
        start_response("200 OK", [])
        return [b"done"]

    async def file(server: front.Front) -> list[int]:
        pieces, statuses = iter(range(8)), list[int]()

        async def receive() -> dict[str, Any]:
            return {"type": "http.request", "body": bytes(1 << 16), "more_body": next(pieces) < 7}

        async def send(message: Any) -> None:
            statuses.extend([message["status"]] if "status" in message else [])

        scope = {
            "type": "http",
            "method": "POST",
            "path": "/api/trials",
            "query_string": b"",
            "headers": [],
            "http_version": "1.1",
            "scheme": "http",
        }
        await server(scope, receive, send)
        return statuses

    async def two() -> list[list[int]]:
        server = front.Front(works_long, News(""), tmp_path)
        asked = asyncio.gather(file(server), file(server))
        try:
            both = [await asyncio.to_thread(here.acquire, timeout=20) for _ in range(2)]
        finally:
            go_on.set()
        assert both == [True, True], "the second came in while the first was worked on"
        return await asked

    assert asyncio.run(two()) == [[200], [200]]
