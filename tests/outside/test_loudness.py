"""Loudness against the published test signals of EBU Tech 3341 (2016) and Tech 3342 (2016), made
from their description.

The signals' levels and lengths are written here from memory of the two documents' tables; their
tolerances are 0.1 LU for Tech 3341 cases 1 to 14, +0.2 and -0.4 dB for true peak (15 to 23), and 1
LU for the ranges of Tech 3342.
"""

from pathlib import Path

import numpy as np
import pyloudnorm
import pytest
from scipy.signal import resample_poly

from ample_crate.core.facts import Facts
from ample_crate.media import ops
from tones import RATE, join, silence, sine, write


def measured(tmp_path: Path, one: np.ndarray, other: np.ndarray | None = None) -> Facts:
    return ops.measure(write(tmp_path / "signal.wav", [one, one if other is None else other])).facts


STEADY = {
    "1": [(-23, 20)],
    "2": [(-33, 20)],
    "3": [(-36, 10), (-23, 60), (-36, 10)],
    "4": [(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)],
    "5": [(-26, 20), (-20, 20.1), (-26, 20)],
}


@pytest.mark.parametrize("case", STEADY)
def test_tech_3341_integrated(case: str, tmp_path: Path) -> None:
    found = measured(tmp_path, join(*[sine(level, seconds) for level, seconds in STEADY[case]]))
    assert float(found.value("sound.loudness")) == pytest.approx(
        -33 if case == "2" else -23, abs=0.1
    )
    if case in "12":
        for key in ("sound.max_short_term", "sound.max_momentary"):
            assert float(found.value(key)) == pytest.approx(-33 if case == "2" else -23, abs=0.1)


def test_tech_3341_case_6_five_channels(tmp_path: Path) -> None:
    levels = [-28, -28, -24, -30, -30]  # L, R, C, Ls, Rs: the surrounds weigh 1.41
    path = write(tmp_path / "five.wav", [sine(level, 20) for level in levels], layout="5.0")
    assert float(ops.measure(path).facts.value("sound.loudness")) == pytest.approx(-23, abs=0.1)


def test_tech_3341_case_9_short_term(tmp_path: Path) -> None:
    found = measured(tmp_path, join(*[sine(-20, 1.34), sine(-30, 1.66)] * 5))
    assert float(found.value("sound.max_short_term")) == pytest.approx(-23, abs=0.1)


@pytest.mark.parametrize("part", [0, 7, 13, 19])
def test_tech_3341_case_10_short_term_wherever_it_begins(part: int, tmp_path: Path) -> None:
    found = measured(tmp_path, join(silence(0.15 * part), sine(-23, 3), silence(1)))
    assert float(found.value("sound.max_short_term")) == pytest.approx(-23, abs=0.1)


def test_tech_3341_case_11_short_term_of_rising_parts(tmp_path: Path) -> None:
    parts = [join(silence(0.15 * n), sine(-38 + n, 3), silence(3 - 0.15 * n)) for n in range(20)]
    assert float(measured(tmp_path, join(*parts)).value("sound.max_short_term")) == pytest.approx(
        -19, abs=0.1
    )


def test_tech_3341_case_12_momentary(tmp_path: Path) -> None:
    found = measured(tmp_path, join(*[sine(-20, 0.18), sine(-30, 0.22)] * 25))
    assert float(found.value("sound.max_momentary")) == pytest.approx(-23, abs=0.1)


PEAKS = {
    "15": (4, 0.0, 0.50, -6.0),
    "16": (4, 45.0, 0.50, -6.0),
    "17": (6, 60.0, 0.50, -6.0),
    "18": (8, 67.5, 0.50, -6.0),
    "19": (4, 45.0, 1.41, 3.0),
}


@pytest.mark.parametrize("case", PEAKS)
def test_tech_3341_true_peak(case: str, tmp_path: Path) -> None:
    divisor, phase, amplitude, expected = PEAKS[case]
    tone = sine(20 * np.log10(amplitude), 2, RATE / divisor, phase=np.radians(phase))
    fade = np.minimum(1, np.minimum(np.arange(len(tone)), np.arange(len(tone))[::-1]) / 4800)
    path = write(tmp_path / "peak.wav", [tone * fade] * 2, codec="pcm_f32le")
    assert (
        expected - 0.4 <= float(ops.measure(path).facts.value("sound.true_peak")) <= expected + 0.2
    )


@pytest.mark.parametrize("offset", range(4))
def test_tech_3341_cases_20_to_23_true_peak_between_samples(offset: int, tmp_path: Path) -> None:
    fast = 4 * RATE
    tone = 0.5 * np.sin(2 * np.pi * np.arange(fast) / 24)  # fs/6 at four times the rate
    middle = fast // 2 // 24 * 24
    tone[middle : middle + 24] *= 2  # one cycle at full scale
    low = resample_poly(np.roll(tone, offset), 1, 4, window=("kaiser", 9.0))
    fade = np.minimum(1, np.minimum(np.arange(len(low)), np.arange(len(low))[::-1]) / 4800)
    path = write(tmp_path / "between.wav", [low * fade] * 2, codec="pcm_f32le")
    again = resample_poly(low, 16, 1, window=("kaiser", 9.0))
    exact = 20 * np.log10(np.abs(again).max())
    assert exact - 0.4 <= float(ops.measure(path).facts.value("sound.true_peak")) <= exact + 0.2


RANGES = {
    "1": ([-20, -30], 10),
    "2": ([-20, -15], 5),
    "3": ([-40, -20], 20),
    "4": ([-50, -35, -20, -35, -50], 15),
}


@pytest.mark.parametrize("case", RANGES)
def test_tech_3342_range(case: str, tmp_path: Path) -> None:
    levels, expected = RANGES[case]
    found = measured(tmp_path, join(*[sine(level, 20) for level in levels]))
    assert float(found.value("sound.loudness_range")) == pytest.approx(expected, abs=1)


@pytest.mark.parametrize("seed", [3, 4])
def test_a_mix_like_a_programme_against_pyloudnorm(seed: int, tmp_path: Path) -> None:
    rng = np.random.default_rng(seed)
    count = 30 * RATE
    time = np.arange(count) / RATE
    speech = (
        rng.standard_normal((2, count))
        * (0.05 + 0.05 * (np.sin(2 * np.pi * 3.1 * time) > 0))
        * (np.sin(2 * np.pi * time / 9) > -0.4)
    )
    music = 0.08 * np.sin(2 * np.pi * 220 * time) * np.exp(-((time % 2) * 1.5))
    left, right = np.clip(speech + music, -0.9, 0.9)
    found = float(measured(tmp_path, left, right).value("sound.loudness"))
    assert found == pytest.approx(
        pyloudnorm.Meter(RATE).integrated_loudness(np.stack([left, right], axis=1)), abs=0.1
    )
