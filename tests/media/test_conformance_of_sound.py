"""Every sound codec, in every wrapper that it is put into, and alone."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
import pytest
from pymediainfo import MediaInfo

from ample_crate.core import formats
from ample_crate.core.formats.codec import SoundCodec
from ample_crate.core.formats.pixels import Pixels
from ample_crate.core.planning.plan import amount_of
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.loudspeakers import ANY, LAYOUTS
from ample_crate.core.units.values import Size
from ample_crate.media.measuring.sound_content import samples
from clips import Clip, moving_bar
from conformance import (
    Case,
    made_from,
    odd_ones,
    planned_from,
    spec_for,
    within_its_range,
)

NAMES = {
    "aac": "AAC",
    "ac3": "AC-3",
    "alac": "ALAC",
    "eac3": "E-AC-3",
    "flac": "FLAC",
    "mp2": "MPEG Audio",
    "mp3": "MPEG Audio",
    "opus": "Opus",
    "vorbis": "Vorbis",
} | {key: "PCM" for key in formats.SOUND if key.startswith("pcm_")}


class SoundCase(NamedTuple):
    """One kind of sound to make."""

    codec: str
    wrapper: str
    layout: str

    def __str__(self) -> str:
        return " ".join(self)


def sound_cases() -> Iterator[SoundCase]:
    made = {w for c in formats.made_picture().values() if c.made for w in c.made.wrappers}
    into = {w for w in made if not formats.WRAPPERS[w].kind_of}
    for key, codec in formats.made_sound().items():
        assert codec.made is not None
        for wrapper in sorted(into & formats.made_in(codec)):
            for channels in sorted(codec.made.channels):
                if fits(codec, wrapper, channels):
                    yield SoundCase(key, wrapper, ANY[channels])


def fits(codec: SoundCodec, wrapper: str, channels: int) -> bool:
    assert codec.made is not None
    most, places = formats.WRAPPERS[wrapper].channels, codec.made.eight_in
    return channels <= most and (channels != 8 or places is None or wrapper in places)


ALL = "1+2+3+4+5+6+7+8"
SMALL = Size(96, 64)  # of pictures, which are not what is looked at
SOUND_CASES = list(sound_cases())


@pytest.fixture(scope="module")
def surround(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A master with 7.1 in eight mono tracks."""
    sound = np.array([0.1 * np.sin(np.arange(48000) * (n + 1) * 0.03) for n in range(8)])
    clip = Clip(
        draw=moving_bar(SMALL),
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
        Case(codec, usual.usual, layout, case.wrapper, size=SMALL),
        **{"sound.codec": case.codec, "sound.layout": case.layout},
    )
    plan, predicted, _, measured = made_from(surround, spec, tmp_path, tracks=ALL)
    assert odd_ones(predicted, measured) == {} and measured.contradictions() == []
    assert [s.encoding.codec for s in plan.sounds] == [case.codec]
    within_its_range(plan, measured)


def test_71_in_aac_is_the_layout_that_it_is_called(surround: Path, tmp_path: Path) -> None:
    """ISO/IEC 14496-3, Table 1.19: 12 has two loudspeakers at the back, 7 has five in front."""
    _, _, file, measured = made_from(
        surround, alone(SoundCase("aac", "m4a", "7.1")), tmp_path, tracks=ALL
    )
    with av.open(str(file)) as container:
        configuration = container.streams.audio[0].codec_context.extradata
    assert int.from_bytes(configuration[:2]) >> 3 & 15 == 12
    assert measured.value("sound.speakers") == "FL FR FC LFE BL BR SL SR"
    (track,) = MediaInfo.parse(file).audio_tracks
    assert track.channel_positions == "Front: L C R, Back: L L R R, LFE"


def test_71_in_aac_is_refused_where_nothing_can_say_so(surround: Path, tmp_path: Path) -> None:
    with pytest.raises(AssertionError, match=r"no word for 7\.1 in AAC stream"):
        made_from(surround, alone(SoundCase("aac", "adts", "7.1")), tmp_path, tracks=ALL)


def alone_cases() -> Iterator[SoundCase]:
    for key, codec in formats.made_sound().items():
        assert codec.made is not None
        for wrapper in sorted(w for w in formats.made_in(codec) if not formats.WRAPPERS[w].picture):
            fitting = [n for n in codec.made.channels if fits(codec, wrapper, n)]
            yield from (SoundCase(key, wrapper, ANY[n]) for n in sorted(fitting))


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
    assert track.format == NAMES[case.codec] and track.channel_s == len(LAYOUTS[case.layout])
    hertz = min(formats.SOUND[case.codec].made.sample_rates)
    other = alone(case, **{"sound.sample_rate": hertz})
    _, predicted, _, measured = made_from(file, other, tmp_path / "other")
    assert odd_ones(predicted, measured) == {} and measured.value("sound.sample_rate") == hertz
    plan, predicted, copy, measured = planned_from(file, spec, tmp_path / "copy")
    assert plan.sounds[0].kind == "copied sound" and odd_ones(predicted, measured) == {}
    assert coded(copy) == coded(file)


def coded(path: Path) -> bytes:
    """Give the coded sound of a file."""
    with av.open(str(path)) as container:
        return b"".join(bytes(packet) for packet in container.demux(audio=0))


def alone(case: SoundCase, **more: Any) -> Spec:
    asked = {"file.wrapper": case.wrapper, "sound.codec": case.codec, "sound.layout": case.layout}
    rows = [{"property": key, "rule": {"is": value}} for key, value in (asked | more).items()]
    kept = {"id": "alone", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**kept, "requirements": rows})


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
        frames = [samples(f) for f in container.decode(audio=track)]
    found = []
    for channel in np.concatenate(frames, axis=1):
        spectrum = np.abs(np.fft.rfft(channel[:48000]))
        loudest = spectrum.argmax() if spectrum.max() else 0
        found.append(round(loudest / (0.03 / (2 * np.pi) * 48000)))
    return found
