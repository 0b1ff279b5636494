"""A choice of the planning bench kept for the house, and taken by another crate."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from bench_page import chosen, to_bench
from client import Client
from page import Page
from specs_here import document, keeping

from clips import moving_bar
from support import Installation

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "320x320"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mp4"}, "source": "3"},
]


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture(scope="module")
def save(client: Client) -> Iterator[Callable[..., Any]]:
    yield from keeping(client)


def test_a_choice_is_kept_for_the_house(
    page: Page,
    installation: Installation,
    client: Client,
    save: Callable[..., Any],
    clip: Callable[..., Path],
) -> None:
    save(document("kept-for-the-house", requirements=ROWS))
    film = clip("kept.mp4", draw=moving_bar((640, 360)), frames=12)
    master = client.ingest(installation.folders.intake[0], film)["id"]
    early = client.crate("kept-for-the-house", master, title="Before")
    first = client.crate("kept-for-the-house", master, title="First")
    to_bench(page, first)
    page.press("2")
    page.wait(lambda: chosen(client, first) == {"framing": "crop"})
    page.click("Keep the framing for the house")
    page.sees("Kept in version 2 of the spec: new crates begin with it.")
    page.accessible()
    # One that is there already is told of the newer version, and takes it when it follows.
    client.good("POST", f"/api/crates/{early['id']}/spec", {"version": 2})
    page.go(f"/crates/{early['id']}")
    page.sees("The house begins with framing crop; it is otherwise here.")
    page.accessible()
    page.click("Choose as the house does")
    page.wait(lambda: chosen(client, early) == {"framing": "crop"})
    page.wait(lambda: "The house begins with" not in page.text())
    page.go("/specs/kept-for-the-house")
    page.sees("New crates begin with framing crop.")
    page.go("/specs/kept-for-the-house/edit?version=2")
    page.sees("new crates begin with")
    page.accessible()
    assert page.errors() == []
