"""Specs that do not ship, made here in a few lines: the route and the file follow the data, not the
code.
"""

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.media import ops
from ample_crate.work.deliver import Delivered, plan_or_refuse, run_route
from clips import luma_frames, moving_bar, plain

Make = Callable[..., Path]
Look = Callable[[Path], ops.Measured]


def asking(coding: dict[str, object] | None = None, **rules: object) -> Spec:
    """A spec for H.264 in MP4 in which "picture_size" stands for "picture.size"; a bare value means
    `is`.
    """
    usual: dict[str, object] = {
        "picture_codec": "h264",
        "file_wrapper": "mp4",
        "picture_size": "320x180",
    }
    rows = [
        {
            "property": key.replace("_", ".", 1),
            "rule": rule if isinstance(rule, dict) else {"is": rule},
        }
        for key, rule in (usual | rules).items()
    ]
    return Spec.model_validate(
        {
            "id": "made-here",
            "version": 1,
            "recipient": "someone",
            "title": "Made here",
            "requirements": rows,
            "coding": coding or {},
        }
    )


def make(master: Path, spec: Spec, out: Path, look: Look, **choices: object) -> Delivered:
    facts = look(master).facts
    route, _ = plan_or_refuse(facts, spec, choices, master.name)
    made = run_route([master], facts, spec, route, out)
    assert [f for f in made.findings if f.severity == "must" and f.verdict != "meets"] == []
    return made


def samples(path: Path) -> np.ndarray:
    with av.open(str(path)) as container:
        parts = []
        for frame in container.decode(audio=0):
            data = frame.to_ndarray()
            parts.append(
                data if frame.format.is_planar else data.reshape(-1, frame.layout.nb_channels).T
            )
    joined = np.concatenate(parts, axis=1).astype(np.float64)
    return joined / 32768 if np.abs(joined).max() > 4 else joined


@pytest.mark.parametrize(
    ("active", "aspect", "black"), [(720, Fraction(64, 45), 0), (704, Fraction(16, 11), 8)]
)
def test_each_convention_of_wide_sd(
    active: int, aspect: Fraction, black: int, clip: Make, tmp_path: Path, measured: Look
) -> None:
    """16:9 over 720 samples fills the line; over 704 it leaves eight black samples at either
    side.
    """
    master = clip("white.mp4", draw=plain((255, 255, 255), (1920, 1080)), frames=10)
    spec = asking(
        {"active_width": active},
        picture_size="720x576",
        picture_display_aspect={"between": ["16:9", "20:11"]},
    )
    if active == 704:
        spec = asking(
            {"active_width": active}, picture_size="720x576", picture_pixel_aspect="16:11"
        )
    made = make(master, spec, tmp_path, measured)
    assert made.facts.value("picture.pixel_aspect") == aspect
    line = luma_frames(made.path)[5][288]
    assert int((line[:20] < 60).sum()) == pytest.approx(black, abs=1) and int(
        (line[-20:] < 60).sum()
    ) == pytest.approx(black, abs=1)


