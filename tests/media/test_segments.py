"""A picture made in segments that are joined is what one encoder makes from end to end, byte by
byte.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ample_crate.core import formats
from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Span
from ample_crate.core.planning import segments
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media.read import open_media
from clips import Clip, Draw, moving_bar
from conformance import (
    SIZE,
    Case,
    cases,
    facts_of,
    make,
    measured_here,
    odd_ones,
    plain_sound,
    spec_for,
)

# Both write a number into each file that no other has.
NUMBERED = {"mxf", "matroska"}
COUNT = 3
HELD = {"dvvideo": (720, 576), "dnxhd": (960, 720)}  # the smallest of those that are fixed


def uneven(size: tuple[int, int] = SIZE) -> Draw:
    """A picture of which each frame is as hard to code as no other beside it."""
    bar = moving_bar(size)

    def draw(time: float) -> np.ndarray:
        number = round(time * 25)
        most = 12 * (number % 7)
        grain = np.random.default_rng(number).integers(-most, most + 1, (size[1], size[0], 3))
        return np.clip(bar(time).astype(np.int16) + grain, 0, 255).astype(np.uint8)

    return draw


def chosen() -> Iterator[Case]:
    """List what is made in segments: each profile in each wrapper, with and without fields and
    transparency.
    """
    seen = set[Any]()
    for case in cases():
        making = formats.PICTURE[case.codec].made
        assert making is not None
        key = case.codec, case.profile, case.wrapper, case.fields, case.pixels.alpha
        fits = case.size in {SIZE, HELD.get(case.codec)} and case.rate == 25
        place = formats.WRAPPERS[case.wrapper]
        if making.frames_alone and fits and not (place.still or place.numbered) and key not in seen:
            seen.add(key)
            yield case


CASES = list(chosen())


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return Clip(draw=uneven(), frames=25).write(tmp_path_factory.mktemp("whole") / "master.mov")


@pytest.fixture(scope="module")
def clear(tmp_path_factory: pytest.TempPathFactory) -> Path:
    clip = Clip(draw=uneven(), frames=25, codec="qtrle", pixels="argb", options={})
    return clip.write(tmp_path_factory.mktemp("clear") / "clear.mov")


def both(master: Path, plan: Plan, folder: Path, count: int = COUNT) -> tuple[Path, Path]:
    """Make a plan from end to end, and in segments that are joined."""
    assert segments.can_be_parted(plan)
    whole, joined, parts = (folder / name for name in ("whole", "joined", "parts"))
    for place in (whole, joined, parts):
        place.mkdir(parents=True)
    make(master, whole / plan.outcome, plan)
    made = []
    for part in segments.parted(plan, count):
        make(master, parts / part.outcome, part)
        made.append(parts / part.outcome)
    assert len(made) == count
    make(master, joined / plan.outcome, plan, segments=made)
    return whole / plan.outcome, joined / plan.outcome


def coded(path: Path) -> list[tuple[Any, ...]]:
    """List the packets of all streams."""
    with open_media(str(path)) as container:
        return [
            (p.stream.index, p.pts, p.dts, p.duration, p.is_keyframe, bytes(p))
            for p in container.demux()
        ]


def alike(one: Path, other: Path, wrapper: str) -> bool:
    if wrapper in NUMBERED:
        sizes = one.stat().st_size, other.stat().st_size
        return sizes[0] == sizes[1] and coded(one) == coded(other)
    return one.read_bytes() == other.read_bytes()


@pytest.mark.parametrize("case", CASES, ids=str)
def test_it_is_what_one_encoder_makes(
    case: Case, master: Path, clear: Path, tmp_path: Path
) -> None:
    source = clear if case.pixels.alpha else master
    chosen = {"picture": "encoded", "sound": "encoded"}
    spec = spec_for(case, **plain_sound(case.wrapper))
    route = plan_route(facts_of(source), spec, chosen, source.name)
    assert route.plan is not None
    whole, joined = both(source, route.plan, tmp_path)
    assert alike(whole, joined, case.wrapper)
    assert odd_ones(route.facts, measured_here(joined)) == {}


def test_every_codec_that_can_be_is_made_in_segments() -> None:
    assert {case.codec for case in CASES} == {
        "prores",
        "hap",
        "ffv1",
        "mjpeg",
        "dnxhd",
        "dvvideo",
    }


def planned(master: Path, asked: dict[str, Any], item: Item) -> Plan:
    rows = [{"property": key, "rule": {"is": value}, "source": key} for key, value in asked.items()]
    head = {"id": "one", "version": 1, "title": "One", "recipient": "Test Hall"}
    spec = Spec.model_validate(head | {"requirements": rows})
    facts: Facts = facts_of(master)
    chosen = {"picture": "encoded", "sound": "encoded"}
    route = plan_route(facts, spec, chosen, master.name, item)
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    return route.plan


SMALL = {"picture.codec": "prores", "file.wrapper": "mov", "picture.size": "160x90"}
LEANING = {
    "pictures that lean on later ones": Clip(
        draw=uneven((320, 180)),
        frames=600,
        sound_codec="pcm_s16le",
        options={"preset": "veryfast", "x264-params": "keyint=50:open-gop=1:bframes=3"},
    ),
    "fields": Clip(
        frames=400,
        sound_codec="pcm_s16le",
        fields="upper first",
        codec="mpeg2video",
        pixels="yuv422p",
        matrix="bt470bg",
        options={"b": "2M", "bf": "2", "g": "12", "flags": "+ildct+ilme"},
    ),
}


@pytest.mark.parametrize("kind", LEANING)
def test_masters_whose_frames_lean_on_others_are_cut_to_the_frame(
    kind: str, tmp_path: Path
) -> None:
    """Of a range, with another size, far enough in that segments are sought in the file."""
    master = LEANING[kind].write(tmp_path / "leaning.mov")
    asked = {"picture.codec": "prores", "file.wrapper": "mov", "sound.codec": "pcm_s16le"}
    kept = {"motion.scan": "interlaced", "motion.field_order": "upper first"}
    asked |= kept if kind == "fields" else {"picture.size": "160x90"}
    span = Span(name="most", first=7, frames=LEANING[kind].frames - 20)
    plan = planned(master, asked, Item(span=span))
    whole, joined = both(master, plan, tmp_path / "made", 5)
    assert whole.read_bytes() == joined.read_bytes()


def test_a_silent_master_gets_its_silence(tmp_path: Path) -> None:
    clip = Clip(frames=60, tones=None)
    master = clip.write(tmp_path / "silent.mov")
    silent = {"sound.codec": "pcm_s16le", "sound.layout": "stereo", "sound.tracks": 1}
    plan = planned(master, SMALL | silent, Item())
    assert plan.sounds
    whole, joined = both(master, plan, tmp_path / "made")
    assert whole.read_bytes() == joined.read_bytes()


def test_a_plan_that_looks_at_several_frames_is_not_parted(tmp_path: Path) -> None:
    master = LEANING["fields"].write(tmp_path / "fields.mov")
    asked = {"picture.codec": "prores", "file.wrapper": "mov", "motion.scan": "progressive"}
    plan = planned(master, asked, Item())
    assert not segments.can_be_parted(plan)
    slower = planned(master, SMALL | {"motion.rate": "50"}, Item())
    assert not segments.can_be_parted(slower)


def test_a_codec_that_keeps_to_a_rate_is_not_parted(master: Path) -> None:
    asked = {"picture.codec": "h264", "file.wrapper": "mp4"}
    assert not segments.can_be_parted(planned(master, asked, Item()))


def test_segments_are_even_and_leave_out_no_frame(master: Path) -> None:
    plan = planned(master, SMALL, Item())
    parts = segments.parted(plan, 7)
    firsts = [part.inputs[0].first for part in parts]
    counts = [part.frames for part in parts]
    assert sum(counts) == plan.frames and max(counts) - min(counts) <= 1
    assert firsts == [sum(counts[:n]) for n in range(7)]
    assert len(segments.parted(plan, 100)) == plan.frames // segments.LEAST_FRAMES
    assert sum((part.seconds for part in parts), Fraction(0)) == plan.seconds
