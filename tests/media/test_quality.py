"""A finished file held against its master taken through the route."""

from collections.abc import Iterator
from fractions import Fraction
from io import BytesIO
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame

from ample_crate.core import quality
from ample_crate.core.errors import AmpleError, Refused
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.route import plan_route
from ample_crate.core.quality import Likeness
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops
from ample_crate.media.measuring.likeness import LikenessMeter
from clips import Clip, moving_bar
from conformance import facts_of

LOSSLESS = {"picture.codec": "ffv1", "file.wrapper": "mkv", "sound.tracks": 0}
SMALL = {"codec": "ffv1", "options": {}, "tones": None}


def asking(**asked: Any) -> Spec:
    """A spec that asks for a picture without loss and, with "_" for ".", for what is given."""
    wanted = LOSSLESS | {key.replace("_", ".", 1): value for key, value in asked.items()}
    rows = [{"property": key, "rule": {"is": value}} for key, value in wanted.items()]
    head = {"id": "quality", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**head, "requirements": rows})


def planned(master: Path, **asked: Any) -> Plan:
    plan = plan_route(facts_of(master), asking(**asked), {"picture": "encoded"}, "film").plan
    assert plan is not None
    return plan


def made(master: Path, folder: Path, **asked: Any) -> tuple[Path, Plan]:
    plan = planned(master, **asked)
    return ops.render([master], folder, plan, 10**7).path, plan


WAYS: dict[str, tuple[Clip, dict[str, Any]]] = {
    "smaller": (Clip(**SMALL), {"picture_size": "160x90"}),
    "fields to frames": (
        Clip(fields="upper first", frames=12, **SMALL),
        {"motion_scan": "progressive"},
    ),
    "frames to fields": (
        Clip(rate=Fraction(50), frames=24, **SMALL),
        {"motion_scan": "interlaced", "motion_field_order": "upper first", "motion_rate": "25"},
    ),
    "repeats": (Clip(frames=12, **SMALL), {"motion_rate": "30"}),
    "drops": (Clip(rate=Fraction(30), frames=12, **SMALL), {"motion_rate": "25"}),
    "bars": (Clip(draw=moving_bar((240, 180)), **SMALL), {"picture_size": "320x180"}),
    "another matrix": (Clip(**SMALL), {"picture_matrix": "BT.601", "picture_size": "720x576"}),
    "more bits": (Clip(**SMALL), {"picture_bit_depth": 10, "picture_chroma": "4:2:2"}),
    "upright": (Clip(rotation=90, frames=12, **(SMALL | {"codec": "libx264"})), {}),
}


@pytest.mark.parametrize("way", list(WAYS))
def test_what_a_route_changes_is_no_damage(way: str, tmp_path: Path) -> None:
    clip, asked = WAYS[way]
    master = clip.write(tmp_path / ("master.mp4" if clip.rotation else "master.mkv"))
    file, plan = made(master, tmp_path / "out", **asked)
    found = ops.quality(file, [master], plan)
    # Coded without loss: to the last sample the frames that the route gives.
    assert found.frames == found.identical == plan.frames and found.shift == 0
    assert quality.summary(found.curves)["psnr"] == {"mean": 100, "p5": 100, "worst": 100}
    assert not found.notes


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    clip = Clip(frames=80, draw=moving_bar(speed=97), **SMALL)
    return clip.write(tmp_path_factory.mktemp("quality") / "master.mkv")


def frames_of(path: Path) -> list[VideoFrame]:
    with av.open(str(path)) as container:
        return list(container.decode(video=0))


def rewritten(path: Path, frames: list[VideoFrame], rate: int = 25) -> Path:
    with av.open(str(path), "w") as container:
        stream = container.add_stream("ffv1", rate=rate)
        stream.width, stream.height = frames[0].width, frames[0].height
        stream.pix_fmt = frames[0].format.name
        for number, frame in enumerate(frames):
            frame.pts, frame.time_base = number, Fraction(1, rate)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def grey(frame: VideoFrame, luma: int) -> VideoFrame:
    flat = VideoFrame(frame.width, frame.height, frame.format.name)
    for number, plane in enumerate(flat.planes):
        plane.update(bytes([128 if number else luma]) * plane.buffer_size)
    return flat


def black(frames: list[VideoFrame], count: int) -> Iterator[VideoFrame]:
    for _ in range(count):
        yield grey(frames[0], 16)


def compared(master: Path, file: Path) -> Likeness:
    kept = {"picture_chroma": "4:2:0", "picture_bit_depth": 8, "picture_matrix": "BT.709"}
    plan = planned(master, **kept)
    return ops.quality(file, [master], plan)


