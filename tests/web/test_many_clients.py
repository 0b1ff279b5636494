"""Clients that hold on without asking for anything stop nobody else."""

from __future__ import annotations

import contextlib
import resource
import socket
from collections import Counter
from collections.abc import Iterator
from contextlib import ExitStack

import pytest
from client import Client

from ample_crate.web import front
from support import House


@pytest.fixture(scope="module")
def client(house: House) -> Client:
    return Client(house.address)


WAIT = 60.0  # seconds; whatever does not come by then never will


@pytest.fixture
def lines(house: House) -> Iterator[list[socket.socket]]:
    """Lines to the house, as many as one wants; all are closed at the end."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(4096, hard), hard))
    held: list[socket.socket] = []
    with ExitStack() as all_of_them:
        yield held
        for one in held:
            all_of_them.enter_context(contextlib.closing(one))
    resource.setrlimit(resource.RLIMIT_NOFILE, (soft, hard))


def said(house: House, lines: list[socket.socket], request: str) -> socket.socket:
    line = socket.create_connection(("127.0.0.1", int(house.crew.address.rpartition(":")[2])), timeout=WAIT)
    lines.append(line)
    line.sendall(request.replace("\n", "\r\n").encode())
    return line


def status(line: socket.socket) -> int:
    answer = line.recv(4096)
    return int(answer.split()[1]) if answer else 0


def test_a_thousand_idle_streams_stop_nobody(client: Client, house: House, lines: list[socket.socket]) -> None:
    streams = [said(house, lines, "GET /api/events HTTP/1.1\nHost: 127.0.0.1\n\n") for _ in range(1000)]
    answers = Counter(status(line) for line in streams)
    assert set(answers) == {200, 429} and 0 < answers[200] <= front.STREAMS, answers
    assert client.good("GET", "/api/health")["database"] == "here"
    assert "crates" in client.good("GET", "/api/floor")


def test_two_hundred_slow_bodies_stop_nobody(client: Client, house: House, lines: list[socket.socket]) -> None:
    for number in range(200):
        ask = "POST /api/crates" if number % 2 else "PATCH /api/uploads/0123456789abcdef01234567"
        said(house, lines, f"{ask} HTTP/1.1\nHost: 127.0.0.1\nContent-Type: application/json\nContent-Length: 900\n\n{{")
    assert client.good("GET", "/api/health")["database"] == "here"
    assert "crates" in client.good("GET", "/api/floor")


def test_one_client_cannot_hold_more_bodies_than_a_client_needs(client: Client, house: House, lines: list[socket.socket]) -> None:
    slow = "POST /api/crates HTTP/1.1\nHost: 127.0.0.1\nContent-Type: application/json\nContent-Length: 900\n\n{"
    held = [said(house, lines, slow) for _ in range(front.BODIES)]
    # Lines are taken one after the other, so that those before are counted when a later one is refused.
    refused = said(house, lines, slow)
    assert status(refused) == 429
    for line in held:
        line.close()

