"""The loudness of a programme, without the line-up tone that stands before it."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units import gating
from ample_crate.media import graphs, ops
from ample_crate.media.measuring.sound_content import samples
from clips import Clip
from conformance import made_from, make, odd_ones
from tones import RATE, join, sine
from voices import Samples, loudness, programme

BARS = 12  # seconds
LEADER = f"bars {BARS} s, black 1 s"
R128 = {
    "sound.loudness": {"is": "-23 LUFS", "tolerance": "0.5 LU"},
    "sound.true_peak": {"at_most": "-1 dBTP"},
}
# That whole files are measured as deep as the rule on their tone asks.
LINED_UP = {"sound.tone_before": {"at_least": "5 s"}, "motion.bars_before": {"at_least": "5 s"}}


def spec(**more: Any) -> Spec:
    rows = {
        "picture.codec": {"is": "ffv1"},
        "sound.codec": {"is": "pcm_s24le"},
        "file.wrapper": {"is": "mkv"},
    }
    asked = [{"property": k, "rule": v} for k, v in (rows | R128 | LINED_UP).items()]
    head = {"id": "calm", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(head | {"requirements": asked} | more)


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Eight seconds as quiet as a mix for cinemas."""
    sound = programme(8, -36)
    clip = Clip(frames=200, sound=sound, sound_codec="pcm_s24le")
    return clip.write(tmp_path_factory.mktemp("calm") / "film.mov")


def heard(path: Path) -> Samples:
    with av.open(str(path)) as container:
        return np.concatenate([samples(frame) for frame in container.decode(audio=0)], axis=1)


def test_the_programme_is_measured_without_its_line_up(film: Path, tmp_path: Path) -> None:
    plan, predicted, file, _ = made_from(film, spec(), tmp_path, leader=LEADER)
    facts = ops.measure(file, depth="everything").facts
    assert odd_ones(predicted, facts) == {}
    assert facts.fraction("sound.loudness") == pytest.approx(-23, abs=0.2)
    sound = heard(file)
    behind = sound[:, round(plan.lead * RATE) :]
    assert loudness(behind) == pytest.approx(-23, abs=0.2)
    # With its tone it would be 2 LU louder, or more.
    assert loudness(sound) > -21


def test_a_master_keeps_the_level_of_its_own_line_up(film: Path, tmp_path: Path) -> None:
    untouched = spec(coding={"loudness": "untouched"})
    _, _, master, _ = made_from(film, untouched, tmp_path / "master", leader=LEADER)
    facts = ops.measure(master, depth="everything").facts
    # What is known of it is what is known of the film alone.
    alone = ops.measure(film, depth="everything").facts
    known = facts.fraction("sound.loudness")
    assert known == pytest.approx(float(alone.fraction("sound.loudness") or 0), abs=0.1)
    route = plan_route(facts, spec(), {"sound": "encoded"}, "lined up")
    assert route.plan is not None
    file = tmp_path / route.plan.outcome
    make(master, file, route.plan)
    brought = [step for step in route.plan.sounds[0].steps if step.kind == "normalise"]
    assert [step.line_up for step in brought] == [facts.fraction("sound.tone_before")]
    made = ops.measure(file, depth="everything").facts
    odd = odd_ones(route.facts, made)
    # What decoding costs differs from one time to the next.
    assert not [key for key in odd if not key.startswith("motion.cost")]
    assert made.fraction("sound.loudness") == pytest.approx(-23, abs=0.2)
    tone = heard(file)[0, : BARS * RATE]
    assert 20 * np.log10(np.abs(tone).max()) == pytest.approx(-18, abs=0.1)


def test_a_tone_without_bars_is_a_programme(tmp_path: Path) -> None:
    at = np.arange(6 * RATE) * (2 * np.pi * 997 / RATE)
    sound = np.stack([np.sin(at)] * 2).astype(np.float32) * np.float32(0.1)
    sound[:, 3 * RATE :] *= np.float32(0.3)
    noise = programme(6, -30)
    sound = np.concatenate([sound[:, : 3 * RATE], noise], axis=1)
    clip = Clip(frames=225, sound=sound, sound_codec="pcm_s24le")
    facts = ops.measure(clip.write(tmp_path / "tone.mov"), depth="everything").facts
    assert facts.fraction("sound.tone_before") == pytest.approx(3, abs=0.11)
    assert facts.fraction("sound.loudness") == pytest.approx(loudness(sound), abs=0.1)


def metered(sound: Samples) -> list[dict[str, str]]:
    """Say what the library's meter says at the end of each tenth of a second."""
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound), format="fltp", layout="stereo")
    frame.sample_rate, frame.pts, frame.time_base = RATE, 0, Fraction(1, RATE)
    meter = graphs.loudness_meter(frame)
    return [one.metadata for one in (*meter.push(frame), *meter.push(None))]


def figures(said: list[dict[str, str]], which: str) -> list[float]:
    return [float(one[f"lavfi.r128.{which}"]) for one in said]


@pytest.mark.parametrize("swell", [0.0, 12.0, -25.0])
def test_gating_agrees_with_the_meter_and_with_another_library(swell: float) -> None:
    """ITU-R BS.1770-4, by which the library's meter and pyloudnorm measure too."""
    sound = programme(16, -30, swell=swell)
    said = metered(sound)
    momentary = figures(said, "M")
    assert gating.integrated(momentary) == pytest.approx(figures(said, "I")[-1], abs=0.1)
    assert gating.integrated(momentary) == pytest.approx(loudness(sound), abs=0.1)
    behind = sound[:, 3 * RATE :]
    assert gating.integrated(momentary, 30) == pytest.approx(loudness(behind), abs=0.1)
    assert gating.loudest(momentary, 30, gating.TENTHS_M) == max(momentary[33:])


@pytest.mark.parametrize(
    ("levels", "expected"),
    [((-20, -30), 10), ((-20, -15), 5), ((-40, -20), 20), ((-50, -35, -20, -35, -50), 15)],
)
def test_the_range_of_loudness_is_as_published(levels: tuple[int, ...], expected: int) -> None:
    """EBU Tech 3342, table 1, cases 1 to 4: tones of 20 s each, within 1 LU."""
    tones = join(*(sine(level, 20) for level in levels))
    # Line-up before it changes nothing.
    whole = np.stack([join(sine(0, 4), tones)] * 2).astype(np.float32)
    short = figures(metered(whole), "S")
    assert gating.loudness_range(short, 40) == pytest.approx(expected, abs=1)


def test_silence_has_no_loudness() -> None:
    assert gating.integrated([-120.7] * 40, 3) is None
    assert gating.loudness_range([-120.7] * 40) == 0
    assert gating.loudest([], 5, gating.TENTHS_M) is None
