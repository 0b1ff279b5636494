"""Channels of a track, taken by their numbers: each has a pitch of its own, which tells where it
went.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.planning import programme
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media.measuring.sound_content import samples
from clips import Clip, moving_bar
from conformance import SIZE, facts_of, odd_ones, planned_from

PITCHES = [300 + 200 * n for n in range(8)]


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """One track of eight channels."""
    time = np.arange(48000) / 48000
    sound = np.array([0.1 * np.sin(2 * np.pi * hertz * time) for hertz in PITCHES], np.float32)
    clip = Clip(draw=moving_bar(SIZE), frames=25, sound_codec="pcm_s24le", tracks=[("7.1", sound)])
    return clip.write(tmp_path_factory.mktemp("eight") / "eight.mov")


def spec_of(**rules: Any) -> Spec:
    asked: dict[str, Any] = {
        "file.wrapper": {"is": "mov"},
        "picture.codec": {"is": "h264"},
        "sound.codec": {"is": "pcm_s24le"},
    }
    rows = [{"property": key, "rule": rule} for key, rule in (asked | rules).items()]
    return Spec.model_validate(
        {"id": "eight", "version": 1, "recipient": "pinfold", "title": "t", "requirements": rows}
    )


def heard(path: Path) -> list[list[int]]:
    """Give the pitch of each channel of each track, in Hz; 0 for silence."""
    found = []
    with av.open(str(path)) as container:
        for track in container.streams.audio:
            container.seek(0)
            data = np.concatenate([samples(f) for f in container.decode(track)], axis=1)
            tops = [int(np.abs(np.fft.rfft(one[:48000])).argmax()) for one in data]
            loud = np.abs(data).max(axis=1) > 0.01
            found.append([top if is_loud else 0 for top, is_loud in zip(tops, loud, strict=True)])
    return found


@pytest.mark.parametrize(
    ("places", "rules", "pitches"),
    [
        ("3+4", {"sound.layout": {"is": "stereo"}}, [[700, 900]]),
        ("8+1", {"sound.layout": {"is": "stereo"}}, [[1700, 300]]),
        ("5", {"sound.layout": {"is": "mono"}}, [[1100]]),
        ("5", {"sound.layout": {"is": "stereo"}}, [[1100, 1100]]),
        ("3+4+5+6+7+8", {"sound.layout": {"is": "5.1"}}, [PITCHES[2:]]),
        (
            "7+8+1",
            {"sound.channels": {"is": 1}, "sound.tracks": {"is": 4}},
            None,
        ),
        (
            "7+8+1+2",
            {"sound.channels": {"is": 1}, "sound.tracks": {"is": 4}},
            [[1500], [1700], [300], [500]],
        ),
        (
            "1+2+7+8",
            {"sound.layout": {"is": "stereo"}, "sound.tracks": {"is": 2}},
            [[300, 500], [1500, 1700]],
        ),
    ],
)
def test_channels_go_where_they_are_chosen_for(
    places: str, rules: Any, pitches: list[list[int]] | None, master: Path, tmp_path: Path
) -> None:
    if pitches is None:
        with pytest.raises(BadValue, match="no choice of channels"):
            plan_route(facts_of(master), spec_of(**rules), {"channels": places}, "eight.mov")
        return
    plan, predicted, path, measured = planned_from(
        master, spec_of(**rules), tmp_path, channels=places
    )
    assert heard(path) == pitches and not odd_ones(predicted, measured)
    assert all(sound.kind == "sound" for sound in plan.sounds)


def test_all_of_them_are_what_they_were(master: Path, tmp_path: Path) -> None:
    _, _, path, _ = planned_from(master, spec_of(), tmp_path)
    assert heard(path) == [PITCHES]


def test_what_was_measured_of_all_says_nothing_of_some(master: Path) -> None:
    facts = facts_of(master)
    assert facts.value("sound.loudness") is not None
    some = programme.of(facts, choices={"channels": "3+4"})
    assert some.value("sound.loudness") is None and some.value("sound.layout") == "stereo"
    assert some.value("sound.length_difference") == Fraction(0)
    rules = {"sound.loudness": {"is": "-23 LUFS", "tolerance": "0.5 LU"}}
    route = plan_route(facts, spec_of(**rules), {"channels": "3+4"}, "eight.mov")
    assert route.plan is not None
    kinds = [step.kind for step in route.plan.sounds[0].steps]
    assert "normalise" in kinds and route.choices["channels"] == "3+4"


def test_they_are_offered_by_number_and_loudspeaker(master: Path) -> None:
    facts = facts_of(master)
    offered = dict(programme.channel_options(facts))
    assert offered["1+2"] == "1+2 as stereo: FL FR"
    assert offered["3"] == "3 as mono: FC" and offered["3+4+5+6+7+8"].startswith(
        "3+4+5+6+7+8 as 5.1"
    )
    two = facts.with_values("measured", {"sound.channels": 2})
    assert programme.channel_options(two) == []
    assert "channels" not in plan_route(two, spec_of(), {}, "eight.mov").choices


@pytest.mark.parametrize("places", ["9", "0", "1+1", "1,2", "1+2+3", "x", "+"])
def test_what_is_none_of_them_is_refused(places: str, master: Path) -> None:
    with pytest.raises(BadValue, match="channels"):
        plan_route(facts_of(master), spec_of(), {"channels": places}, "eight.mov")


def test_they_are_of_one_track(master: Path) -> None:
    several = facts_of(master).with_values("measured", {"sound.tracks": 2, "sound.channels@2": 2})
    with pytest.raises(BadValue, match="out of one track"):
        plan_route(several, spec_of(), {"channels": "1+2"}, "eight.mov")
    chosen = {"tracks": "1", "channels": "1+2"}
    assert plan_route(several, spec_of(), chosen, "eight.mov").plan is not None
