"""Quality over time through the API: ordered, shown, stopped, taken up again, refused."""

from __future__ import annotations

from collections.abc import Callable
from io import BytesIO
from typing import Any

import numpy as np
import pytest
from client import Client
from PIL import Image
from specs_here import document
from sqlalchemy import select, text

from ample_crate.core.errors import Refused
from ample_crate.store.models import Master, Run
from ample_crate.store.studied import Comparison
from ample_crate.work import quality
from ample_crate.work.reconcile import reconcile
from support import Installation

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "160x90"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "3"},
    {"property": "picture.bit_rate", "rule": {"at_most": "200 kb/s"}, "source": "4"},
]
ENDED = {"done", "failed", "cancelled"}


@pytest.fixture(scope="module")
def item(client: Client, tiny_master: Any, save_for_all: Callable[..., Any]) -> Any:
    """A finished deliverable."""
    save_for_all(document("quality-h264", requirements=ROWS))
    crate = client.crate("quality-h264", tiny_master["id"])
    return client.run_to_end(crate["id"])["deliverables"][0]


@pytest.fixture
def path(item: Any) -> str:
    return f"/api/runs/{item['run']['id']}/quality"


def ended(client: Client, path: str) -> Any:
    return client.until(path, lambda answer: answer["state"] in ENDED)


def test_samples_are_told_with_their_values(client: Client, item: Any) -> None:
    run = item["run"]["id"]
    found = client.good("GET", f"/api/runs/{run}/samples/3?x=80&y=45")
    assert (found["width"], found["height"]) == (160, 90) and not found["interlaced"]
    assert (found["left"], found["top"]) == (72, 40)
    before, made = (np.array(side["values"]) for side in found["sides"])
    assert before.shape == made.shape == (10, 16, 3) and np.abs(before - made).max() < 80
    assert client.call("GET", f"/api/runs/{run}/samples/3?x=-1&y=0")[0] == 422
    assert client.call("GET", "/api/runs/999999/samples/3?x=1&y=0")[0] == 404


def picture(client: Client, path: str) -> np.ndarray:
    status, data, _ = client.call("GET", path)
    assert status == 200
    return np.asarray(Image.open(BytesIO(data)).convert("L"), float)


def test_a_difference_is_amplified_as_much_as_asked(client: Client, item: Any) -> None:
    at = f"/api/runs/{item['run']['id']}/differences/3?width=160"
    usual, more = picture(client, at), picture(client, f"{at}&gain=16")
    assert picture(client, f"{at}&gain=8").mean() == usual.mean()
    assert 0 < usual.mean() < more.mean() < 2.2 * usual.mean()
    assert client.call("GET", f"{at}&gain=0")[0] == 422


def test_one_field_or_the_matte_is_shown_alone(client: Client, item: Any) -> None:
    at = f"/api/runs/{item['run']['id']}"
    for what in ("frames", "route-frames", "master-frames"):
        plain = f"{at}/{what}/3?width=160"
        upper, lower = (picture(client, f"{plain}&field={one}") for one in ("upper", "lower"))
        assert upper.shape == lower.shape == (90, 160)
        assert 0 < np.abs(upper - lower).mean() < 20
        # What has no transparency is opaque all over.
        assert picture(client, f"{plain}&alpha=matte").min() > 250


def test_a_comparison_is_made_once_and_kept(client: Client, path: str, item: Any) -> None:
    assert client.good("GET", path)["state"] == "none"
    first = client.good("POST", path)
    again = client.good("POST", path)
    assert first["id"] == again["id"] or again["state"] == "done"
    found = ended(client, path)
    assert found["state"] == "done", found["error"]
    assert found["frames"] == 25 and found["each"] == 1 and found["first"] == 0
    by = {measure["key"]: measure for measure in found["measures"]}
    assert set(by) == {"psnr", "ssim", "xpsnr", "colour", "blocks", "gradients"}
    for measure in by.values():
        assert len(measure["curve"]) == 25 and measure["says"] and measure["source"]
        assert min(measure["curve"]) == pytest.approx(measure["worst"], abs=1e-3)
        assert measure["worst"] <= measure["p5"] <= measure["mean"]
    # A quarter of the samples at 200 kb/s: damage, but the same film.
    assert 25 < by["psnr"]["mean"] < 60 and found["identical"] == 0
    (moment,) = found["worst"]
    assert moment["figures"]["xpsnr"] == pytest.approx(by["xpsnr"]["worst"], abs=1e-3)
    assert moment["timecode"] == f"00:00:00:{moment['frame']:02d}"
    # What was found stays until it is asked for anew.
    client.good("POST", path)
    assert ended(client, path)["measures"] == found["measures"]


def row_of(installation: Installation, item: Any, **values: Any) -> int:
    """Put a comparison into a state, and give its number."""
    with installation.database.session() as session:
        where = select(Comparison).where(Comparison.run_id == item["run"]["id"])
        row = session.scalar(where) or Comparison(run_id=item["run"]["id"])
        for name, value in values.items():
            setattr(row, name, value)
        session.add(row)
        session.flush()
        return row.id


def test_one_whose_worker_was_lost_is_taken_up_again(
    client: Client, installation: Installation, path: str, item: Any
) -> None:
    id = row_of(installation, item, state="comparing", found=None, progress=None)
    # Whichever worker looks first orders it.
    reconcile(installation.database, installation.folders)
    found = ended(client, path)
    assert found["state"] == "done" and found["id"] == id and found["frames"] == 25


def test_one_that_waits_is_stopped_at_once(
    client: Client, installation: Installation, path: str, item: Any
) -> None:
    with installation.database.session() as session:
        run = session.get_one(Run, item["run"]["id"])
        made = quality.begin(session, run)
        quality.STUDY.stop(session, run.id)
        left = text(
            "select count(*) from procrastinate_jobs where task_name = 'ample:quality' "
            "and status = 'todo' and (args->>'id')::bigint = :id"
        )
        assert made.state == "cancelled" and session.scalar(left, {"id": made.id}) == 0
    status, said, _ = client.call("POST", f"{path}/cancel")
    assert status == 409 and "No comparison is going on" in said["detail"]


def test_one_that_is_being_stopped_comes_to_nothing(
    client: Client, installation: Installation, path: str, item: Any
) -> None:
    id = row_of(installation, item, state="comparing", found=None, progress=None)
    assert client.good("POST", f"{path}/cancel")["state"] == "stopping"
    quality.STUDY.carry_out(installation.database, installation.folders, id)
    found = client.good("GET", path)
    assert found["state"] == "cancelled" and found["measures"] == []


def test_what_cannot_be_compared_says_why(
    client: Client, installation: Installation, item: Any, path: str
) -> None:
    with installation.database.session() as session:
        run = session.get_one(Run, item["run"]["id"])
        master = session.get_one(Master, item["master"]["id"])
        known, master.sha256 = master.sha256, "0" * 64
        session.flush()
        with pytest.raises(Refused, match="another file than the one"):
            quality.begin(session, run)
        master.sha256, run.state = known, "failed"
        with pytest.raises(Refused, match="has made no file"):
            quality.begin(session, run)
        session.rollback()
    status, _, _ = client.call("POST", "/api/runs/999999/quality")
    assert status == 404
