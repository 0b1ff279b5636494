"""A frame that is shown before it is made is, to the last sample, the one that the encoder gets."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any, get_args

import numpy as np
import pytest
from av.video.frame import VideoFrame

from ample_crate.core.formats.pixels import RGB
from ample_crate.core.planning import steps
from ample_crate.core.planning.plan import File, Input, Left, Plan
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.steps import PictureFormat, PictureStep
from ample_crate.core.planning.streams import MadePicture
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.fields import FieldOrder
from ample_crate.media import planned, reference
from clips import Clip, moving_bar, write_clear
from conformance import facts_of

UPPER, LOWER = FieldOrder.UPPER, FieldOrder.LOWER
PAL, NTSC, FILM = Fraction(25), Fraction(30000, 1001), Fraction(24)
F = PictureFormat(width=320, height=180, rate=PAL, chroma="4:2:0", depth=8)
CLEAR = F.having(chroma=RGB, alpha=True, full_range=True, width=64, height=48)
Way = tuple[PictureFormat, Sequence[Any]]
PLAIN = steps.Samples(chroma="4:2:0", depth=8)
# At least one way for each conversion there is, and those that look at several frames together.
WAYS: dict[str, Way] = {
    "smaller": (F, [steps.Scale(width=160, height=90)]),
    "a part": (F, [steps.Crop(x=8, y=4, width=200, height=100)]),
    "bars": (F, [steps.Pad(x=20, y=10, width=360, height=200)]),
    "lines above": (F, [steps.LinesAbove(lines=32)]),
    "another shape": (F, [steps.PixelAspect(aspect=Fraction(16, 15))]),
    "upright": (F, [steps.Turn(degrees=90)]),
    "another matrix": (F, [steps.Colour(to="BT.601/625")]),
    "fewer levels": (F.having(full_range=True), [steps.ToLimitedRange()]),
    "more levels": (F, [steps.ToFullRange()]),
    "more bits": (F, [steps.Samples(chroma="4:2:2", depth=10)]),
    "standard range": (
        F.having(colour="BT.2020", transfer="PQ", depth=8),
        [steps.ToneMap(transfer="PQ", peak=1000), steps.Samples(chroma="4:2:0", depth=10)],
    ),
    "over a checker": (CLEAR, [steps.Flatten(over="checker"), PLAIN]),
    "divided": (CLEAR, [steps.Unpremultiply(), steps.Flatten(over="black"), PLAIN]),
    "a frame of a frame": (F.having(fields=UPPER), [steps.Deinterlace(every_field=False)]),
    "a frame of a field": (F.having(fields=LOWER), [steps.Deinterlace(every_field=True)]),
    "film out of fields": (F.having(rate=NTSC, fields=UPPER), [steps.UndoPulldown()]),
    "film out of fields, retimed": (
        F.having(rate=NTSC, fields=LOWER),
        [steps.UndoPulldown(), steps.Retime(rate=PAL)],
    ),
    "film out of fields, in others": (
        F.having(rate=NTSC, fields=UPPER),
        [steps.UndoPulldown(), steps.Retime(rate=2 * PAL), steps.Interlace(first=UPPER)],
    ),
    "fields": (F.having(rate=2 * PAL), [steps.Interlace(first=UPPER)]),
    "segmented": (F, [steps.SegmentedFrames(first=UPPER)]),
    "repeats": (F.having(rate=FILM), [steps.Retime(rate=2 * NTSC)]),
    "drops": (F.having(rate=2 * NTSC), [steps.Retime(rate=PAL)]),
    "nearly alike": (F, [steps.Retime(rate=NTSC)]),
    "shown for long": (F, [steps.Hold(frames=40)]),
    "mixed": (F.having(rate=FILM), [steps.Blend(rate=PAL)]),
    "mixed of fields": (
        F.having(fields=UPPER),
        [steps.Deinterlace(every_field=True), steps.Blend(rate=2 * NTSC)],
    ),
    "followed": (F.having(rate=FILM), [steps.Compensate(rate=PAL)]),
    "followed to twice as many": (
        F,
        [steps.Scale(width=160, height=90), steps.Legalise(), steps.Compensate(rate=2 * PAL)],
    ),
    "legal": (F, [steps.Legalise()]),
    "legal, smaller and mixed": (
        F,
        [steps.Scale(width=160, height=90), steps.Legalise(), steps.Blend(rate=NTSC)],
    ),
    "turned by a line": (F.having(fields=UPPER), [steps.ShiftLine(first=LOWER)]),
    "fields of repeats": (
        F.having(rate=FILM),
        [steps.Retime(rate=2 * PAL), steps.Interlace(first=LOWER)],
    ),
    "fields to other fields": (
        F.having(fields=UPPER),
        [
            steps.Deinterlace(every_field=True),
            steps.Scale(width=160, height=90),
            steps.Retime(rate=2 * NTSC),
            steps.Interlace(first=LOWER),
        ],
    ),
}


def test_there_is_a_way_for_each_conversion() -> None:
    used = {type(step) for _, ordered in WAYS.values() for step in ordered}
    assert used == set(get_args(get_args(PictureStep)[0]))


@pytest.fixture(scope="module")
def encoding(tmp_path_factory: pytest.TempPathFactory) -> MadePicture:
    """Something to be made, of which the steps are put in another's place."""
    path = Clip(tones=None).write(tmp_path_factory.mktemp("usual") / "usual.mov")
    asked = {"picture.codec": "ffv1", "file.wrapper": "mkv", "sound.tracks": 0}
    rows = [{"property": key, "rule": {"is": value}} for key, value in asked.items()]
    head = {"id": "planned", "version": 1, "recipient": "pinfold", "title": "t"}
    spec = Spec.model_validate({**head, "requirements": rows})
    plan = plan_route(facts_of(path), spec, {"picture": "encoded"}, "film").plan
    assert plan is not None and isinstance(plan.picture, MadePicture)
    return plan.picture


