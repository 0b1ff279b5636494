"""Levels brought within EBU R 103, and nothing else changed."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from av.video.frame import VideoFrame
from known import everything

from ample_crate.core.errors import Impossible
from ample_crate.core.facts import Facts
from ample_crate.core.planning.legal import plan_legal
from ample_crate.core.planning.notes import NOTHING
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.steps import PictureFormat
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops, planned, reference
from ample_crate.media.encoders.setup import pixels_of
from ample_crate.media.legalising import legalised
from bright import too_bright
from clips import Clip, moving_bar
from conformance import facts_of, made, plan_of

PAL = Fraction(25)
SIZE = (64, 32)


def format_of(chroma: str, depth: int, **more: Any) -> PictureFormat:
    width, height = SIZE
    return PictureFormat(width=width, height=height, rate=PAL, chroma=chroma, depth=depth, **more)


def planes(frame: VideoFrame, f: PictureFormat) -> list[np.ndarray]:
    kind = np.uint8 if f.depth <= 8 else np.uint16
    found = []
    for plane in frame.planes:
        rows = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size).view(kind)
        found.append(rows[: plane.height, : plane.width])
    return found


def filled(f: PictureFormat, values: list[np.ndarray]) -> VideoFrame:
    frame = VideoFrame(f.width, f.height, pixels_of(f))
    for plane, value in zip(planes(frame, f), values, strict=True):
        plane[:] = value
    return frame


def random_frame(f: PictureFormat, low: float, high: float) -> VideoFrame:
    rng = np.random.default_rng(3)
    most = 2**f.depth - 1
    frame = VideoFrame(f.width, f.height, pixels_of(f))
    for plane in planes(frame, f):
        plane[:] = rng.integers(round(low * most), round(high * most) + 1, plane.shape)
    return frame


def colours(frame: VideoFrame, f: PictureFormat) -> tuple[np.ndarray, np.ndarray]:
    """Give luma and R'G'B' by the equations of BT.709 and BT.601, each sample of colour standing
    for the luma beside it.
    """
    y, cb, cr = (p.astype(float) / 2 ** (f.depth - 8) for p in planes(frame, f))
    y = (y - 16) / 219
    fields = f.fields is not None and f.chroma == "4:2:0"

    def spread(plane: np.ndarray) -> np.ndarray:
        wide = np.repeat(plane, f.width // plane.shape[1], axis=1)
        if plane.shape[0] == f.height:
            return wide
        if not fields:
            return np.repeat(wide, 2, axis=0)
        whole = np.empty((f.height, f.width))
        for field in (0, 1):
            whole[field::2] = np.repeat(wide[field::2], 2, axis=0)
        return whole

    cb, cr = ((spread(c) - 128) / 224 for c in (cb, cr))
    red, blue = {"BT.709": (0.2126, 0.0722), "BT.601": (0.299, 0.114)}[f.matrix]
    r, b = y + 2 * (1 - red) * cr, y + 2 * (1 - blue) * cb
    g = (y - red * r - blue * b) / (1 - red - blue)
    return y, np.stack([r, g, b])


FORMATS = [
    format_of("4:2:0", 8),
    format_of("4:2:0", 8, fields="upper first"),
    format_of("4:2:2", 10),
    format_of("4:2:2", 10, fields="lower first", colour="BT.601/625"),
    format_of("4:4:4", 10),
    format_of("4:2:0", 10),
]


@pytest.mark.parametrize("f", FORMATS, ids=lambda f: f"{f.chroma} {f.depth} {f.fields}")
def test_whatever_comes_in_nothing_leaves_the_limits(f: PictureFormat) -> None:
    y, rgb = colours(legalised(random_frame(f, 0, 1), f), f)
    assert y.min() >= -0.012 and y.max() <= 1.032
    assert rgb.min() >= -0.05 and rgb.max() <= 1.05


@pytest.mark.parametrize("f", FORMATS, ids=lambda f: f"{f.chroma} {f.depth} {f.fields}")
def test_what_lies_within_stays_as_it_is(f: PictureFormat) -> None:
    # Greys and pale colours.
    frame = random_frame(f, 0.44, 0.56)
    before = [plane.copy() for plane in planes(frame, f)]
    after = planes(legalised(frame, f), f)
    assert all((a == b).all() for a, b in zip(before, after, strict=True))


def test_highlights_keep_their_order() -> None:
    f = format_of("4:4:4", 10)
    ramp = np.broadcast_to(np.linspace(64, 1019, f.width).astype(int), (f.height, f.width))
    grey = np.full((f.height, f.width), 512)
    luma = planes(legalised(filled(f, [ramp, grey, grey]), f), f)[0][0].astype(int)
    assert (np.diff(luma) >= 0).all()
    below = ramp[0] <= 64 + 0.98 * 876
    assert (luma[below] == ramp[0][below]).all() and luma[-1] < 64 + 1.03 * 876 < ramp[0][-1]


def spec(**asked: str) -> Spec:
    rows = {"picture.codec": "ffv1", "file.wrapper": "mkv", **asked}
    head = {"id": "legal", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A bar too bright for television, on a ground that is not."""
    bar = moving_bar()

    def draw(time: float) -> np.ndarray:
        return bar(time)

    clip = Clip(draw=draw, frames=25, codec="ffv1", options={}, tones=None)
    return clip.write(tmp_path_factory.mktemp("bright") / "film.mkv")


def test_what_is_shown_before_a_run_is_what_is_coded(film: Path, tmp_path: Path) -> None:
    plan = plan_of(film, spec(), levels="legal", burn_in="timecode")
    file = made(plan, film, tmp_path)
    found = ops.quality(file, [film], plan, ops.Control())
    assert found.frames == found.identical == plan.frames
    assert plan.picture is not None
    whole = list(reference.frames(plan.picture, plan, [str(film)]))
    for place in (0, 11, 24):
        one = planned.frame_of([str(film)], plan, place)
        assert (one.to_ndarray() == whole[place].to_ndarray()).all(), place


def test_a_film_that_was_too_bright_is_measured_within_limits(tmp_path: Path) -> None:
    master = too_bright(tmp_path / "bright.mkv")
    before = everything(master)
    assert float(before.facts.value("picture.excursion")) == pytest.approx(20, abs=2)
    facts = facts_of(master).with_values(
        "measured", {"picture.excursion": before.facts.value("picture.excursion")}
    )
    route = plan_route(facts, spec(), {"levels": "legal"}, master.name)
    assert route.plan is not None and route.plan.picture is not None
    assert "What is too bright or too colourful is changed." in [c.what for c in route.cautions]
    # Where nothing is done about it, that is said as far as a spec asks for it.
    least = spec(**{"picture.excursion": "1"})
    for asked, says in ((least, True), (spec(), False)):
        left = plan_route(facts, asked, {"picture": "encoded"}, master.name)
        assert ("Levels leave EBU R 103." in [c.what for c in left.cautions]) is says
    after = everything(made(route.plan, master, tmp_path))
    assert float(after.facts.value("picture.excursion")) == 0
    assert not [event for event in after.events if event.kind == "levels"]


@pytest.mark.parametrize(
    "f",
    [
        format_of("R'G'B'", 8),
        format_of("4:2:2", 10, transfer="PQ"),
        format_of("4:2:2", 10, full_range=True),
    ],
    ids=["R'G'B'", "PQ", "full range"],
)
def test_what_r_103_does_not_judge_is_left(f: PictureFormat) -> None:
    assert plan_legal("", f, Facts()) == ((), NOTHING)
    with pytest.raises(Impossible, match="EBU R 103"):
        plan_legal("legal", f, Facts())
