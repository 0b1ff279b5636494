"""Everything that the registry says can be made is made: every picture codec, profile and layout
of samples into every wrapper it goes into, and every sound codec; progressive and in fields.

A second of moving picture is planned, made and measured. Every fact must be what was predicted;
bytes and rates must lie in the range that was stated. A second, independent reader is asked too.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame
from pymediainfo import MediaInfo

from ample_crate.core import formats
from ample_crate.core.facts import Facts
from ample_crate.core.facts.properties import lookup
from ample_crate.core.formats.codec import PictureCodec, Pixels
from ample_crate.core.formats.size import Amount
from ample_crate.core.planning.plan import Plan, amount_of
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.loudspeakers import LAYOUTS, USUAL
from ample_crate.core.units.values import Size
from ample_crate.media import render
from ample_crate.media.measuring import whole
from clips import Clip, moving_bar

SIZE = Size(320, 192)
NAMES = {
    "av1": "AV1",
    "h264": "AVC",
    "hevc": "HEVC",
    "mpeg2video": "MPEG Video",
    "prores": "ProRes",
    "vp8": "VP8",
    "vp9": "VP9",
}


class Case(NamedTuple):
    """One thing to make."""

    codec: str
    profile: str
    pixels: Pixels
    wrapper: str
    fields: str | None = None

    @property
    def depth(self) -> int:
        """Bits a sample as they are read."""
        profile = formats.PICTURE[self.codec].profile(self.profile)
        return self.pixels.depth if profile is None else profile.read_depth or self.pixels.depth

    def __str__(self) -> str:
        scan = "fields" if self.fields else "frames"
        clear = " alpha" if self.pixels.alpha else ""
        return f"{self.codec} {self.profile}{clear} {self.wrapper} {scan}"


def cases() -> Iterator[Case]:
    for key, codec in formats.made_picture().items():
        assert codec.made is not None
        for profile in [p.name for p in codec.profiles] or [""]:
            for pixels in codec.layouts(profile):
                for wrapper in sorted(codec.made.wrappers):
                    yield Case(key, profile, pixels, wrapper)
                    if coded_in_fields(codec, profile, wrapper):
                        yield Case(key, profile, pixels, wrapper, "upper first")


def coded_in_fields(codec: PictureCodec, name: str, wrapper: str) -> bool:
    """Say whether fields of a profile are put into a wrapper."""
    profile, making = codec.profile(name), codec.made
    assert making is not None
    able = making.fields and codec.interlaced and (profile is None or profile.fields)
    return able and wrapper not in making.whole_frames_in


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


def spec_for(case: Case, **more: Any) -> Spec:
    asked: dict[str, Any] = {
        "picture.codec": case.codec,
        "picture.profile": case.profile,
        "picture.size": str(SIZE),
        "file.wrapper": case.wrapper,
        "picture.alpha": case.pixels.alpha,
        "picture.chroma": case.pixels.chroma,
        "picture.bit_depth": case.depth,
    }
    if not case.profile:
        del asked["picture.profile"]
    if case.fields:
        asked |= {"motion.scan": "interlaced", "motion.field_order": case.fields}
    rows = [{"property": key, "rule": {"is": value}} for key, value in (asked | more).items()]
    return Spec.model_validate(
        {
            "id": "conformance",
            "version": 1,
            "recipient": "pinfold",
            "title": "t",
            "requirements": rows,
        }
    )


def ignored(progress: dict[str, Any]) -> None:
    """Take progress that nobody looks at."""


def measured_here(path: Path) -> Facts:
    """Measure in this process: a child for each of so many files takes longer than they do."""
    return Facts.from_json(whole.handle(ignored, str(path))["facts"])


@cache
def facts_of(master: Path) -> Facts:
    return measured_here(master)


def made_from(
    master: Path, spec: Spec, folder: Path, **choices: str
) -> tuple[Plan, Facts, Path, Facts]:
    """Plan, encode and measure: the plan, what was predicted, the file, what it is."""
    return planned_from(master, spec, folder, picture="encoded", sound="encoded", **choices)


def planned_from(
    master: Path, spec: Spec, folder: Path, **choices: str
) -> tuple[Plan, Facts, Path, Facts]:
    """Plan, make and measure, whether it is encoded or copied."""
    route = plan_route(facts_of(master), spec, choices, master.name)
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    folder.mkdir(exist_ok=True)
    file = folder / route.plan.files[0].name
    render.handle(ignored, [str(master)], [str(file)], route.plan.model_dump(mode="json"))
    return route.plan, route.facts, file, measured_here(file)


@pytest.mark.parametrize("case", CASES, ids=str)
def test_what_is_made_is_what_was_predicted(
    case: Case, master: Path, clear: Path, tmp_path: Path
) -> None:
    source = clear if case.pixels.alpha else master
    plan, predicted, file, measured = made_from(source, spec_for(case), tmp_path)
    assert odd_ones(predicted, measured) == {} and measured.contradictions() == []
    second_opinion(case, file)
    size = amount_of(plan)
    assert size.least <= file.stat().st_size <= size.most
    _within_its_range(plan, measured)


def odd_ones(predicted: Facts, measured: Facts) -> dict[str, Any]:
    """List what came out otherwise than predicted."""
    return {
        key: (fact.predicted, measured.value(key))
        for key, fact in predicted.items()
        if not _foreseen(key, fact.predicted, measured.value(key))
    }


def second_opinion(case: Case, file: Path) -> None:
    """Ask a reader that has nothing in common with the codec library."""
    tracks = MediaInfo.parse(file).tracks
    video = next(t for t in tracks if t.track_type == "Video")
    assert video.format == NAMES[case.codec]
    assert (video.width, video.height) == SIZE
    assert video.chroma_subsampling in (case.pixels.chroma, None)
    scans = {"Progressive"} if case.fields is None else {"Interlaced", "MBAFF"}
    assert video.scan_type in scans | {None}
    assert [t.track_type for t in tracks].count("Audio") == 1


def _foreseen(key: str, predicted: Any, measured: Any) -> bool:
    """Say whether a prediction held; figures about which something lands have a range of bytes."""
    how = lookup(key).predicted
    if how == "about":
        return measured is not None
    return measured <= predicted if how == "at most" else measured == predicted


def _within_its_range(plan: Plan, measured: Facts) -> None:
    picture = plan.picture
    assert picture is not None
    amount = picture.encoding.amount(picture.format, plan.frames)
    assert _holds(amount, measured, "picture.bit_rate", plan.seconds)
    for sound in plan.sounds:
        length = plan.seconds + (measured.fraction("sound.length_difference") or 0)
        amount = sound.encoding.amount(sound.format, plan.seconds)
        assert _holds(amount, measured, "sound.bit_rate", length)


def _holds(amount: Amount, measured: Facts, key: str, seconds: Fraction) -> bool:
    """Say whether a measured rate, which is rounded down to whole b/s, is within an amount."""
    rate = measured.fraction(key)
    assert rate is not None
    return amount.least <= (rate + 1) * seconds / 8 and rate * seconds / 8 <= amount.most


def rewraps() -> Iterator[tuple[Case, str]]:
    """List what is put into another wrapper: of each profile one file into every wrapper, and of
    the usual one a file of every wrapper.
    """
    for case in CASES:
        making = formats.PICTURE[case.codec].made
        assert making is not None
        places = sorted(making.wrappers - (making.whole_frames_in if case.fields else set()))
        if case.wrapper == places[0] or case.profile == making.usual:
            yield from ((case, wrapper) for wrapper in places)


@pytest.fixture(scope="module")
def made(
    master: Path, clear: Path, tmp_path_factory: pytest.TempPathFactory
) -> Callable[[Case], Path]:
    """Make a case once."""

    @cache
    def make(case: Case) -> Path:
        source = clear if case.pixels.alpha else master
        return made_from(source, spec_for(case), tmp_path_factory.mktemp("made"))[2]

    return make


@pytest.mark.parametrize(("case", "wrapper"), rewraps(), ids=str)
def test_a_copy_is_what_it_was(
    case: Case, wrapper: str, made: Callable[[Case], Path], tmp_path: Path
) -> None:
    """What meets its spec in all but the wrapper keeps its coded frames, picture by picture."""
    first = made(case)
    spec = spec_for(case._replace(wrapper=wrapper))
    plan, predicted, file, measured = planned_from(first, spec, tmp_path / "copy")
    assert plan.picture is not None and plan.picture.kind == "copied picture"
    assert odd_ones(predicted, measured) == {} and measured.contradictions() == []
    assert seen(file) == seen(first)
    second_opinion(case, file)
    size = amount_of(plan)
    assert size.least <= file.stat().st_size <= size.most


def seen(path: Path) -> str:
    """Sum up the decoded pictures of a file."""
    sums = hashlib.sha256()
    with av.open(str(path)) as container:
        for frame in container.decode(video=0):
            for plane in frame.planes:
                # What stands behind a line to its full length is no picture.
                lines = np.frombuffer(bytes(plane), np.uint8).reshape(-1, plane.line_size)
                deep = 2 if frame.format.components[0].bits > 8 else 1
                sums.update(lines[:, : plane.width * deep].tobytes())
    return sums.hexdigest()


class SoundCase(NamedTuple):
    """One kind of sound to make."""

    codec: str
    wrapper: str
    layout: str

    def __str__(self) -> str:
        return " ".join(self)


def sound_cases() -> Iterator[SoundCase]:
    into = {w for c in formats.made_picture().values() if c.made for w in c.made.wrappers}
    for key, codec in formats.made_sound().items():
        assert codec.made is not None
        for wrapper in sorted(into & formats.made_in(codec)):
            for channels in sorted(codec.made.channels):
                yield SoundCase(key, wrapper, USUAL[channels])


ALL = "1+2+3+4+5+6+7+8"
SOUND_CASES = list(sound_cases())


@pytest.fixture(scope="module")
def surround(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A master with 7.1 in eight mono tracks."""
    sound = np.array([0.1 * np.sin(np.arange(48000) * (n + 1) * 0.03) for n in range(8)])
    clip = Clip(
        draw=moving_bar(SIZE),
        frames=25,
        sound_codec="pcm_s24le",
        tracks=[("mono", one[None].astype(np.float32)) for one in sound],
    )
    return clip.write(tmp_path_factory.mktemp("surround") / "surround.mov")


