"""How a route brings sound to the loudness that a spec asks, and what it says of it."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.facts.properties import track_key
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.sound_steps import Normalise
from ample_crate.core.specs.spec import Spec
from support import master_facts

Rules = dict[str, dict[str, Any]]
R128: Rules = {
    "sound.loudness": {"is": "-23 LUFS", "tolerance": "0.5 LU"},
    "sound.true_peak": {"at_most": "-1 dBTP"},
}


def master_at(loudness: float | None, peak: float = -6, short: float = -18, **more: Any) -> Facts:
    heard = {"sound_true_peak": Fraction(peak), "sound_max_short_term": Fraction(short)}
    if loudness is None:
        return master_facts(sound_bit_depth=24, **more)
    return master_facts(
        sound_bit_depth=24, sound_loudness=Fraction(loudness).limit_denominator(10), **heard, **more
    )


def route(master: Facts, rules: Rules, choices: dict[str, str] | None = None, **more: Any) -> Route:
    asked: Rules = {
        "picture.codec": {"is": "h264"},
        "file.wrapper": {"is": "mov"},
        "sound.codec": {"is": "pcm_s24le"},
    }
    rows = [{"property": key, "rule": rule} for key, rule in (asked | rules).items()]
    head = {"id": "loud", "version": 1, "recipient": "x", "title": "t", "requirements": rows}
    return plan_route(master, Spec.model_validate(head | more), choices or {}, "film.mov")


def brought(made: Route, track: int = 0) -> Normalise | None:
    assert made.plan is not None, made.cautions
    sound = made.plan.sounds[track]
    if sound.kind == "copied sound":
        return None
    return next((s for s in sound.steps if isinstance(s, Normalise)), None)


def titles(made: Route) -> str:
    return "; ".join(step.title for step in made.steps)


def rows_of(made: Route) -> list[str]:
    return [caution.row for caution in made.cautions]


def test_a_mix_that_is_too_loud_is_turned_down_and_the_gain_is_said() -> None:
    made = route(master_at(-18.5), R128)
    step = brought(made)
    assert step is not None and (step.target, step.peak) == (-23, -1)
    assert "Loudness from -18.5 LUFS to -23.0 LUFS" in titles(made)
    assert "\N{MINUS SIGN}4.5 dB" in next(s.reason for s in made.steps if "Loudness" in s.title)
    assert made.facts.value("sound.loudness") == -23 and made.facts.value("sound.true_peak") == -1
    assert made.facts.value("sound.max_short_term") == Fraction("-22.5")


@pytest.mark.parametrize("loudness", [-23.4, -23, -22.6])
def test_a_mix_within_the_tolerance_is_left_alone(loudness: float) -> None:
    made = route(master_at(loudness), R128)
    assert brought(made) is None and "Loudness" not in titles(made)
    assert made.facts.value("sound.loudness") == master_at(loudness).value("sound.loudness")


def test_a_mix_that_was_not_measured_is_brought_there_when_it_is_made() -> None:
    made = route(master_at(None), R128)
    assert brought(made) is not None and "Loudness brought to -23.0 LUFS" in titles(made)
    assert made.facts.value("sound.loudness") == -23


def test_peaks_that_a_gain_would_push_over_their_limit_are_told() -> None:
    assert "sound.true_peak" in rows_of(route(master_at(-30, peak=-4), R128))
    assert "sound.true_peak" not in rows_of(route(master_at(-30, peak=-9), R128))


def test_a_spot_whose_loudest_seconds_would_be_too_loud_is_told() -> None:
    rules = R128 | {"sound.max_short_term": {"at_most": "-18 LUFS"}}
    loud = route(master_at(-23, short=-16), rules)
    step = brought(loud)
    assert step is not None and step.short_term == -18
    assert "sound.max_short_term" in rows_of(loud)
    assert loud.facts.value("sound.max_short_term") == -18
    assert brought(route(master_at(-23, short=-19), rules)) is None


def test_a_large_gain_is_told() -> None:
    assert "sound.loudness" in rows_of(route(master_at(-31, peak=-20), R128))
    assert "sound.loudness" not in rows_of(route(master_at(-27, peak=-20), R128))


@pytest.mark.parametrize(
    ("rule", "heard", "target"),
    [
        ({"between": ["-25 LUFS", "-22 LUFS"]}, -20, Fraction(-223, 10)),
        ({"between": ["-25 LUFS", "-22 LUFS"]}, -28, Fraction(-247, 10)),
        ({"between": ["-23.2 LUFS", "-22.8 LUFS"]}, -28, Fraction(-23)),
        ({"at_most": "-16 LUFS"}, -14, Fraction(-163, 10)),
        ({"at_least": "-20 LUFS"}, -24, Fraction(-197, 10)),
    ],
)
def test_bounds_are_met_by_the_smallest_gain(
    rule: dict[str, Any], heard: float, target: Fraction
) -> None:
    step = brought(route(master_at(heard), {"sound.loudness": rule}))
    assert step is not None and step.target == target


def test_sound_is_left_untouched_by_the_spec_or_by_choice() -> None:
    by_spec = route(master_at(-18), R128, coding={"loudness": "untouched"})
    by_choice = route(master_at(-18), R128, {"loudness": "untouched"})
    for made in (by_spec, by_choice):
        assert brought(made) is None
        assert made.choices["loudness"] == "untouched"
        assert made.facts.value("sound.loudness") == -18
    again = route(
        master_at(-18), R128, {"loudness": "to the target"}, coding={"loudness": "untouched"}
    )
    assert brought(again) is not None
    with pytest.raises(BadValue, match="done to loudness"):
        route(master_at(-18), R128, {"loudness": "louder"})


def test_what_asks_for_no_loudness_offers_no_choice_of_it() -> None:
    made = route(master_at(-18), {})
    assert brought(made) is None and "loudness" not in made.choices


def test_sound_that_is_too_loud_is_not_copied() -> None:
    master = master_at(-18, sound_bit_rate=2304000, sound_start_offset=Fraction(0))
    encoded = route(master, R128)
    assert encoded.choices["sound"] == "encoded" and brought(encoded) is not None
    copied = route(master, R128, {"loudness": "untouched"})
    assert copied.choices["sound"] == "copied"


def test_a_fold_is_measured_as_it_is_mixed() -> None:
    master = master_at(-23, sound_layout="5.1", sound_channels=6)
    made = route(master, R128 | {"sound.layout": {"is": "stereo"}})
    # What the surround has says nothing of what the fold will have.
    assert brought(made) is not None and "Loudness brought to" in titles(made)


def test_tracks_are_brought_there_each_and_mono_ones_are_left() -> None:
    values: dict[str, Any] = {"sound.tracks": 2}
    for number, loudness in ((1, -23), (2, -19)):
        values |= {
            track_key(f"sound.{key}", number): value
            for key, value in {
                "layout": "stereo",
                "channels": 2,
                "sample_rate": 48000,
                "bit_depth": 24,
                "loudness": Fraction(loudness),
                "true_peak": Fraction(-6),
                "max_short_term": Fraction(-20),
            }.items()
        }
    master = master_facts().with_values("measured", values)
    two = R128 | {"sound.tracks": {"is": 2}}
    made = route(master, two)
    assert brought(made, 0) is None and brought(made, 1) is not None
    single = route(master, R128 | {"sound.tracks": {"is": 4}, "sound.layout": {"is": "mono"}})
    assert brought(single, 0) is None and "sound.loudness" in rows_of(single)


def test_16_bit_is_dithered_where_there_was_more() -> None:
    def kinds(have: int, **rules: dict[str, Any]) -> list[str]:
        asked: Rules = {"sound.codec": {"is": "pcm_s16le"}}
        master = master_facts(sound_bit_depth=have)
        made = route(master, asked | rules, {"sound": "encoded"})
        assert made.plan is not None
        (sound,) = made.plan.sounds
        return [step.kind for step in sound.steps]

    assert "dither" in kinds(24) and "dither" not in kinds(16)
    assert "dither" in kinds(16, **{"sound.sample_rate": {"is": "44.1 kHz"}})


def dialogue(master: Facts, rules: Rules) -> int | None:
    asked: Rules = {"file.wrapper": {"is": "mpeg-ts"}, "sound.codec": {"is": "ac3"}}
    made = route(master, asked | rules, {"sound": "encoded"})
    assert made.plan is not None, made.cautions
    (sound,) = made.plan.sounds
    assert made.facts.value("sound.dialogue_level") == sound.encoding.dialogue
    level: int | None = sound.encoding.dialogue
    return level


def modes(master: Facts, rules: Rules) -> list[str | None]:
    asked: Rules = {"file.wrapper": {"is": "mpeg-ts"}, "sound.codec": {"is": "ac3"}}
    made = route(master, asked | rules, {"sound": "encoded"})
    assert made.plan is not None, made.cautions
    said = [sound.encoding.mode for sound in made.plan.sounds]
    assert made.facts.value("sound.bitstream_mode") == said[0]
    return said


def test_a_track_says_what_it_is_for() -> None:
    mode = "sound.bitstream_mode"
    assert modes(master_at(-23), {}) == ["complete main"]
    assert modes(master_at(-23), {mode: {"is": "M&E"}}) == ["music and effects"]
    two: Rules = {"sound.tracks": {"is": 2}, "sound.channels": {"is": 2}}
    described: Rules = {**two, f"{mode}@2": {"is": "VI"}}
    both = master_facts(sound_tracks=2, **{"sound.layout@2": "stereo"})
    assert modes(both, described) == ["complete main", "visually impaired"]
    # Of a master's own that the channels made cannot have nothing is taken over.
    alone = master_facts(sound_bitstream_mode="commentary")
    assert modes(alone, {"sound.layout": {"is": "stereo"}}) == ["complete main"]
    heard = master_facts(sound_bitstream_mode="hearing impaired")
    assert modes(heard, {}) == ["hearing impaired"]


@pytest.mark.parametrize(
    ("mode", "layout", "other"), [("commentary", "stereo", "mono"), ("karaoke", "mono", "stereo")]
)
def test_a_mode_that_its_channels_cannot_have_is_refused(
    mode: str, layout: str, other: str
) -> None:
    rules: Rules = {"sound.bitstream_mode": {"is": mode}, "sound.layout": {"is": layout}}
    asked: Rules = {"file.wrapper": {"is": "mpeg-ts"}, "sound.codec": {"is": "ac3"}}
    made = route(master_at(-23), asked | rules, {"sound": "encoded"})
    (block,) = [c for c in made.cautions if c.blocks]
    assert made.plan is None and mode in block.what and other in block.way_out


def test_the_level_of_dialogue_is_that_of_what_is_made() -> None:
    assert dialogue(master_at(-18.6), {}) == -19
    assert dialogue(master_at(-18.6), R128) == -23
    assert dialogue(master_at(-18.6), {"sound.dialogue_level": {"is": "-27 LUFS"}}) == -27
    assert dialogue(master_at(-18.6), {"sound.dialogue_level": {"between": [-26, -24]}}) == -24
    # Where nothing is known no player is to turn anything down.
    assert dialogue(master_at(None), {}) == -31
    assert dialogue(master_at(-40), {}) == -31
    assert dialogue(master_facts(sound_tracks=0), {"sound.tracks": {"is": 1}}) == -31
