"""What a rate buys, through the API: learned when asked, seen from the present plan, stopped,
refused, taken up again.
"""

from __future__ import annotations

from collections.abc import Callable
from io import BytesIO
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from chosen import choose, place_of
from client import Client
from held import held
from PIL import Image
from specs_here import document

from ample_crate.core.units.values import read_bit_rate
from ample_crate.store.studied import Sampling
from ample_crate.work import sampling
from ample_crate.work.reconcile import reconcile
from support import Installation

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "file.wrapper", "rule": {"is": "mp4"}, "source": "2"},
    {"property": "file.size", "rule": {"at_most": "200 kB"}, "source": "3"},
    {
        "property": "picture.bit_rate",
        "rule": {"between": ["10 kb/s", "20 Mb/s"]},
        "source": "4",
    },
]
ENDED = {"done", "failed", "cancelled"}
FIGURES = ("bit_rate", "size", "psnr", "ssim", "xpsnr")


@pytest.fixture(scope="module")
def specs(save_for_all: Callable[..., Any]) -> None:
    save_for_all(document("hard-h264", requirements=ROWS))
    save_for_all(
        document(
            "hard-prores",
            requirements=[
                {"property": "picture.codec", "rule": {"is": "prores"}, "source": "1"},
                {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "2"},
            ],
        )
    )


@pytest.fixture
def item(client: Client, specs: None, tiny_master: Any) -> Any:
    crate = client.crate("hard-h264", tiny_master["id"])
    one = crate["deliverables"][0]
    choose(client, one, "picture", "encoded")
    choose(client, one, "picture.bit_rate", "60 kb/s")
    return one | {"crate": crate["id"]}


def learned(client: Client, item: Any) -> Any:
    path = f"{place_of(item)}/hardness"
    client.good("POST", path)
    found = client.until(path, lambda answer: answer["state"] in ENDED)
    assert found["state"] == "done", found["error"]
    return found["learned"]


def test_what_a_rate_buys_is_learned_once(client: Client, item: Any) -> None:
    path = f"{place_of(item)}/hardness"
    before = client.good("GET", path)
    assert (before["state"], before["learned"], before["stale"]) == ("none", None, False)
    found = learned(client, item)
    for key in FIGURES:
        assert all(a[key] <= b[key] for a, b in pairwise(found["points"])), key
    assert all(point["make"] > 0 for point in found["points"])
    ready = client.good("GET", f"/api/crates/{item['crate']}")["ready"]
    assert found["planned"]["make"] == pytest.approx(ready["encode"])
    assert found["planned"]["bit_rate"] in [point["bit_rate"] for point in found["points"]]
    assert found["cap"]["size"] == pytest.approx(200_000, abs=2) and found["cap_of"]
    assert found["cap"]["bit_rate"] > found["planned"]["bit_rate"]
    assert found["allowed"] == [10_000, 20_000_000]
    assert found["short"] and found["hardest"] and found["sampled"]["of"] == item["frames"]


