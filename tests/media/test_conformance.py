"""Everything that the registry says can be made is made: every picture codec, profile and layout
of samples into every wrapper it goes into, and every sound codec; progressive and in fields.

A second of moving picture is planned, made and measured. Every fact must be what was predicted;
bytes and rates must lie in the range that was stated. A second, independent reader is asked too.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import cache
from pathlib import Path

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame
from pymediainfo import MediaInfo

from ample_crate.core import formats
from ample_crate.core.formats.codec import PictureMaking
from ample_crate.core.formats.levels import Load
from ample_crate.core.formats.pixels import Pixels
from ample_crate.core.formats.wrapper import Wrapper
from ample_crate.core.planning.plan import amount_of
from ample_crate.media.measuring import second
from clips import Clip, moving_bar
from conformance import (
    SIZE,
    Case,
    cases,
    made_from,
    odd_ones,
    plain_sound,
    planned_from,
    seen,
    spec_for,
    within_its_range,
)

NAMES = {
    "av1": "AV1",
    "dnxhd": "VC-3",
    "dpx": "DPX",
    "dvvideo": "DV",
    "exr": "EXR",
    "ffv1": "FFV1",
    "h264": "AVC",
    "hap": "Hap",
    "hevc": "HEVC",
    "mjpeg": "JPEG",
    "mpeg1video": "MPEG Video",
    "mpeg2video": "MPEG Video",
    "png": "PNG",
    "prores": "ProRes",
    "r210": "RGB",
    "rawvideo": "YUV",
    "v210": "YUV",
    "tiff": "TIFF",
    "vp8": "VP8",
    "vp9": "VP9",
}
CASES = list(cases())


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("conformance")
    return Clip(draw=moving_bar(SIZE), frames=25).write(folder / "master.mov")


@pytest.fixture(scope="module")
def clear(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The same with transparency."""
    folder = tmp_path_factory.mktemp("clear")
    clip = Clip(draw=moving_bar(SIZE), frames=25, codec="qtrle", pixels="argb", options={})
    return clip.write(folder / "clear.mov")


@pytest.mark.parametrize("case", CASES, ids=str)
def test_what_is_made_is_what_was_predicted(
    case: Case, master: Path, clear: Path, tmp_path: Path
) -> None:
    more = asked_of_light(case)
    spec = spec_for(case, **more, **plain_sound(case.wrapper))
    source = (clear if case.pixels.alpha else master) if not more else light(case, tmp_path)
    plan, predicted, file, measured = made_from(source, spec, tmp_path)
    assert odd_ones(predicted, measured) == {} and measured.contradictions() == []
    second_opinion(case, file)
    size = amount_of(plan)
    assert size.least <= measured.value("file.size") <= size.most
    if not formats.WRAPPERS[case.wrapper].still:
        within_its_range(plan, measured)


def asked_of_light(case: Case) -> dict[str, str]:
    making = formats.PICTURE[case.codec].made
    return {"picture.transfer": "linear"} if making is not None and making.light else {}


def light(case: Case, folder: Path) -> Path:
    """Make a master whose code values are light itself."""
    folder.mkdir(exist_ok=True)
    pixels = "yuva444p10le" if case.pixels.alpha else "yuv444p10le"
    clip = Clip(
        draw=moving_bar(SIZE),
        frames=5,
        codec="ffv1",
        pixels=pixels,
        options={},
        transfer="linear",
        tones=None,
    )
    return clip.write(folder / "light.mkv")


def second_opinion(case: Case, file: Path) -> None:
    """Ask a reader that has nothing in common with the codec library."""
    tracks = list(second.tracks_of(str(file)))
    video = next(t for t in tracks if t.track_type in second.PICTURES)
    # It does not name what packs a TIFF.
    assert NAMES[case.codec] in (video.format or "TIFF")
    # Where lines lie above the picture, it tells the picture's too.
    assert (video.width, int(video.sampled_height or video.height)) == case.size
    clear = ":4" if case.pixels.alpha else ""
    chromas = {case.pixels.chroma, case.pixels.chroma + clear, None}
    assert video.chroma_subsampling in chromas
    scans = {"Progressive"} if case.fields is None else {"Interlaced", "MBAFF"}
    assert video.scan_type in scans | {None}
    silent = not formats.WRAPPERS[case.wrapper].sound
    assert [t.track_type for t in tracks].count("Audio") == (not silent)


def untimed(place: Wrapper) -> bool:
    """Say whether coded frames in a wrapper do not say when they are shown."""
    return place.still or place.bare


def rewraps() -> Iterator[tuple[Case, str]]:
    """List what is put into another wrapper: of each profile one file into every wrapper, and of
    the usual one a file of every wrapper.
    """
    for case in (c for c in CASES if not untimed(formats.WRAPPERS[c.wrapper])):
        making = formats.PICTURE[case.codec].made
        assert making is not None
        places = sorted(places_of(case, making))
        if case.wrapper == places[0] or case.profile == making.usual:
            yield from ((case, wrapper) for wrapper in places)