@pytest.mark.parametrize("order", ["upper first", "lower first"])
def test_hd_fields_keep_or_turn_their_order(
    order: str, clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = clip(
        "small_fields.mp4", draw=moving_bar((640, 360), 220), frames=40, fields="upper first"
    )
    made = make(
        master,
        asking(
            picture_size="640x360",
            motion_scan="interlaced",
            motion_field_order=order,
            motion_rate=25,
        ),
        tmp_path,
        measured,
    )
    assert made.facts.fact("motion.field_order").measured == order
    assert made.facts.value("motion.lines") == order
    turned = any("turns from" in c.what for c in made.route.cautions)
    assert turned == (order == "lower first")


def test_fields_become_twice_as_many_frames_where_the_recipient_takes_them(
    clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = clip(
        "small_fields.mp4", draw=moving_bar((640, 360), 220), frames=40, fields="upper first"
    )
    made = make(
        master,
        asking(picture_size="640x360", motion_scan="progressive", motion_rate=50),
        tmp_path,
        measured,
    )
    assert (
        made.facts.value("motion.frames") == 80
        and made.facts.value("motion.lines") == "whole frames"
    )
    assert not any("Half of the master's motion" in c.what for c in made.route.cautions)


@pytest.mark.parametrize(
    ("have", "want", "frames"),
    [
        (Fraction(25), "30000/1001", 60),
        (Fraction(50), "25", 25),
        (Fraction(24), "25", 52),
        (Fraction(30), "30000/1001", 50),
    ],
)
def test_rates_are_brought_to_the_asked_one_in_the_same_time(
    have: Fraction, want: str, frames: int, clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = clip(f"rate{have}.mp4", rate=have, frames=50)
    made = make(master, asking(motion_rate=want, motion_steady=True), tmp_path, measured)
    assert made.facts.value("motion.rate") == Fraction(want)
    assert made.facts.value("motion.frames") == pytest.approx(frames, abs=1)
    assert abs(made.facts.value("file.duration") - Fraction(50) / have) <= Fraction(1, 24)
    assert abs(made.facts.value("sound.length_difference")) <= Fraction(1024, 48000)


def test_an_uneven_clock_is_evened(clip: Make, tmp_path: Path, measured: Look) -> None:
    stamps = [n + (n > 10) * 3 + (n > 20) for n in range(40)]
    master = clip("uneven40.mkv", frames=40, stamps=stamps, tones=None)
    made = make(master, asking(motion_rate=25, motion_steady=True), tmp_path, measured)
    assert made.facts.value("sound.tracks") == 0
    assert any("do not all last equally long" in c.what for c in made.route.cautions)
    assert made.facts.value("motion.frames") == pytest.approx(44, abs=2)


def test_mono_goes_to_both_channels(clip: Make, tmp_path: Path, measured: Look) -> None:
    master = clip(
        "mono.mov", tones=(440.0,), layout="mono", sound_codec="pcm_s16le", level=-12.0, frames=50
    )
    heard = samples(
        make(master, asking(sound_codec="aac", sound_layout="stereo"), tmp_path, measured).path
    )
    middle = np.abs(heard[:, 20000:60000]).max(axis=1)
    assert middle == pytest.approx([10 ** (-12 / 20)] * 2, rel=0.05)


def test_stereo_is_summed_at_half_each(clip: Make, tmp_path: Path, measured: Look) -> None:
    master = clip(
        "left.mov",
        sound=np.stack([_tone(440, 2), np.zeros(96000, np.float32)]),
        sound_codec="pcm_s16le",
        frames=50,
    )
    heard = samples(
        make(
            master,
            asking(sound_codec="pcm_s16le", sound_layout="mono", file_wrapper="mov"),
            tmp_path,
            measured,
        ).path
    )
    assert heard.shape[0] == 1
    assert np.abs(heard[0, 20000:60000]).max() == pytest.approx(0.25, rel=0.02)


def _tone(hertz: float, seconds: float) -> np.ndarray:
    return (0.5 * np.sin(2 * np.pi * hertz * np.arange(int(48000 * seconds)) / 48000)).astype(
        np.float32
    )


def test_folding_never_clips(clip: Make, tmp_path: Path, measured: Look) -> None:
    """Six channels at nearly full scale, in phase: folded they would reach 2.4; the limiter holds
    -1 dBFS.
    """
    loud = np.stack([1.9 * _tone(300, 2)] * 6)
    master = clip("loud.mov", sound=loud, layout="5.1", sound_codec="pcm_s24le", frames=50)
    heard = samples(
        make(
            master,
            asking(sound_codec="pcm_s16le", sound_layout="stereo", file_wrapper="mov"),
            tmp_path,
            measured,
        ).path
    )
    assert 0.7 < np.abs(heard[:, 10000:80000]).max() <= 10 ** (-1 / 20) * 1.02


def test_a_silent_track_is_as_long_as_the_picture(
    clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = clip("mute.mp4", tones=None, frames=37)
    made = make(
        master, asking(sound_codec="aac", sound_layout="stereo", sound_tracks=1), tmp_path, measured
    )
    assert np.abs(samples(made.path)).max() == 0
    assert abs(made.facts.value("sound.length_difference")) <= Fraction(1024, 48000)


def test_late_and_overlong_sound_is_brought_to_the_picture(
    clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = clip(
        "overlong.mov", sound=np.stack([_tone(500, 3)] * 2), sound_codec="pcm_s16le", frames=25
    )
    made = make(
        master,
        asking(
            sound_codec="pcm_s16le",
            file_wrapper="mov",
            sound_length_difference={"between": ["-1 ms", "1 ms"]},
        ),
        tmp_path,
        measured,
    )
    assert made.facts.value("sound.length_difference") == 0
    assert any(c.row == "sound.length_difference" for c in made.route.cautions)


def test_other_sample_rates_and_codecs(clip: Make, tmp_path: Path, measured: Look) -> None:
    master = clip("plain.mp4")
    made = make(
        master,
        asking(
            sound_codec="ac3",
            sound_sample_rate="44.1 kHz",
            sound_bit_rate={"is": "192 kb/s", "tolerance": "2 %"},
            file_wrapper="mov",
        ),
        tmp_path,
        measured,
    )
    assert made.facts.value("sound.sample_rate") == 44100


def test_full_range_is_brought_to_limited(clip: Make, tmp_path: Path, measured: Look) -> None:
    master = clip("full.mp4", draw=plain((255, 255, 255)), pixels="yuvj420p", frames=10)
    facts = measured(master).facts
    if facts.value("picture.range") != "full":
        facts = facts.with_values("assumed", {"picture.range": "full"})
    spec = asking(picture_range="limited")
    route, _ = plan_or_refuse(facts, spec, {}, "full.mp4")
    made = run_route([master], facts, spec, route, tmp_path)
    white = luma_frames(made.path)[5].mean()
    assert made.facts.value("picture.range") == "limited"
    assert white <= 236


@pytest.mark.parametrize(
    ("framing", "kept"), [("pad", 360 * 360), ("crop", 640 * 360), ("stretch", 640 * 360)]
)
def test_framing_of_a_square_master(
    framing: str, kept: int, clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = clip("square.mp4", draw=plain((250, 250, 250), (480, 480)), frames=8)
    made = make(
        master,
        asking(picture_size="640x360", picture_pixel_aspect="1:1"),
        tmp_path,
        measured,
        framing=framing,
    )
    white = int((luma_frames(made.path)[4] > 128).sum())
    assert white == pytest.approx(kept, rel=0.02)


def test_ten_bit_and_main_profile_are_made_when_asked(
    clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = clip("plain.mp4")
    ten = make(
        master, asking(picture_profile="high 10", picture_bit_depth=10), tmp_path / "ten", measured
    )
    assert ten.facts.value("picture.bit_depth") == 10
    assert any("10 bit is made from 8 bit" in c.what for c in ten.route.cautions)
    main = make(master, asking(picture_profile="main"), tmp_path / "main", measured)
    assert main.facts.value("picture.profile") == "main"


def test_mpeg2_with_long_gop_in_transport_packets(
    clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = clip("sd.mp4", draw=moving_bar((720, 576), 200), frames=50, aspect=Fraction(64, 45))
    spec = asking(
        picture_codec="mpeg2video",
        picture_profile_level="main@main",
        picture_size="720x576",
        picture_display_aspect="16:9",
        file_wrapper="mpeg-ts",
        motion_longest_gop={"at_most": 12},
        picture_bit_rate={"at_most": "8 Mb/s"},
        sound_codec="mp2",
    )
    made = make(master, spec, tmp_path, measured)
    assert (
        made.facts.value("picture.size") == Size(720, 576)
        and made.facts.value("motion.longest_gop") <= 12
    )


def test_the_level_asked_for_is_the_level_written(
    clip: Make, tmp_path: Path, measured: Look
) -> None:
    made = make(
        clip("plain.mp4"), asking(picture_level=3.1, picture_profile="high"), tmp_path, measured
    )
    assert made.facts.value("picture.level") == Fraction("3.1")