@pytest.mark.parametrize("case", SOUND_CASES, ids=str)
def test_sound_that_is_made_is_what_was_predicted(
    case: SoundCase, surround: Path, tmp_path: Path
) -> None:
    pictures = formats.made_picture()
    codec = next(k for k, c in pictures.items() if c.made and case.wrapper in c.made.wrappers)
    usual = pictures[codec].made
    assert usual is not None
    layout = pictures[codec].layouts(usual.usual)[0]
    spec = spec_for(
        Case(codec, usual.usual, layout, case.wrapper),
        **{"sound.codec": case.codec, "sound.layout": case.layout},
    )
    plan, predicted, _, measured = made_from(surround, spec, tmp_path, tracks=ALL)
    assert odd_ones(predicted, measured) == {} and measured.contradictions() == []
    assert [s.encoding.codec for s in plan.sounds] == [case.codec]
    _within_its_range(plan, measured)


def alone_cases() -> Iterator[SoundCase]:
    for key, codec in formats.made_sound().items():
        assert codec.made is not None
        for wrapper in sorted(w for w in formats.made_in(codec) if not formats.WRAPPERS[w].picture):
            fitting = [n for n in codec.made.channels if n <= formats.WRAPPERS[wrapper].channels]
            yield from (SoundCase(key, wrapper, USUAL[n]) for n in sorted(fitting))


