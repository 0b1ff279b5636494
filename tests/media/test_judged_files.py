"""Short real files judged by the shipped specs, where a wrapper or a detail of the stream is the
point.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.ledger import ledger
from ample_crate.media import ops
from ample_crate.store import library
from clips import Clip, moving_bar, plain
from tones import silence, sine, write
from wrappers import D10_RATE

Make = Callable[..., Path]
SMALL = moving_bar((320, 192), 120)


def verdicts(path: Path, id: str, *keys: str) -> dict[str, str]:
    spec = library.find(id)
    facts = ops.measure(path, depth=ops.depth_for(set(keys))).facts
    return {f.property: f.verdict for f in ledger(facts, spec) if f.property in keys}


FIELDS = {
    "fields": "upper first",
    "pixels": "yuv422p",
    "codec": "mpeg2video",
    "matrix": "smpte170m",
}


def test_d10_is_known_by_its_lines_and_its_even_weight(clip: Make, tmp_path: Path) -> None:
    """SMPTE ST 356: 720x608, 250 000 bytes in every frame at 50 Mb/s."""
    keys = (
        "picture.size",
        "picture.interval_lines",
        "picture.bit_rate",
        "picture.rate_deviation",
        "motion.intra_only",
        "motion.field_order",
        "file.wrapper",
    )
    rate = D10_RATE | {
        "b": "50000000",
        "maxrate": "50000000",
        "minrate": "50000000",
        "bufsize": "2000000",
        "rc_init_occupancy": "2000000",
    }
    good = Clip(
        draw=moving_bar((720, 608), 200), tones=None, frames=50, options=rate, **FIELDS
    ).write(tmp_path / "d10.mxf", "mxf_d10")  # type: ignore[arg-type]
    assert set(verdicts(good, "skerry-d10-625", *keys).values()) == {"meets"}
    plain_sd = clip(
        "judged_sd.mxf",
        draw=moving_bar((720, 576), 200),
        tones=None,
        frames=50,
        options={"b": "15000000", "g": "12", "bf": "2"},
        **FIELDS,
    )
    found = verdicts(plain_sd, "skerry-d10-625", *keys)
    assert {k for k, v in found.items() if v == "breaks"} == {
        "picture.size",
        "picture.interval_lines",
        "picture.bit_rate",
        "picture.rate_deviation",
        "motion.intra_only",
    }


def test_the_tag_that_players_look_for(tmp_path: Path) -> None:
    keys = ("picture.tag", "picture.codec", "picture.profile", "picture.bit_depth", "file.wrapper")
    found = {}
    for tag in ("hvc1", "hev1"):
        path = tmp_path / f"{tag}.mp4"
        with av.open(str(path), "w") as out:
            video = out.add_stream(
                "libx265", rate=25, options={"preset": "ultrafast", "x265-params": "log-level=none"}
            )
            video.width, video.height, video.pix_fmt = 320, 192, "yuv420p10le"
            video.codec_context.codec_tag = tag
            for number in range(5):
                frame = av.VideoFrame.from_ndarray(SMALL(number / 25), format="rgb24").reformat(
                    format="yuv420p10le"
                )
                frame.pts = number
                out.mux(video.encode(frame))
            out.mux(video.encode(None))
        found[tag] = verdicts(path, "owlery-uhd", *keys)
    assert set(found["hvc1"].values()) == {"meets"}
    assert {k for k, v in found["hev1"].items() if v != "meets"} == {"picture.tag"}


def test_the_index_in_front(tmp_path: Path, clip: Make) -> None:
    behind = clip("judged_behind.mp4", draw=SMALL, frames=10)
    front = tmp_path / "front.mp4"
    with (
        av.open(str(behind)) as source,
        av.open(str(front), "w", options={"movflags": "faststart"}) as out,
    ):
        streams = {s.index: out.add_stream_from_template(s) for s in source.streams}
        for packet in source.demux():
            if packet.dts is not None:
                packet.stream = streams[packet.stream.index]
                out.mux(packet)
    assert verdicts(front, "pinfold-720p", "file.index_in_front") == {
        "file.index_in_front": "meets"
    }
    assert verdicts(behind, "pinfold-720p", "file.index_in_front") == {
        "file.index_in_front": "breaks"
    }


@pytest.mark.parametrize(("clear", "use"), [(True, "meets"), (False, "advice")])
def test_transparency_that_is_in_use(clear: bool, use: str, tmp_path: Path) -> None:
    path = tmp_path / "layer.webm"
    with av.open(str(path), "w") as out:
        video = out.add_stream(
            "libvpx-vp9",
            rate=25,
            options={"deadline": "realtime", "cpu-used": "8", "auto-alt-ref": "0"},
        )
        video.width, video.height, video.pix_fmt = 320, 192, "yuva420p"
        for number in range(8):
            rgba = np.dstack([SMALL(number / 25), np.full((192, 320), 255, np.uint8)])
            if clear:
                rgba[:, :160, 3] = 0
            frame = av.VideoFrame.from_ndarray(rgba, format="rgba").reformat(format="yuva420p")
            frame.pts = number
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    found = verdicts(
        path,
        "tannery-stage",
        "picture.alpha",
        "picture.alpha_use",
        "picture.codec",
        "file.wrapper",
        "sound.tracks",
    )
    assert found == {
        "picture.alpha": "meets",
        "picture.alpha_use": use,
        "picture.codec": "meets",
        "file.wrapper": "meets",
        "sound.tracks": "meets",
    }


def test_mezzanines_are_told_apart_by_profile(clip: Make) -> None:
    keys = (
        "picture.codec",
        "picture.profile",
        "picture.size",
        "picture.display_aspect",
        "motion.field_order",
        "file.wrapper",
    )
    sd = moving_bar((720, 576), 200)
    hq = clip(
        "judged_hq.mov",
        draw=sd,
        codec="prores_ks",
        pixels="yuv422p10le",
        aspect=Fraction(64, 45),
        fields="upper first",
        frames=6,
        options={"profile": "3", "flags": "+ildct"},
        sound_codec="pcm_s24le",
        matrix="smpte170m",
    )
    assert set(verdicts(hq, "skerry-sd-mezzanine", *keys).values()) == {"meets"}
    assert verdicts(hq, "brackwater-scan", "picture.profile") == {"picture.profile": "breaks"}
    eggs = clip(
        "judged_eggs.mov",
        draw=sd,
        codec="prores_ks",
        pixels="yuv422p10le",
        frames=6,
        options={"profile": "2"},
        sound_codec="pcm_s24le",
    )
    found = verdicts(eggs, "skerry-sd-mezzanine", *keys)
    assert found["picture.profile"] == found["picture.display_aspect"] == "breaks"


def test_a_disc_stream_at_its_profile_and_level(tmp_path: Path) -> None:
    keys = (
        "picture.codec",
        "picture.profile_level",
        "picture.display_aspect",
        "picture.chroma",
        "motion.longest_gop",
        "file.wrapper",
        "sound.codec",
        "sound.sample_rate",
        "sound.bit_rate",
    )
    good = Clip(
        draw=moving_bar((720, 576), 200),
        codec="mpeg2video",
        aspect=Fraction(64, 45),
        sound_codec="ac3",
        frames=30,
        options={"b": "6000000", "maxrate": "9000000", "bufsize": "1835008", "g": "12"},
        matrix="smpte170m",
    ).write(tmp_path / "dvd.mpg", "vob")
    found = verdicts(good, "ostler-dvd-625", *keys)
    assert set(found.values()) == {"meets"}, found
    long = Clip(
        draw=moving_bar((720, 576), 200),
        codec="mpeg2video",
        aspect=Fraction(64, 45),
        sound_codec="mp2",
        frames=40,
        options={"b": "6000000", "g": "40", "sc_threshold": "1000000000"},
        matrix="smpte170m",
    ).write(tmp_path / "long.mpg", "vob")
    assert verdicts(long, "ostler-dvd-625", "motion.longest_gop") == {
        "motion.longest_gop": "breaks"
    }


def test_leader_and_black_are_measured_to_the_frame(tmp_path: Path) -> None:
    """Ten frames of black, then a slate that stands for twenty, then the film; six black ones at
    the end.
    """
    dark, slate = plain((0, 0, 0), (320, 192)), SMALL(0.5)

    def draw(time: float) -> np.ndarray:
        number = round(time * 25)
        return dark(time) if number < 10 or number >= 70 else slate if number < 30 else SMALL(time)

    path = Clip(draw=draw, frames=76, tones=None).write(tmp_path / "leader.mp4")
    facts = ops.measure(path, depth="everything").facts
    assert facts.value("motion.black_before") == Fraction(10, 25)
    assert facts.value("motion.black_after") == Fraction(6, 25)
    assert facts.value("motion.leader") == Fraction(30, 25)
    assert verdicts(path, "skerry-spot", "motion.leader", "file.duration") == {
        "motion.leader": "advice",
        "file.duration": "breaks",
    }
    straight = Clip(draw=SMALL, frames=30, tones=None).write(tmp_path / "straight.mp4")
    facts = ops.measure(straight, depth="everything").facts
    assert (
        facts.value("motion.leader")
        == facts.value("motion.black_before")
        == facts.value("motion.black_after")
        == 0
    )


def test_tone_before_and_short_term_loudness(tmp_path: Path) -> None:
    """EBU R 128 s1: a spot may be at -23 LUFS in all and still too loud for three seconds."""
    loud, soft = sine(-14.0, 4), sine(-40.0, 16)
    path = write(tmp_path / "spot.wav", [np.concatenate([loud, soft])] * 2)
    found = verdicts(path, "skerry-spot", "sound.max_short_term", "sound.true_peak")
    assert found == {"sound.max_short_term": "breaks", "sound.true_peak": "meets"}
    lined = write(
        tmp_path / "lined.wav",
        [
            np.concatenate(
                [sine(-18.0, 3), silence(1), np.random.default_rng(1).normal(0, 0.05, 96000)]
            )
        ]
        * 2,
    )
    assert ops.measure(lined, depth="everything").facts.value("sound.tone_before") == 3


@pytest.mark.parametrize(("left", "bars"), [(0, False), (4, False), (40, True)])
def test_bars_are_more_than_blanking(left: int, bars: bool, tmp_path: Path) -> None:
    def draw(time: float) -> np.ndarray:
        picture = np.maximum(SMALL(time), 60)
        if left:
            picture[:, :left] = 0
            picture[:, -left:] = 0
        return picture

    path = Clip(draw=draw, frames=12, tones=None).write(tmp_path / "bars.mp4")
    assert ops.measure(path, depth="everything").facts.value("picture.bars") is bars


def test_only_what_is_deep_needs_the_deep_measure(clip: Make) -> None:
    path = clip(
        "judged_deep.mov",
        draw=SMALL,
        codec="prores_ks",
        pixels="yuva444p10le",
        options={"profile": "4"},
        frames=40,
        sound_codec="pcm_s24le",
    )
    shallow, deep = ops.measure(path).facts, ops.measure(path, depth="everything").facts
    only_deep = {key for key, prop in PROPERTIES.items() if prop.depth == "everything"}
    assert set(deep) - set(shallow) <= only_deep
    assert not only_deep & set(shallow)
    assert (
        ops.depth_for({"picture.codec"}) == "ledger"
        and ops.depth_for({"picture.excursion"}) == "everything"
    )