def test_a_hard_part_is_seen_as_it_comes_out(client: Client, item: Any) -> None:
    status, _, _ = client.call("GET", f"{place_of(item)}/coded/5?rate=60000")
    assert status == 404
    found = learned(client, item)
    part = found["hardest"][0]
    frame = part["first"] + part["frames"] // 2

    def seen(rate: int) -> np.ndarray:
        address = f"{place_of(item)}/coded/{frame}?rate={rate}&width=320"
        data = bytes(client.good("GET", address))
        return np.asarray(Image.open(BytesIO(data)).convert("L"), np.float64)

    before = bytes(client.good("GET", f"{place_of(item)}/planned-places/{frame}?width=320"))
    wanted = np.asarray(Image.open(BytesIO(before)).convert("L"), np.float64)
    planned = found["planned"]["bit_rate"]
    off = [float(np.abs(seen(rate) - wanted).mean()) for rate in (planned // 2, planned * 2)]
    assert off[1] < off[0]
    outside = part["first"] + 10_000
    status, problem, _ = client.call("GET", f"{place_of(item)}/coded/{outside}?rate=60000")
    assert status == 404 and "No part was looked at there" in problem["detail"]
    line = client.good("GET", f"/api/crates/{item['crate']}")["recipient"]["line_rate"]
    bits = found["planned"]["size"] * 8
    assert found["planned"]["send"] == pytest.approx(bits / read_bit_rate(line))


def test_it_holds_for_another_rate_and_not_for_another_picture(client: Client, item: Any) -> None:
    first = learned(client, item)
    path = f"{place_of(item)}/hardness"
    half = first["planned"]["bit_rate"] // 2
    choose(client, item, "picture.bit_rate", f"{half} b/s")
    then = client.good("GET", path)
    assert then["learned"]["planned"]["bit_rate"] == pytest.approx(half, rel=0.01)
    assert then["learned"]["planned"]["xpsnr"] < first["planned"]["xpsnr"]
    choose(client, item, "region", "160 x 90 + 0 + 0")
    other = client.good("GET", path)
    assert other["stale"] and other["learned"] is None
    choose(client, item, "region", None)
    assert client.good("GET", path)["learned"] == then["learned"]
    # What is burnt in, or set around it, changes nothing of what was learned of the programme.
    choose(client, item, "burn_in", "timecode")
    choose(client, item, "leader", "black 2 s")
    led = client.good("GET", path)["learned"]
    assert led["planned"]["xpsnr"] == then["learned"]["planned"]["xpsnr"]
    assert led["hardest"][0]["first"] > then["learned"]["hardest"][0]["first"]


def test_what_lies_far_from_what_was_tried_is_not_foretold(client: Client, item: Any) -> None:
    found = learned(client, item)
    least, most = found["tried"]
    assert found["planned"]["near"] and least < found["planned"]["bit_rate"] < most
    assert not found["cap"]["near"] and found["cap"]["bit_rate"] > 2 * most
    choose(client, item, "picture.bit_rate", "20 Mb/s")
    far = client.good("GET", f"{place_of(item)}/hardness")["learned"]
    assert not far["planned"]["near"] and far["points"] == []


def test_what_was_foretold_is_held_against_what_came_out(client: Client, item: Any) -> None:
    planned = learned(client, item)["planned"]
    crate = client.run_to_end(item["crate"])
    run = crate["deliverables"][0]["run"]["id"]
    path = f"/api/runs/{run}/quality"
    client.good("POST", path)
    found = client.until(path, lambda answer: answer["state"] in ENDED)
    by = {measure["key"]: measure for measure in found["measures"]}
    for key in ("psnr", "ssim", "xpsnr"):
        assert by[key]["foretold"] == pytest.approx(planned[key], abs=0.01)
    assert by["colour"]["foretold"] is None
    held = client.good("GET", "/api/foretold")["runs"]
    quality = next(one for one in held if one["run"] == run)["quality"]
    assert quality["foretold"] == pytest.approx(planned["xpsnr"], abs=0.01)
    assert quality["came"] == pytest.approx(by["xpsnr"]["mean"], abs=0.01)


def test_where_no_rate_is_set_that_is_said(client: Client, specs: None, tiny_master: Any) -> None:
    one = client.crate("hard-prores", tiny_master["id"])["deliverables"][0]
    path = f"{place_of(one)}/hardness"
    found = client.good("GET", path)
    assert "No rate is set" in found["hindrance"]["what"] and found["hindrance"]["way_out"]
    status, answer, _ = client.call("POST", path)
    assert status == 409 and "No rate is set" in answer["detail"]


def test_what_is_copied_keeps_its_rate(client: Client, item: Any) -> None:
    choose(client, item, "picture", None)
    choose(client, item, "picture.bit_rate", None)
    found = client.good("GET", f"{place_of(item)}/hardness")
    assert "is copied" in found["hindrance"]["what"]


def test_one_that_goes_on_is_stopped(client: Client, installation: Installation, item: Any) -> None:
    path = f"{place_of(item)}/hardness"
    status, answer, _ = client.call("POST", f"{path}/cancel")
    assert status == 409 and "No sampling is going on" in answer["detail"]
    id = held(installation, sampling.STUDY, item["id"], "sampling")
    assert client.good("POST", f"{path}/cancel")["state"] == "stopping"
    sampling.STUDY.carry_out(installation.database, installation.folders, id)
    assert client.good("GET", path)["state"] == "cancelled"


def test_one_whose_worker_was_lost_is_taken_up_again(
    client: Client, installation: Installation, item: Any
) -> None:
    with installation.database.session() as session:
        session.add(Sampling(deliverable_id=item["id"], state="sampling"))
    # Whichever worker looks first orders it.
    reconcile(installation.database, installation.folders)
    found = client.until(f"{place_of(item)}/hardness", lambda answer: answer["state"] in ENDED)
    assert found["state"] == "done" and found["learned"]


def test_one_that_cannot_be_done_says_why(
    client: Client, installation: Installation, item: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    id = held(installation, sampling.STUDY, item["id"], "waiting")

    def fails(*_: Any) -> None:
        raise OSError("the disk is gone")

    monkeypatch.setattr("ample_crate.work.sampling.hardness.learn", fails)
    sampling.STUDY.carry_out(installation.database, installation.folders, id)
    found = client.good("GET", f"{place_of(item)}/hardness")
    assert found["state"] == "failed" and found["error"]["what"]
