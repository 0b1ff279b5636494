"""Loudness that is brought to what a spec asks, measured again in what was made."""

from __future__ import annotations

from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
import pytest

from ample_crate.core.facts import Facts
from ample_crate.core.planning.plan import Plan
from ample_crate.core.specs.spec import Spec
from ample_crate.media.measuring.sound_content import samples
from conformance import made, made_from, odd_ones, plan_of
from tones import write
from voices import Samples, loudness, programme

Rules = dict[str, dict[str, Any]]
RATE = 48000
WAV: Rules = {"file.wrapper": {"is": "wav"}}
M4A: Rules = {"file.wrapper": {"is": "m4a"}, "sound.codec": {"is": "aac"}}
R128: Rules = {
    "sound.loudness": {"is": "-23 LUFS", "tolerance": "0.5 LU"},
    "sound.true_peak": {"at_most": "-1 dBTP"},
}
STEREO: Rules = {"sound.layout": {"is": "stereo"}}
S1 = R128 | {"sound.max_short_term": {"at_most": "-18 LUFS"}}


class Made(NamedTuple):
    """What was made, what was measured of it, and its samples."""

    plan: Plan
    facts: Facts
    heard: Samples

    @property
    def steps(self) -> list[str]:
        return [step.kind for step in self.plan.sounds[0].steps]


def spec_of(rules: Rules, **more: Any) -> Spec:
    asked = [{"property": key, "rule": rule} for key, rule in rules.items()]
    head = {"id": "loud", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(head | {"requirements": asked} | more)


def delivered(
    folder: Path, sound: Samples, rules: Rules, layout: str = "stereo", **more: Any
) -> Made:
    """Make sound alone of a master, and say what is in it."""
    master = write(folder / "master.wav", list(sound), layout)
    spec = spec_of(rules, **more)
    plan, predicted, path, measured = made_from(master, spec, folder / "out")
    assert odd_ones(predicted, measured) == {}
    with av.open(str(path)) as container:
        heard = [samples(frame) for frame in container.decode(audio=0)]
    return Made(plan, measured, np.concatenate(heard, axis=1))


def test_one_gain_brings_a_mix_to_its_target(tmp_path: Path) -> None:
    sound = programme(8, -16)
    made = delivered(tmp_path, sound, WAV | R128)
    assert loudness(made.heard) == pytest.approx(-23, abs=0.1)
    assert made.facts.fraction("sound.loudness") == pytest.approx(-23, abs=0.1)
    # One gain and nothing else: every sample is the master's, turned down alike.
    gain = 10 ** ((loudness(made.heard) - loudness(sound)) / 20)
    assert np.abs(made.heard - sound * gain).max() < 2e-4


def test_a_mix_that_meets_what_is_asked_goes_out_as_it_is(tmp_path: Path) -> None:
    sound = programme(8, -23)
    sound *= 10 ** ((-23.3 - loudness(sound)) / 20)
    made = delivered(tmp_path, sound, WAV | R128)
    assert "normalise" not in made.steps
    assert np.abs(made.heard - sound).max() < 1e-6


def test_a_mix_is_left_untouched_where_the_spec_says_so(tmp_path: Path) -> None:
    sound = programme(8, -16)
    made = delivered(tmp_path, sound, WAV | R128, coding={"loudness": "untouched"})
    assert np.abs(made.heard - sound).max() < 1e-6


def test_peaks_are_held_where_a_quiet_mix_is_raised(tmp_path: Path) -> None:
    sound = programme(8, -38, clicks=0.4)
    made = delivered(tmp_path, sound, WAV | R128)
    assert loudness(made.heard) == pytest.approx(-23, abs=0.2)
    assert made.facts.fraction("sound.true_peak") <= -1
    assert np.abs(made.heard).max() < 10 ** (-1 / 20)
    # The limiter looks ahead, and moves nothing in time: between clicks it is as it was.
    calm = slice(RATE // 2 + 6000, RATE // 2 + 18000)
    here, there = made.heard[0, calm], sound[0, calm]
    shifts = range(-3, 4)
    alike = [np.corrcoef(here[3:-3], np.roll(there, n)[3:-3])[0, 1] for n in shifts]
    assert shifts[int(np.argmax(alike))] == 0 and max(alike) > 0.99


def test_the_loudest_three_seconds_of_a_spot_are_turned_down(tmp_path: Path) -> None:
    made = delivered(tmp_path, programme(20, -30, swell=14), WAV | S1)
    assert made.facts.fraction("sound.max_short_term") <= -18
    assert loudness(made.heard) == pytest.approx(-23, abs=0.2)


def test_coded_sound_keeps_its_peaks_and_loudness(tmp_path: Path) -> None:
    made = delivered(tmp_path, programme(8, -38, clicks=0.4), M4A | R128)
    assert made.facts.fraction("sound.loudness") == pytest.approx(-23, abs=0.2)
    assert made.facts.fraction("sound.true_peak") <= -1


def test_a_fold_is_measured_as_it_is_mixed(tmp_path: Path) -> None:
    front = programme(8, -20)
    surround = np.stack([front[0], front[1], front[0], 0 * front[0], front[1], front[0]])
    made = delivered(
        tmp_path, surround, WAV | R128 | {"sound.layout": {"is": "stereo"}}, layout="5.1"
    )
    assert made.steps[1:3] == ["mix", "normalise"]
    assert loudness(made.heard) == pytest.approx(-23, abs=0.2)


def test_channels_taken_out_of_a_track_are_levelled(tmp_path: Path) -> None:
    left, right = programme(8, -16)
    rest = np.zeros((4, left.size), np.float32)
    master = write(tmp_path / "surround.wav", [left, right, *rest], "5.1")
    plan = plan_of(master, spec_of(WAV | R128 | STEREO), channels="1+2")
    with av.open(str(made(plan, master, tmp_path / "out"))) as container:
        heard = [samples(frame) for frame in container.decode(audio=0)]
    assert loudness(np.concatenate(heard, axis=1)) == pytest.approx(-23, abs=0.1)


def test_silence_stays_silence(tmp_path: Path) -> None:
    made = delivered(tmp_path, np.zeros((2, 4 * RATE), np.float32), WAV | R128)
    assert not made.heard.any()


def test_peaks_alone_are_held_and_loudness_stays(tmp_path: Path) -> None:
    sound = programme(8, -24, clicks=0.99)
    peaks = {"sound.true_peak": {"at_most": "-3 dBTP"}}
    made = delivered(tmp_path, sound, WAV | peaks)
    assert made.facts.fraction("sound.true_peak") <= -3
    assert loudness(made.heard) == pytest.approx(loudness(sound), abs=0.5)


def test_what_becomes_16_bit_is_dithered(tmp_path: Path) -> None:
    """A tone below the last bit is there all the same: rounding alone would leave nothing."""
    time = np.arange(4 * RATE) / RATE
    tone = (0.4 / 32768 * np.sin(2 * np.pi * 997 * time)).astype(np.float32)
    made = delivered(tmp_path, np.stack([tone, tone]), WAV | {"sound.codec": {"is": "pcm_s16le"}})
    assert "dither" in made.steps
    spectrum = np.abs(np.fft.rfft(made.heard[0] * np.hanning(len(time))))
    at = round(997 * len(time) / RATE)
    assert spectrum[at] > 10 * np.median(spectrum)
    shares = made.heard[0].astype(float) * 32768
    assert shares.std() == pytest.approx(np.sqrt(0.4**2 / 2 + 1 / 4), rel=0.2)