def _holds_streams(wrapper: str) -> bool:
    row = formats.WRAPPERS[wrapper]
    return not (row.kind_of or row.still)


def places_of(case: Case, making: PictureMaking) -> set[str]:
    """List the wrappers that coded frames of a case are put into."""
    away = making.whole_frames_in if case.fields else set()
    levels = formats.PICTURE[case.codec].levels
    for wrapper, untold in levels.untold.items() if levels is not None else ():
        level = levels.lowest(Load(case.size, case.rate), profile=case.profile)
        away |= {wrapper} if level is not None and level.name in untold else set()
    into = formats.PICTURE[case.codec].places(case.profile)
    kind = {w: formats.kind_of_wrapper(w, case.codec, case.size) for w in into}
    images = formats.WRAPPERS[case.wrapper].numbered
    alike = {w for w in kind if formats.WRAPPERS[w].numbered == images and _holds_streams(w)}
    return {w for w in alike if kind[w] in into} - away


@pytest.fixture(scope="module")
def made(
    master: Path, clear: Path, tmp_path_factory: pytest.TempPathFactory
) -> Callable[[Case], Path]:
    """Make a case once."""

    @cache
    def make(case: Case) -> Path:
        source, more = clear if case.pixels.alpha else master, asked_of_light(case)
        folder = tmp_path_factory.mktemp("made")
        if more:
            source = light(case, folder)
        spec = spec_for(case, **more, **plain_sound(case.wrapper))
        return made_from(source, spec, folder)[2]

    return make


@pytest.mark.parametrize(("case", "wrapper"), rewraps(), ids=str)
def test_a_copy_is_what_it_was(
    case: Case, wrapper: str, made: Callable[[Case], Path], tmp_path: Path
) -> None:
    """What meets its spec in all but the wrapper keeps its coded frames, picture by picture."""
    first = made(case)
    spec = spec_for(case._replace(wrapper=wrapper), **asked_of_light(case))
    plan, predicted, file, measured = planned_from(first, spec, tmp_path / "copy")
    assert plan.picture is not None and plan.picture.kind == "copied picture"
    assert odd_ones(predicted, measured) == {} and measured.contradictions() == []
    assert seen(file) == seen(first)
    second_opinion(case._replace(wrapper=wrapper), file)
    size = amount_of(plan)
    assert size.least <= measured.value("file.size") <= size.most


@pytest.mark.parametrize("fields", [None, "upper first"])
def test_transparency_comes_through_as_it_was(fields: str | None, tmp_path: Path) -> None:
    """A ramp of transparency from clear to opaque is there after the encode, to a level or two."""
    ramp = np.linspace(0, 255, SIZE.width).astype(np.uint8)[None].repeat(SIZE.height, 0)
    picture = np.dstack([moving_bar(SIZE)(0), ramp])
    master = tmp_path / "ramp.mov"
    with av.open(str(master), "w") as container:
        stream = container.add_stream("png", rate=25)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "rgba"
        for number in range(4):
            frame = VideoFrame.from_ndarray(picture, format="rgba")
            frame.pts = number
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    case = Case("prores", "4444", Pixels("4:4:4", 10, True), "mov", fields)
    _, _, file, measured = made_from(master, spec_for(case), tmp_path / "out")
    assert measured.value("picture.alpha") is True
    with av.open(str(file)) as container:
        made = next(container.decode(video=0))
    alpha = np.frombuffer(bytes(made.planes[3]), np.uint16).reshape(SIZE.height, -1)
    levels = alpha[:, : SIZE.width] / (2**12 - 1) * 255
    assert np.abs(levels - ramp).max() < 2


@pytest.mark.parametrize(
    "kind", [("prores", "hq", "mov"), ("mpeg2video", "4:2:2", "mxf")], ids=" ".join
)
@pytest.mark.parametrize(("rate", "start"), [("25", "09:58:00:00"), ("30000/1001", "10:00:00;02")])
def test_timecode_is_what_was_predicted(
    kind: tuple[str, str, str], rate: str, start: str, master: Path, tmp_path: Path
) -> None:
    codec, profile, wrapper = kind
    layout = formats.PICTURE[codec].layouts(profile)[0]
    case = Case(codec, profile, layout, wrapper, rate=Fraction(rate))
    spec = spec_for(case, **{"file.start_timecode": start})
    _, predicted, file, measured = made_from(master, spec, tmp_path)
    assert odd_ones(predicted, measured) == {}
    assert measured.value("file.start_timecode") == start
    times = [t for t in MediaInfo.parse(file).tracks if t.track_type == "Other"]
    assert {t.time_code_of_first_frame for t in times} == {start}
