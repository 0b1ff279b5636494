"""A mix that a person sets."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core.errors import BadValue, Impossible
from ample_crate.core.planning import matrix
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.sound_steps import Limit, Mix
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.loudspeakers import LAYOUTS
from ample_crate.store import library
from support import master_facts

SURROUND = {
    "sound_channels": 6,
    "sound_layout": "5.1",
    "sound_speakers": "FL FR FC LFE BL BR",
}


def spec(**asked: str) -> Spec:
    rows = {"file.wrapper": "mov", "picture.codec": "prores", "sound.codec": "pcm_s24le", **asked}
    head = {"id": "mixed", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


def test_a_mix_is_read_and_shown() -> None:
    read = matrix.read(" fl = FL, fc \N{MINUS SIGN}3 dB ;FR=FR 0,FC -3;")
    assert read == {"FL": {"FL": 0, "FC": -3}, "FR": {"FR": 0, "FC": -3}}
    assert matrix.shown(read) == "FL = FL, FC -3; FR = FR, FC -3"
    assert matrix.read(matrix.shown(read)) == read
    assert matrix.read("") == {} and matrix.read("FL = ; FR = FR") == {"FL": {}, "FR": {"FR": 0}}


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("FL", "does not say once"),
        ("FL = FL; FL = FR", "does not say once"),
        ("left = FL", "'left' is no loudspeaker"),
        ("FL = centre", "'centre' is no loudspeaker"),
        ("FL = FL loud", "no channel with its gain"),
        ("FL = FL, FL -3", "taken twice"),
        ("FL = FL 40", "more than a gain can be"),
    ],
)
def test_what_is_no_mix_is_refused(text: str, says: str) -> None:
    with pytest.raises(BadValue, match=says) as refused:
        matrix.read(text)
    assert refused.value.way_out


def test_gains_are_those_that_were_set() -> None:
    mix = matrix.mixed(matrix.read("FL = FL, FC -6; FR = FR"), LAYOUTS["5.1"], LAYOUTS["stereo"])
    left, right = mix.gains
    assert left == (1, 0, Fraction(501187, 10**6), 0, 0, 0) and right == (0, 1, 0, 0, 0, 0)
    assert matrix.decibels(left[2]) == pytest.approx(-6, abs=0.001)
    assert matrix.decibels(Fraction(0)) is None


@pytest.mark.parametrize(
    ("text", "says"),
    [("FL = BC", "taken is BC"), ("SL = FL", "made is SL"), ("FL = ", "would be heard")],
)
def test_a_mix_of_other_channels_is_refused(text: str, says: str) -> None:
    with pytest.raises(Impossible, match=says):
        matrix.mixed(matrix.read(text), LAYOUTS["5.1"], LAYOUTS["stereo"])


def route(asked: Spec, **choices: Any) -> Any:
    return plan_route(master_facts(**SURROUND), asked, choices, "film.mov")


def test_a_set_mix_is_planned_and_said() -> None:
    found = route(spec(**{"sound.layout": "stereo"}), mix="FL = FL, FC; FR = FR")
    assert found.plan is not None and found.choices["mix"] == "FL = FL, FC; FR = FR"
    mixing = next(s for s in found.plan.sounds[0].steps if isinstance(s, Mix))
    assert mixing.gains == ((1, 0, 1, 0, 0, 0), (0, 1, 0, 0, 0, 0))
    # Both can add up.
    assert any(isinstance(s, Limit) for s in found.plan.sounds[0].steps)
    assert "LFE, BL and BR go nowhere." in [c.what for c in found.cautions]
    assert "Channels mixed as set" in [s.title for s in found.steps]
    silent = route(spec(**{"sound.layout": "stereo"}), mix="FL = FL")
    assert "FR will be silent." in [c.what for c in silent.cautions]


def test_it_is_offered_where_one_track_is_made() -> None:
    assert route(spec(**{"sound.layout": "stereo"})).choices["mix"] == ""
    # Channels lie one by one there.
    assert "mix" not in plan_route(master_facts(), library.find("skerry-d10-625")).choices
    several = spec(**{"sound.layout": "mono", "sound.tracks": "6"})
    assert "mix" not in route(several).choices
    stereo = spec(**{"sound.layout": "stereo"})
    for refused, says in (
        (route(several, mix="FC = FL"), "dealt out"),
        (route(stereo, mix="FL = FL", channels="1+2"), "picked"),
        (route(stereo, mix="FL = BC"), "taken is BC"),
    ):
        blocking = [c for c in refused.cautions if c.blocks]
        assert refused.plan is None and says in blocking[0].what and blocking[0].way_out
        # It can be taken back where it stands.
        assert refused.choices["mix"]


def test_what_is_mixed_is_not_copied() -> None:
    asked = {"sound.codec": "aac", "sound.layout": "5.1", "file.wrapper": "mp4"}
    same = spec(**{**asked, "picture.codec": "h264"})
    facts = master_facts(**SURROUND, sound_codec="aac")
    assert plan_route(facts, same, {}, "film").choices.get("sound") is not None
    made = plan_route(facts, same, {"mix": "FL = FL; FR = FR"}, "film")
    assert made.choices["sound"] == "encoded"
    assert "mixed" in " ".join(s.title + s.reason for s in made.steps)
