"""Everything that is measured, on files whose truth is known to the frame and the sample."""

import itertools
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from known import SMALL, everything, found, scene

from ample_crate.media import ops
from bright import too_bright
from clips import Clip, moving_bar
from tones import RATE, silence, sine, write


def test_black_and_standstill_are_found_to_the_frame(tmp_path: Path) -> None:
    path = Clip(draw=scene((30, 41), (60, 89)), frames=110, tones=None).write(tmp_path / "a.mp4")
    made = everything(path)
    assert found(made.events, "black") == [(30, 41)]
    assert found(made.events, "frozen") == [(60, 89)]
    assert made.facts.value("motion.black") == Fraction(12, 25) and made.facts.value(
        "motion.frozen"
    ) == Fraction(30, 25)
    assert made.facts.value("motion.repeats") == 11 + 29


def test_silence_is_found_to_the_sample(tmp_path: Path) -> None:
    quiet = (1.23456, 0.9)
    tone = sine(-20, 3, 997)
    start = round(quiet[0] * RATE)
    tone[start : start + round(quiet[1] * RATE)] = 0
    made = everything(write(tmp_path / "a.wav", [tone, tone]))
    (event,) = [e for e in made.events if e.kind == "silent"]
    # A sine passes near nought: its last sample above -60 dBFS may come one or two before the cut.
    assert (
        abs(event.start * RATE - start) <= 2
        and abs(event.end * RATE - (start + round(quiet[1] * RATE))) <= 2
    )
    assert event.first is None and event.track == 1
    assert made.facts.value("file.duration") == 3


def test_what_channels_carry(tmp_path: Path) -> None:
    one, other = sine(-20, 3, 440), sine(-20, 3, 666)
    six = write(
        tmp_path / "six.wav",
        [one, other, one * 0.5, silence(3), other * 0.7, other * 0.7],
        layout="5.1",
    )
    heard = everything(six)
    facts = heard.facts
    assert heard.notes == [
        "Of the sound, channel 4 carries nothing.",
        "Of the sound, channels carry the same: 5 = 6.",
    ]
    assert (
        facts.value("sound.dead_channels") == "4" and facts.value("sound.same_channels") == "5 = 6"
    )
    assert facts.value("sound.layout") == "5.1" and facts.value("sound.channels") == 6
    opposed = everything(write(tmp_path / "opposed.wav", [one, -one])).facts
    assert opposed.value("sound.phase") == -1
    alike = everything(write(tmp_path / "alike.wav", [one, one]))
    assert (
        alike.facts.value("sound.phase") == 1
        and alike.facts.value("sound.same_channels") == "1 = 2"
    )
    assert alike.facts.value("sound.tone") == 3 and "440 Hz" in next(
        e.what for e in alike.events if e.kind == "tone"
    )


def test_tracks_that_carry_the_same_are_named(tmp_path: Path) -> None:
    tone = sine(-20, 2, 440).astype(np.float32)
    path = tmp_path / "two.mov"
    with av.open(str(path), "w") as out:
        tracks = [out.add_stream("pcm_s16le", rate=RATE, layout="mono") for _ in range(2)]
        for start in range(0, len(tone), 4800):
            for track in tracks:
                frame = av.AudioFrame.from_ndarray(
                    tone[None, start : start + 4800].copy(), format="fltp", layout="mono"
                )
                frame.sample_rate, frame.pts, frame.time_base = RATE, start, Fraction(1, RATE)
                out.mux(track.encode(frame))
        for track in tracks:
            out.mux(track.encode(None))
    made = everything(path)
    assert (
        made.facts.value("sound.tracks") == 2
        and "Sound tracks 1 and 2 carry the same." in made.notes
    )


@pytest.mark.parametrize(("name", "layout"), [("back", "5.1(back)"), ("side", "5.1(side)")])
def test_surrounds_at_the_side_or_at_the_back(name: str, layout: str, tmp_path: Path) -> None:
    tones = [sine(-20, 1, 300 + 50 * n) for n in range(6)]
    facts = ops.measure(
        write(tmp_path / f"{name}.wav", tones, layout="5.1" if name == "back" else layout)
    ).facts
    assert facts.value("sound.layout") == "5.1"
    assert (
        facts.value("sound.speakers")
        == {"back": "FL FR FC LFE BL BR", "side": "FL FR FC LFE SL SR"}[name]
    )


def test_known_loudness_and_peak(tmp_path: Path) -> None:
    facts = ops.measure(write(tmp_path / "a.wav", [sine(-18, 10)] * 2)).facts
    # ITU-R BS.1770: a 1 kHz sine in two channels measures its peak level.
    assert float(facts.value("sound.loudness")) == pytest.approx(-18, abs=0.1)
    assert float(facts.value("sound.true_peak")) == pytest.approx(-18, abs=0.1)


def test_bars_are_found_to_the_line(tmp_path: Path) -> None:
    moving = moving_bar((320, 192), 90)

    def boxed(time: float) -> np.ndarray:
        picture = np.maximum(moving(time), 60)
        picture[:24], picture[-32:], picture[:, :16], picture[:, -48:] = 0, 0, 0, 0
        return picture

    made = everything(
        Clip(draw=boxed, frames=50, tones=None, options={"preset": "ultrafast", "crf": "12"}).write(
            tmp_path / "a.mp4"
        )
    )
    assert made.facts.value("picture.active") == "256 x 136 + 16 + 24"
    assert made.facts.value("picture.active_aspect") == Fraction(256, 136)


