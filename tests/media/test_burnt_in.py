"""What is burnt into a picture for review: where it is, what it leaves alone, which labels it
shows.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from av.video.frame import VideoFrame
from PIL import Image

from ample_crate.core.errors import BadValue
from ample_crate.core.facts.span import Span
from ample_crate.core.formats.pixels import RGB, Pixels
from ample_crate.core.planning.burn_in import BurnIn
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.segments import can_be_parted
from ample_crate.core.planning.streams import MadePicture
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops, planned, reference
from clips import Clip, plain
from conformance import Case, facts_of, make, plan_of, spec_for

GREY = (90, 90, 90)
SIZE = (320, 180)


def spec(**asked: str) -> Spec:
    rows = {"picture.codec": "ffv1", "file.wrapper": "mkv"}
    rows |= {
        key.replace("__", "-").replace("_", ".", 1).replace("-", "_"): value
        for key, value in asked.items()
    }
    head = {"id": "seen", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two seconds of grey."""
    clip = Clip(draw=plain(GREY, SIZE), frames=50, codec="ffv1", options={}, tones=None)
    return clip.write(tmp_path_factory.mktemp("seen") / "film.mkv")


def luma(frame: VideoFrame) -> np.ndarray:
    return frame.to_ndarray()[: frame.height].astype(np.int16)


def changed(one: np.ndarray, other: np.ndarray) -> tuple[slice, slice]:
    lines, columns = np.nonzero(np.abs(one - other) > 8)
    return slice(lines.min(), lines.max() + 1), slice(columns.min(), columns.max() + 1)


def test_each_stands_in_its_place_and_leaves_the_rest_alone(film: Path) -> None:
    asked = spec()
    bare = luma(planned.frame_of([str(film)], plan_of(film, asked, picture="encoded"), 10))

    def box(**choices: str) -> tuple[slice, slice]:
        plan = plan_of(film, asked, **choices)
        return changed(luma(planned.frame_of([str(film)], plan, 10)), bare)

    label, name = box(burn_in="timecode"), box(burn_in="name")
    mark = box(watermark="For review")
    assert label[0].start > 130 and label[0].stop < 176
    assert name[0].start > 4 and name[0].stop < 40
    assert mark[0].start > 60 and mark[0].stop < 120
    for found in (label, name, mark):
        middle = (found[1].start + found[1].stop) / 2
        assert middle == pytest.approx(SIZE[0] / 2, abs=6)


def test_white_on_a_dark_ground(film: Path) -> None:
    seen = luma(planned.frame_of([str(film)], plan_of(film, spec(), burn_in="timecode"), 0))
    assert seen.max() >= 230 and seen.min() < 60
    # No colour comes in.
    whole = planned.frame_of([str(film)], plan_of(film, spec(), burn_in="timecode"), 0)
    colour = whole.to_ndarray()[whole.height :].astype(np.int16)
    assert np.abs(colour - 128).max() <= 2


@pytest.mark.parametrize("scan", ["progressive", "interlaced"])
@pytest.mark.parametrize("leader", ["", "black 0.4 s"])
def test_what_is_shown_before_a_run_is_what_is_coded(
    film: Path, scan: str, leader: str, tmp_path: Path
) -> None:
    order = {"motion_field__order": "upper first"} if scan == "interlaced" else {}
    asked = spec(motion_scan=scan, **order)
    plan = plan_of(film, asked, burn_in="timecode, name", watermark="Draft", leader=leader)
    file = tmp_path / plan.outcome
    make(film, file, plan)
    found = ops.quality(file, [film], plan, ops.Control())
    assert found.frames == found.identical == plan.frames
    assert plan.picture is not None
    whole = list(reference.frames(plan.picture, plan, [str(film)]))
    for place in (plan.around.first, plan.around.first + 3, plan.frames - 1):
        one = planned.frame_of([str(film)], plan, place)
        assert (one.to_ndarray() == whole[place].to_ndarray()).all(), place
    first, next_one = whole[plan.around.first], whole[plan.around.first + 1]
    assert (first.to_ndarray() != next_one.to_ndarray()).any()


def test_labels_go_on_from_where_the_programme_begins(film: Path) -> None:
    held = facts_of(film).with_values("assumed", {"file.start_timecode": "10:00:00:00"})
    part = Item(span=Span(name="part", first=25, frames=20))
    choices = {"burn_in": "timecode", "leader": "black 1 s"}
    # Whether the file has a place for a timecode or not.
    for asked in (spec(), spec(file_wrapper="mov", picture_codec="prores")):
        route = plan_route(held, asked, choices, film.name, part)
        assert route.plan is not None
        picture = route.plan.picture
        assert isinstance(picture, MadePicture) and picture.burnt is not None
        burnt = picture.burnt
        assert burnt.label(0) == "10:00:01:00" and burnt.label(24) == "10:00:01:24"
        assert burnt.later(25).label(0) == "10:00:02:00"


def test_dropped_labels_are_skipped() -> None:
    rate = Fraction(30000, 1001)
    burnt = BurnIn(start=1798, rate=rate, drop=True)
    assert [burnt.label(n) for n in range(3)] == ["00:00:59;28", "00:00:59;29", "00:01:00;02"]


def test_it_needs_encoding_and_one_piece(tmp_path: Path) -> None:
    film = Clip(draw=plain(GREY, SIZE)).write(tmp_path / "film.mp4")
    any_file = Spec.model_validate(
        {
            "id": "any",
            "version": 1,
            "recipient": "pinfold",
            "title": "t",
            "requirements": [{"property": "file.wrapper", "rule": {"is": "mp4"}}],
        }
    )
    assert plan_of(film, any_file).picture.kind == "copied picture"  # type: ignore[union-attr]
    plan = plan_of(film, any_file, burn_in="name")
    assert plan.picture is not None and plan.picture.kind == "picture"
    assert not can_be_parted(plan)


@pytest.mark.parametrize(
    ("key", "value"), [("burn_in", "clock"), ("watermark", "x" * 61), ("burn_in", "name; timecode")]
)
def test_what_is_not_burnt_in_is_refused(film: Path, key: str, value: str) -> None:
    with pytest.raises(BadValue):
        plan_of(film, spec(), **{key: value})


def test_pictures_of_red_green_and_blue_are_left_alone(film: Path) -> None:
    asked = spec_for(Case("dpx", "", Pixels(RGB, 10), "image sequence"))
    route = plan_route(facts_of(film), asked, {"burn_in": "timecode"}, film.name)
    blocked = [c.what for c in route.cautions if c.blocks]
    assert route.plan is None
    assert blocked == ["Nothing is burnt into pictures of red, green and blue here."]


def test_a_still_shown_on_counts_on(tmp_path: Path) -> None:
    still = tmp_path / "still.png"
    Image.fromarray(np.full((180, 320, 3), GREY, np.uint8)).save(still)
    asked = spec(
        motion_rate="25", file_duration="1 s", picture_chroma="4:2:0", picture_bit__depth="8 bit"
    )
    plan = plan_of(still, asked, burn_in="timecode")
    assert plan.picture is not None
    whole = list(reference.frames(plan.picture, plan, [str(still)]))
    assert len(whole) == 25
    for place in (0, 7, 24):
        one = planned.frame_of([str(still)], plan, place)
        assert (one.to_ndarray() == whole[place].to_ndarray()).all(), place
    assert (whole[3].to_ndarray() != whole[4].to_ndarray()).any()