@pytest.mark.parametrize("by", [5, -7, 130])
def test_frames_are_held_against_those_that_show_the_same(
    by: int, master: Path, tmp_path: Path
) -> None:
    frames = frames_of(master)
    shifted = [*black(frames, by), *frames] if by > 0 else frames[-by:]
    found = compared(master, rewritten(tmp_path / "shifted.mkv", shifted))
    assert found.shift == by and found.frames == found.identical == 80 + min(0, by)
    when = "later" if by > 0 else "earlier"
    assert f"begins {abs(by)} frames {when}" in found.notes[0]
    assert f"has {80 + by} frames; the route gives 80" in found.notes[1]


def test_the_worst_moment_is_where_the_damage_is(master: Path, tmp_path: Path) -> None:
    frames = frames_of(master)
    frames[41:44] = [grey(frame, 90) for frame in frames[41:44]]
    found = compared(master, rewritten(tmp_path / "hurt.mkv", frames))
    assert found.identical == 77 and found.shift == 0
    (worst,) = quality.moments(found, Fraction(25), None)
    assert worst["frame"] in {41, 42, 43} and worst["timecode"].startswith("00:00:01:1")
    assert worst["psnr"] < 30 and found.curves["psnr"][40] == 100


def test_another_film_is_said_to_be_one(master: Path, tmp_path: Path) -> None:
    frames = [grey(frame, 200 - number) for number, frame in enumerate(frames_of(master))]
    found = compared(master, rewritten(tmp_path / "other.mkv", frames))
    assert any("another film" in note for note in found.notes)


def test_what_cannot_be_the_routes_picture_is_refused(master: Path, tmp_path: Path) -> None:
    small = Clip(draw=moving_bar((160, 90)), **SMALL).write(tmp_path / "small.mkv")
    with pytest.raises(Refused, match="160x90; the route gives 320x180"):
        compared(master, small)
    slow = rewritten(tmp_path / "slow.mkv", frames_of(master), rate=24)
    with pytest.raises(Refused, match="24 frames a second; the route gives 25"):
        compared(master, slow)
    heard = tmp_path / "heard.wav"
    with av.open(str(heard), "w") as container:
        track = container.add_stream("pcm_s16le", rate=48000, layout="mono")
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 480), np.int16), "s16", "mono")
        frame.sample_rate, frame.pts = 48000, 0
        container.mux(track.encode(frame))
    with pytest.raises(AmpleError, match="no picture"):
        compared(master, heard)


def test_transparency_is_measured_by_itself() -> None:
    rng = np.random.default_rng(2)
    pictures = [rng.integers(0, 255, (64, 96, 4), np.uint8) for _ in range(4)]
    meter = LikenessMeter(Fraction(25))
    for number, picture in enumerate(pictures):
        hurt = picture.copy()
        hurt[..., 3] //= 2 if number == 2 else 1
        meter.take(*(VideoFrame.from_ndarray(one, format="rgba") for one in (picture, hurt)))
    curves = meter.curves()
    assert curves["psnr"] == [100] * 4 and meter.identical == 3
    assert [value < 20 for value in curves["alpha"]] == [False, False, True, False]


def scene(seed: int, size: tuple[int, int] = (320, 180)) -> list[VideoFrame]:
    """Draw a second of something rough that drifts before something smooth that turns."""
    width, height = size
    rng = np.random.default_rng(seed)
    grain = 2 ** rng.integers(0, 4)
    rough = rng.integers(0, 120, (height // grain + 1, width // grain + 1))
    rough = rough.repeat(grain, 0).repeat(grain, 1)[:height, :width] * rng.uniform(0.1, 1)
    (across, down), speed = rng.uniform(20, 80, 2), rng.integers(1, 6)
    y, x = np.mgrid[0:height, 0:width]
    frames = []
    for number in range(12):
        smooth = 60 + 40 * np.sin((x + 4 * number) / across + seed) * np.cos(y / down)
        luma = np.clip(smooth + np.roll(rough, speed * number, 1), 16, 235).astype(np.uint8)
        colour = np.full((height // 2, width), 128, np.uint8)
        frames.append(VideoFrame.from_ndarray(np.concatenate([luma, colour]), format="yuv420p"))
    return frames


def coded(frames: list[VideoFrame], quantiser: int) -> list[VideoFrame]:
    file = BytesIO()
    with av.open(file, "w", format="matroska") as container:
        options = {"crf": str(quantiser), "preset": "veryfast"}
        stream = container.add_stream("libx264", rate=25, options=options)
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"
        for number, frame in enumerate(frames):
            frame.pts, frame.time_base = number, Fraction(1, 25)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    file.seek(0)
    with av.open(file) as container:
        return list(container.decode(video=0))


def test_three_settings_are_told_apart_on_twenty_scenes() -> None:
    for seed in range(20):
        whole = scene(seed)
        means = []
        for quantiser in (20, 27, 34):
            meter = LikenessMeter(Fraction(25))
            for one, other in zip(whole, coded(whole, quantiser), strict=True):
                meter.take(one, other)
            means.append(quality.summary(meter.curves()))
        for key in quality.HEADLINE:
            values = [one[key]["mean"] for one in means]
            assert values == sorted(set(values), reverse=True), (seed, key)