@pytest.mark.parametrize(
    ("pattern", "rate", "told"),
    [
        ([1], 25, "every frame new"),
        ([2], 50, "each picture 2 times: 25 pictures in 50 frames a second"),
        ([2, 3], 60, "2:3: 24 pictures in 60 frames a second"),
        ([1, 1, 1, 1, 2], 30, "1 in 6 repeats: 25 pictures in 30 frames a second"),
        ([1, 1, 1, 2], 30, "1 in 5 repeats: 24 pictures in 30 frames a second"),
    ],
)
def test_cadence(pattern: list[int], rate: int, told: str, tmp_path: Path) -> None:
    moving = moving_bar(SMALL, 200)
    shown = [picture for picture in range(90) for _ in range(pattern[picture % len(pattern)])]

    def draw(time: float) -> np.ndarray:
        return moving(shown[round(time * rate)] / 25)

    made = everything(
        Clip(draw=draw, rate=Fraction(rate), frames=90, tones=None).write(tmp_path / "a.mp4")
    )
    assert made.facts.value("motion.cadence") == told
    repeats = sum(a == b for a, b in itertools.pairwise(shown[:90]))
    assert made.facts.value("motion.repeats") == repeats


def test_film_laid_over_fields(tmp_path: Path) -> None:
    moving = moving_bar((720, 480), 300)
    # Film frames A B C D over five video frames: AA AB BC CC DD, upper then lower field (2:3).
    fields = [("A", "A"), ("A", "B"), ("B", "C"), ("C", "C"), ("D", "D")]

    def draw(time: float) -> np.ndarray:
        number = round(time * 30)
        group, place = divmod(number, 5)
        upper, lower = (moving((group * 4 + "ABCD".index(one)) / 24) for one in fields[place])
        picture = upper.copy()
        picture[1::2] = lower[1::2]
        return picture

    rate = {"b": "15000000", "maxrate": "20000000", "bufsize": "4000000", "g": "1", "profile": "0"}
    path = Clip(
        draw=draw,
        rate=Fraction(30),
        frames=60,
        tones=None,
        flagged="upper first",
        codec="mpeg2video",
        pixels="yuv422p",
        options=rate,
    ).write(tmp_path / "a.mov")
    assert (
        everything(path).facts.value("motion.cadence")
        == "2:3 in fields: 24 pictures in 30 frames a second"
    )


def test_field_order_that_turns_within_the_file(tmp_path: Path) -> None:
    moving = moving_bar((720, 576), 300)

    def draw(time: float) -> np.ndarray:
        now, later = moving(time), moving(time + 0.02)
        picture = now.copy()
        if time < 2:
            picture[1::2] = later[1::2]
        else:
            picture[0::2] = later[0::2]
        return picture

    rate = {"b": "15000000", "maxrate": "20000000", "bufsize": "4000000", "g": "1", "profile": "0"}
    path = Clip(
        draw=draw,
        frames=100,
        tones=None,
        flagged="upper first",
        codec="mpeg2video",
        pixels="yuv422p",
        options=rate,
    ).write(tmp_path / "a.mov")
    made = everything(path)
    stretches = [e for e in made.events if e.kind == "scan"]
    assert [e.what.split(" (")[0] for e in stretches] == [
        "lines show upper first",
        "lines show lower first",
    ]
    assert abs((stretches[1].first or 0) - 50) <= 12 and any(
        "changes within the file" in n for n in made.notes
    )


def test_levels_outside_the_gamut(tmp_path: Path) -> None:
    """EBU R 103: luma above 105 % in ten frames, over a fifth of the picture."""
    path = too_bright(tmp_path / "a.mkv")
    made = everything(path)
    assert found(made.events, "levels") == [(10, 19)]
    assert float(made.facts.value("picture.excursion")) == pytest.approx(20, abs=2)


@pytest.mark.parametrize(("every", "most"), [(3, 4), (12, 1), (25, 0)])
def test_flashes_are_counted(every: int, most: int, tmp_path: Path) -> None:
    """White for `every` frames, then dark for as many: ITU-R BT.1702 lets three flashes a second
    pass.
    """
    ground = moving_bar(SMALL, 60)

    def draw(time: float) -> np.ndarray:
        picture = ground(time) // 2
        if round(time * 25) // every % 2:
            picture[:, : SMALL[0] * 2 // 3] = 235
        return picture

    made = everything(Clip(draw=draw, frames=75, tones=None).write(tmp_path / "a.mp4"))
    assert made.facts.value("picture.flashes") == most
    assert bool(found(made.events, "flash")) == (most > 3)


def test_a_small_flash_and_a_red_one(tmp_path: Path) -> None:
    def small(time: float) -> np.ndarray:
        picture = np.full((SMALL[1], SMALL[0], 3), 40, np.uint8)
        if round(time * 25) // 3 % 2:
            picture[:40, :60] = 235  # an eighth of the picture
        return picture

    assert (
        everything(Clip(draw=small, frames=50, tones=None).write(tmp_path / "a.mp4")).facts.value(
            "picture.flashes"
        )
        == 0
    )

    def red(time: float) -> np.ndarray:
        picture = np.full((SMALL[1], SMALL[0], 3), 30, np.uint8)
        if round(time * 25) // 3 % 2:
            picture[:] = (225, 10, 10)
        return picture

    assert (
        everything(Clip(draw=red, frames=50, tones=None).write(tmp_path / "b.mp4")).facts.value(
            "picture.red_flashes"
        )
        == 4
    )
