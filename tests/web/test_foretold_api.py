"""What was foretold of runs, held against what came, through the API."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from chosen import choose
from client import Client
from specs_here import document

ROWS = [
    {"property": "picture.codec", "rule": {"is": "mjpeg"}, "source": "1"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "2"},
]


@pytest.fixture(scope="module")
def spec(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("foretold-mjpeg", requirements=ROWS))
    return "foretold-mjpeg"


def run_of(client: Client, spec: str, master: int) -> Any:
    """Run a new crate to its end; give its run as it was held against what was foretold."""
    crate = client.crate(spec, master)
    choose(client, crate["deliverables"][0], "picture", "encoded")
    run = client.run_to_end(crate["id"])["deliverables"][0]["run"]
    held = client.good("GET", "/api/foretold")["runs"]
    return next(one for one in held if one["run"] == run["id"]) | {"bytes": run["size"]}


def test_a_run_teaches_the_next_of_the_same_pictures(
    client: Client, spec: str, tiny_master: Any
) -> None:
    first = run_of(client, spec, tiny_master["id"])
    assert first["size"]["came"] == first["bytes"] != first["size"]["foretold"]
    second = run_of(client, spec, tiny_master["id"])
    # The same pictures, coded alike, take the same: by how much the codec's own figure was off is
    # known by now.
    assert second["size"]["foretold"] == pytest.approx(second["size"]["came"], abs=1)
    assert second["time"]["came"] > 0 and second["time"]["foretold"] > 0
    kinds = client.good("GET", "/api/foretold")["kinds"]
    mine = next(kind for kind in kinds if kind["coded"] == first["coded"])
    assert mine["size"]["runs"] >= 2 and mine["size"]["worst"] >= mine["size"]["middle"]
    assert mine["quality"] is None


def test_a_crate_is_foretold_to_weigh_what_its_pictures_took_before(
    client: Client, spec: str, tiny_master: Any
) -> None:
    """The page of the crate counts with what is learned, not with the codec's own figure."""
    before = run_of(client, spec, tiny_master["id"])
    crate = client.crate(spec, tiny_master["id"])
    choose(client, crate["deliverables"][0], "picture", "encoded")
    page = client.good("GET", f"/api/crates/{crate['id']}")
    assert page["bytes"] == pytest.approx(before["size"]["came"], abs=1)