@pytest.mark.parametrize("case", alone_cases(), ids=str)
def test_sound_alone_is_what_was_predicted(case: SoundCase, surround: Path, tmp_path: Path) -> None:
    """From a master with picture, and again from the sound that was made: resampled, and copied."""
    spec = alone(case)
    plan, predicted, file, measured = made_from(surround, spec, tmp_path, tracks=ALL)
    assert odd_ones(predicted, measured) == {} and measured.contradictions() == []
    assert measured.value("picture.codec") is None and plan.frames == 0
    size = amount_of(plan)
    assert size.least <= file.stat().st_size <= size.most
    (track,) = [t for t in MediaInfo.parse(file).tracks if t.track_type == "Audio"]
    assert track.format == "PCM" and track.channel_s == len(LAYOUTS[case.layout])
    other = alone(case, **{"sound.sample_rate": 44100})
    _, predicted, _, measured = made_from(file, other, tmp_path / "other")
    assert odd_ones(predicted, measured) == {} and measured.value("sound.sample_rate") == 44100
    plan, predicted, copy, measured = planned_from(file, spec, tmp_path / "copy")
    assert plan.sounds[0].kind == "copied sound" and odd_ones(predicted, measured) == {}
    assert tones(copy, 0) == tones(file, 0)


def alone(case: SoundCase, **more: Any) -> Spec:
    asked = {"file.wrapper": case.wrapper, "sound.codec": case.codec, "sound.layout": case.layout}
    rows = [{"property": key, "rule": {"is": value}} for key, value in (asked | more).items()]
    kept = {"id": "alone", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**kept, "requirements": rows})


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


@pytest.mark.parametrize("wrapper", ["mov", "mxf"])
@pytest.mark.parametrize(("tracks", "layout"), [(8, "mono"), (4, "stereo"), (16, "mono")])
def test_several_tracks_hold_the_channels_in_their_order(
    tracks: int, layout: str, wrapper: str, surround: Path, tmp_path: Path
) -> None:
    case = Case("prores", "hq", Pixels("4:2:2", 10), wrapper)
    asked = {"sound.codec": "pcm_s24le", "sound.layout": layout, "sound.tracks": tracks}
    plan, predicted, file, measured = made_from(surround, spec_for(case, **asked), tmp_path)
    assert odd_ones(predicted, measured) == {} and measured.contradictions() == []
    size = amount_of(plan)
    assert size.least <= file.stat().st_size <= size.most
    heard = [tone for track in range(tracks) for tone in tones(file, track)]
    assert heard == [n + 1 if n < 8 else 0 for n in range(len(heard))]


def tones(path: Path, track: int) -> list[int]:
    """Tell the tone of each channel by its number in the master; 0 for silence."""
    with av.open(str(path)) as container:
        frames = [f.to_ndarray() for f in container.decode(audio=track)]
        count = container.streams.audio[track].codec_context.channels
    samples = np.concatenate(frames, axis=1).reshape(-1, count).T.astype(float)
    found = []
    for channel in samples:
        spectrum = np.abs(np.fft.rfft(channel[:48000]))
        loudest = spectrum.argmax() if spectrum.max() else 0
        found.append(round(loudest / (0.03 / (2 * np.pi) * 48000)))
    return found
