"""What would help where a rate is too low, through the API: each way held against what is learned
once it is taken.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest
from chosen import choose, place_of
from client import Client
from held import held
from specs_here import document

from ample_crate.core.planning.ready import NO_PAST
from ample_crate.store.models import Deliverable
from ample_crate.store.studied import Easing
from ample_crate.work import easing
from ample_crate.work.reconcile import reconcile
from support import Installation

RATE = {"property": "picture.bit_rate", "rule": {"between": ["10 kb/s", "20 Mb/s"]}}
WRAPPER = {"property": "file.wrapper", "rule": {"is": "mp4"}}
CODEC = {"property": "picture.codec", "rule": {"is": "h264"}}
OPEN = [
    {"property": "picture.codec", "rule": {"one_of": ["h264", "hevc"]}},
    {"property": "picture.size", "rule": {"at_most": "1920x1080"}},
    {"property": "motion.rate", "rule": {"at_most": 60}},
    WRAPPER,
    RATE,
]
ENDED = {"done", "failed", "cancelled"}


@pytest.fixture(scope="module")
def specs(save_for_all: Callable[..., Any]) -> None:
    def rows(*all: dict[str, Any]) -> list[dict[str, Any]]:
        return [{**row, "source": "1"} for row in all]

    save_for_all(document("eased-open", requirements=rows(*OPEN)))
    save_for_all(document("eased-closed", requirements=rows(CODEC, WRAPPER, RATE)))


def item_of(client: Client, spec: str, master: Any) -> Any:
    crate = client.crate(spec, master["id"])
    one = crate["deliverables"][0]
    choose(client, one, "picture", "encoded")
    choose(client, one, "picture.bit_rate", "40 kb/s")
    return one | {"crate": crate["id"]}


@pytest.fixture
def item(client: Client, specs: None, tiny_master: Any) -> Any:
    return item_of(client, "eased-open", tiny_master)


def found_out(client: Client, item: Any, what: str) -> Any:
    path = f"{place_of(item)}/{what}"
    client.good("POST", path)
    found = client.until(path, lambda answer: answer["state"] in ENDED)
    assert found["state"] == "done", found["error"]
    return found


def test_each_way_gives_what_is_learned_once_it_is_taken(client: Client, item: Any) -> None:
    path = f"{place_of(item)}/easing"
    before = client.good("GET", path)
    assert (before["state"], before["ways"], len(before["offered"])) == ("none", [], 3)
    found = found_out(client, item, "easing")
    assert [way["kind"] for way in found["ways"]] == ["codec", "frame", "rate"]
    assert found["bit_rate"] == 40_000
    present = found_out(client, item, "hardness")["learned"]["planned"]
    by = {way["kind"]: way["xpsnr"] for way in found["ways"]}
    # Of so few and so small frames another codec is no help, and is shown so.
    assert by["codec"] < present["xpsnr"] < by["frame"] < by["rate"]
    for way in found["ways"]:
        choose(client, item, way["key"], way["value"])
        taken = found_out(client, item, "hardness")["learned"]
        assert taken["planned"]["bit_rate"] == pytest.approx(40_000, rel=0.01)
        assert way["xpsnr"] == pytest.approx(taken["planned"]["xpsnr"], abs=0.8)
        choose(client, item, way["key"], None)
    assert client.good("GET", path)["ways"] == found["ways"]


def test_what_was_found_is_of_its_plan(client: Client, item: Any) -> None:
    found_out(client, item, "easing")
    choose(client, item, "picture.bit_rate", "80 kb/s")
    other = client.good("GET", f"{place_of(item)}/easing")
    assert other["stale"] and other["ways"] == [] and other["bit_rate"] is None


def test_what_finished_runs_teach_is_counted(
    client: Client, installation: Installation, item: Any
) -> None:
    found_out(client, item, "easing")
    with installation.database.session() as session:
        one = session.get_one(Deliverable, item["id"])
        row, offered = easing.STUDY.of(session, one.id), easing.ways(one)
        taught = replace(NO_PAST, quality={offered[0].plan.effort: 2.0})
        plain, told = easing.found(row, one, offered), easing.found(row, one, offered, taught)
    assert plain is not None and told is not None
    off = [b.figures["xpsnr"] - a.figures["xpsnr"] for a, b in zip(plain[1], told[1], strict=True)]
    assert off == [pytest.approx(2.0), 0.0, 0.0]
    assert told[1][0].poor < plain[1][0].poor


def test_where_a_spec_leaves_no_room_that_is_said(
    client: Client, specs: None, tiny_master: Any
) -> None:
    item = item_of(client, "eased-closed", tiny_master)
    path = f"{place_of(item)}/easing"
    assert client.good("GET", path)["offered"] == []
    status, answer, _ = client.call("POST", path)
    assert status == 409 and "leaves no room for a smaller frame" in answer["detail"]


def test_one_that_goes_on_is_stopped(client: Client, installation: Installation, item: Any) -> None:
    path = f"{place_of(item)}/easing"
    status, answer, _ = client.call("POST", f"{path}/cancel")
    assert status == 409 and "going on" in answer["detail"]
    id = held(installation, easing.STUDY, item["id"], "easing")
    assert client.good("POST", f"{path}/cancel")["state"] == "stopping"
    easing.STUDY.carry_out(installation.database, installation.folders, id)
    assert client.good("GET", path)["state"] == "cancelled"


def test_one_whose_worker_was_lost_is_taken_up_again(
    client: Client, installation: Installation, item: Any
) -> None:
    with installation.database.session() as session:
        session.add(Easing(deliverable_id=item["id"], state="easing"))
    reconcile(installation.database, installation.folders)
    found = client.until(f"{place_of(item)}/easing", lambda answer: answer["state"] in ENDED)
    assert found["state"] == "done" and found["ways"]