def written(source: PictureFormat, folder: Path, frames: int = 26) -> Path:
    if source.alpha:
        rng = np.random.default_rng(4)
        shape = (source.height, source.width, 4)
        pictures = [rng.integers(0, 255, shape, np.uint8) for _ in range(frames)]
        return write_clear(folder / "clear.mov", pictures)
    order = None if source.fields is None else source.fields.value
    draw = moving_bar((source.width, source.height), speed=150)
    clip = Clip(draw=draw, rate=source.rate, frames=frames, fields=order, tones=None)
    return clip.write(folder / "film.mov")


def plan_of(made: MadePicture, way: Way, first: int, frames: int, clock: str = "even") -> Plan:
    source, ordered = way
    picture = made.model_copy(update={"source": source, "steps": tuple(ordered)})
    return Plan.model_validate(
        {
            "inputs": [Input(rate=source.rate, first=first, clock=clock)],
            "streams": [picture],
            "files": [File(name="film.mkv", wrapper="matroska", streams=(0,))],
            "seconds": frames / source.rate,
        }
    )


def samples(frame: VideoFrame) -> list[bytes]:
    """Every sample, line by line: what lies behind a line in memory is none."""
    bits = frame.format.components[0].bits
    lines = []
    for component, plane in zip(frame.format.components, frame.planes, strict=False):
        wide = component.width * (2 if bits > 8 else 1)
        rows = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
        lines.append(rows[: plane.height, :wide].tobytes())
    return lines


def compared(plan: Plan, master: Path) -> None:
    assert plan.picture is not None
    inputs = [str(master)]
    whole = list(reference.frames(plan.picture, plan, inputs))
    assert len(whole) == plan.frames
    for place in (0, 1, 2, 3, 5, 8, 11, len(whole) // 2, len(whole) - 2, len(whole) - 1):
        one = planned.frame_of(inputs, plan, min(place, len(whole) - 1))
        wanted = whole[min(place, len(whole) - 1)]
        assert one.format.name == wanted.format.name, place
        assert samples(one) == samples(wanted), place


@pytest.mark.parametrize("way", list(WAYS))
def test_every_conversion(way: str, encoding: MadePicture, tmp_path: Path) -> None:
    master = written(WAYS[way][0], tmp_path)
    frames = 40 if way == "shown for long" else 24
    compared(plan_of(encoding, WAYS[way], 0, frames), master)


RANGED = [
    "fields to other fields",
    "fields of repeats",
    "drops",
    "smaller",
    "film out of fields",
    "film out of fields, in others",
]


@pytest.mark.parametrize("way", RANGED)
@pytest.mark.parametrize("clock", ["even", "given"])
def test_within_a_range(way: str, clock: str, encoding: MadePicture, tmp_path: Path) -> None:
    master = written(WAYS[way][0], tmp_path)
    compared(plan_of(encoding, WAYS[way], 7, 14, clock), master)


@pytest.mark.parametrize("way", [*RANGED, "mixed", "a frame of a field"])
@pytest.mark.parametrize("clock", ["even", "given"])
def test_of_ranges_that_are_joined(
    way: str, clock: str, encoding: MadePicture, tmp_path: Path
) -> None:
    rate = WAYS[way][0].rate
    master = written(WAYS[way][0], tmp_path)
    plan = plan_of(encoding, WAYS[way], 3, 14, clock)
    left_out = tuple(Left(start=a / rate, seconds=n / rate) for a, n in ((6, 3), (11, 4)))
    taken = plan.inputs[0].model_copy(update={"left_out": left_out})
    assert [taken.frame(n) for n in range(6)] == [3, 4, 5, 9, 10, 15]
    assert [taken.place(n) for n in (3, 5, 6, 8, 9, 12, 15, 16)] == [0, 2, 3, 3, 3, 5, 5, 6]
    compared(plan.model_copy(update={"inputs": (taken,)}), master)


@pytest.mark.parametrize(("clock", "frames"), [("uneven", 30), ("given", 22)])
def test_where_frames_do_not_last_equally_long(
    clock: str, frames: int, encoding: MadePicture, tmp_path: Path
) -> None:
    stamps = [number + number // 3 for number in range(24)]
    clip = Clip(draw=moving_bar(speed=150), frames=24, tones=None, stamps=stamps)
    master = clip.write(tmp_path / "film.mp4")
    way = (F, [steps.Retime(rate=PAL if clock == "uneven" else NTSC)])
    compared(plan_of(encoding, way, 0, frames, clock), master)


def test_times_in_milliseconds(encoding: MadePicture, tmp_path: Path) -> None:
    # Rounded, a frame of 24 a second comes at another one of 59.94 than it would.
    source = F.having(rate=FILM)
    clip = Clip(draw=moving_bar(speed=150), rate=FILM, frames=26, tones=None)
    master = clip.write(tmp_path / "film.mkv")
    compared(plan_of(encoding, (source, [steps.Retime(rate=2 * NTSC)]), 0, 24), master)


@pytest.mark.parametrize(("frame", "place"), [(0, 0), (7, 0), (8, 2), (20, 26)])
def test_a_frame_of_the_master_is_found_in_what_is_made(
    frame: int, place: int, encoding: MadePicture
) -> None:
    plan = plan_of(encoding, (F, [steps.Retime(rate=2 * PAL)]), 7, 20)
    assert plan.place_of(frame) == place
