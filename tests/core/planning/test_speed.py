"""Films taken faster or slower: when it offers itself, what it does, what is refused."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.planning.beside import Beside
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.speed import Speed, speed_of
from ample_crate.core.specs.spec import Spec
from support import master_facts

FILM, PAL, NTSC = Fraction(24000, 1001), Fraction(25), Fraction(30000, 1001)


def spec(rate: Fraction, scan: str = "progressive", **asked: Any) -> Spec:
    rows = {"motion.rate": {"is": str(rate)}, "motion.scan": {"is": scan}}
    rows |= {"picture.codec": {"is": "prores"}, "file.wrapper": {"is": "mov"}}
    rows |= {key.replace("_", ".", 1): rule for key, rule in asked.items()}
    head = {"id": "speed", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": r} for k, r in rows.items()]}
    )


def film(rate: Fraction = FILM, **more: object) -> Facts:
    frames = 14400
    return master_facts(motion_rate=rate, motion_frames=frames, file_duration=frames / rate, **more)


def route(master: Facts, asked: Spec, **choices: Any) -> Route:
    return plan_route(master, asked, choices, "film.mov")


@pytest.mark.parametrize(
    ("own", "made", "offered"),
    [
        (FILM, PAL, PAL),
        (Fraction(24), PAL, PAL),
        (Fraction(24), 2 * PAL, PAL),
        (FILM, Fraction(24), Fraction(24)),
        (PAL, Fraction(24), Fraction(24)),
        (2 * PAL, FILM, 2 * FILM),
        (NTSC, Fraction(30), Fraction(30)),
        (FILM, NTSC, None),
        (PAL, NTSC, None),
        (PAL, PAL, None),
        (PAL, 2 * PAL, None),
    ],
)
def test_it_is_offered_where_little_is_wanting(
    own: Fraction, made: Fraction, offered: Fraction | None
) -> None:
    assert Speed(own).natural(made) == offered


def test_the_custom_of_film_in_25() -> None:
    """Common practice: film's 24 goes out as 25, an hour less two minutes and a half."""
    kept = route(film(), spec(PAL))
    assert kept.choices["speed"] == "" and kept.choices["pitch"] == "kept"
    assert any("every frame taken once" in c.way_out for c in kept.cautions)
    # It is no way out where the rates lie far apart.
    far = route(film(PAL), spec(NTSC))
    assert far.cautions and not any("taken once" in c.way_out for c in far.cautions)
    fast = route(film(), spec(PAL), speed="25", pitch="follows")
    assert fast.plan is not None and fast.plan.frames == 14400
    assert fast.plan.seconds == Fraction(14400, 25)
    assert fast.plan.inputs[0].speed == Fraction(1001, 960)
    assert not any("The frame rate is changed." in c.what for c in fast.cautions)
    [said] = [s for s in fast.steps if s.title == "23.976 fps taken at 25"]
    assert "4.27 % faster, 4.1 % shorter" in said.reason and "0.72 semitones higher" in said.reason
    assert fast.choices["speed"] == "25" and fast.choices["pitch"] == "follows"
    assert fast.facts.value("motion.rate") == 25


def test_only_sound_that_goes_along_is_said_to() -> None:
    silent = route(film(sound_tracks=0), spec(PAL), speed="25")
    assert "pitch" not in silent.choices
    [said] = [s for s in silent.steps if s.title == "23.976 fps taken at 25"]
    assert "sound" not in said.reason
    item = Item(sound=Beside("mix.wav", film()))
    laid = plan_route(film(), spec(PAL), {"speed": "25"}, "film.mov", item)
    assert "pitch" not in laid.choices and laid.choices["speed"] == "25"
    [said] = [s for s in laid.steps if s.title == "23.976 fps taken at 25"]
    assert "goes along" not in said.reason and "taken as it is" in said.reason
    assert any("not taken faster" in c.what for c in laid.cautions)


def test_it_is_not_offered_where_it_would_change_nothing() -> None:
    assert "speed" not in route(film(PAL), spec(PAL)).choices
    assert "speed" not in route(film(motion_steady=False), spec(PAL)).choices


@pytest.mark.parametrize(
    ("text", "says"),
    [("30", "1.25 times as fast"), ("fast", "no frame rate"), ("0", "no frame rate")],
)
def test_what_is_no_speed_is_refused(text: str, says: str) -> None:
    with pytest.raises(BadValue, match=says):
        speed_of(film(), {"speed": text})
    with pytest.raises(BadValue, match="pitch"):
        speed_of(film(), {"speed": "25", "pitch": "lower"})


def test_a_film_of_uneven_clock_has_no_speed_of_its_own() -> None:
    with pytest.raises(BadValue, match="no even frame rate"):
        speed_of(film(motion_steady=False), {"speed": "25"})


def test_loudness_is_measured_anew_of_a_film_so_taken() -> None:
    heard = {"sound_loudness": Fraction(-23), "sound_true_peak": Fraction(-6)}
    asked = spec(PAL, sound_loudness={"is": "-23 LUFS", "tolerance": "0.5 LU"})
    as_it_is = route(film(PAL, **heard), asked)
    faster = route(film(**heard), asked, speed="25")

    def brought(made: Route) -> bool:
        return any(step.title.startswith("Loudness brought") for step in made.steps)

    assert not brought(as_it_is) and brought(faster)


def test_nothing_of_it_is_copied() -> None:
    sound = {"sound_codec": "pcm_s24le", "file_wrapper": "mov", "picture_bit_rate": 10**8}
    asked = spec(Fraction(24))
    assert route(film(Fraction(24), **sound), asked, sound="copied").plan is not None
    insisted = route(film(**sound), asked, speed="24", sound="copied")
    assert insisted.plan is None
    assert any("another speed than its own" in c.why for c in insisted.cautions if c.blocks)
