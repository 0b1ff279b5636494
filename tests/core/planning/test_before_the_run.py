"""What cannot come out well is said before anything is decoded, with a way out that the spec
allows.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.ledger import ledger
from ample_crate.core.planning.notes import Caution
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.expressions import in_words
from ample_crate.core.specs.naming import Pattern, safe_name
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size, read_bit_rate
from support import master_facts


def asking(*rows: dict[str, Any], codec: str = "h264", wrapper: str = "mp4", **more: Any) -> Spec:
    usual = [
        {"property": "picture.codec", "rule": {"is": codec}},
        {"property": "file.wrapper", "rule": {"is": wrapper}},
    ]
    body = {
        "id": "before",
        "version": 1,
        "recipient": "r",
        "title": "t",
        "requirements": [*usual, *rows],
    }
    return Spec.model_validate(body | more)


def rule(key: str, **how: Any) -> dict[str, Any]:
    return {"property": key, "rule": how}


def route(spec: Spec, seconds: int = 60, **facts: Any) -> Route:
    master = master_facts(motion_frames=25 * seconds, file_duration=Fraction(seconds), **facts)
    return plan_route(master, spec, {}, "film.mov")


def blocking(made: Route, row: str) -> Caution:
    assert made.plan is None
    return next(c for c in made.cautions if c.blocks and c.row == row)


SMALL = rule("picture.size", **{"is": "1280x720"})


def test_a_cap_below_the_least_rate_names_the_length_that_fits() -> None:
    """30 MB at 4 Mb/s and 192 kb/s of sound: 240 Mb over 4.192 Mb/s is 57 s, less 2 % for the
    wrapper.
    """
    spec = asking(
        SMALL,
        rule("file.size", at_most="30 MB"),
        rule("picture.bit_rate", between=["4 Mb/s", "8 Mb/s"]),
    )
    said = blocking(route(spec, 120), "picture.bit_rate")
    assert "The file's cap leaves the picture less" in said.what and "at most 56 s" in said.way_out
    shorter = route(spec, 56)
    assert shorter.plan is not None and shorter.size <= 30_000_000


ONE = {"picture.bit_rate": "1 Mb/s"}
LOW = rule("picture.bit_rate", at_most="3 Mb/s")
THIN = [
    (ONE, [], "up to 8 Mb/s"),
    (ONE, [LOW], "up to 3 Mb/s"),
    (ONE, [LOW | {"severity": "should"}], "up to 3 Mb/s"),
    (ONE, [rule("picture.peak_bit_rate", at_most="3 Mb/s")], "up to 2.4 Mb/s"),
    (ONE, [rule("picture.level", at_most=3.1)], "up to 8 Mb/s"),
    (ONE, [rule("file.size", at_most="15 MB")], "up to 1.77 Mb/s"),
    ({}, [rule("picture.peak_bit_rate", at_most="2 Mb/s")], "Ask the recipient"),
    ({}, [rule("picture.bit_rate", between=["1 Mb/s", "1.5 Mb/s"])], "Ask the recipient"),
    (ONE, [rule("picture.bit_rate", one_of=["1 Mb/s", "1.5 Mb/s"])], "Ask the recipient"),
    ({}, [rule("picture.bit_rate", **{"is": "1 Mb/s"})], "Ask the recipient"),
    ({}, [rule("file.size", at_most="9 MB")], "larger cap"),
]


@pytest.mark.parametrize(("chosen", "rules", "says"), THIN)
def test_a_thin_rate_is_told_with_what_there_is_room_for(
    chosen: dict[str, str], rules: list[dict[str, Any]], says: str
) -> None:
    """8 Mb/s are usual for 720p25, so that less than 2 Mb/s are thin."""
    follow_advice(asking(SMALL, *rules), chosen, says)


def test_a_level_may_be_what_keeps_a_rate_thin() -> None:
    """352x288 at 25 fps has 880 kb/s as usual; level 1.3 allows 768 in main (H.264 Table A-1)."""
    size, profile = (
        rule("picture.size", **{"is": "352x288"}),
        rule("picture.profile", **{"is": "main"}),
    )
    spec = asking(size, profile, rule("picture.level", at_most=1.3))
    follow_advice(spec, {"picture.bit_rate": "200 kb/s"}, "up to 768 kb/s")


def follow_advice(spec: Spec, chosen: dict[str, str], says: str) -> None:
    """Do what is said of a thin rate: who takes the rate gets it, and breaks nothing."""
    master = master_facts(motion_frames=1500, file_duration=Fraction(60))
    made = plan_route(master, spec, chosen, "film.mov")
    (said,) = [c for c in made.cautions if "rate is thin" in c.what]
    assert says in said.way_out
    if says.startswith("up to"):
        rate = says.removeprefix("up to ")
        better = plan_route(master, spec, {"picture.bit_rate": rate}, "film.mov")
        assert better.plan is not None
        assert better.plan.picture.encoding.bit_rate == read_bit_rate(rate)
        assert {f.verdict for f in ledger(better.facts, spec, master)} <= {"meets", "unproven"}


def test_a_fixed_rate_over_the_cap_is_refused_with_a_length() -> None:
    spec = asking(
        SMALL, rule("file.size", at_most="30 MB"), rule("picture.bit_rate", **{"is": "8 Mb/s"})
    )
    said = blocking(route(spec), "file.size")
    assert "predicted over the file's cap" in said.what and "at most 28 s" in said.way_out
    assert route(spec, 28).plan is not None


def test_a_chosen_rate_over_the_cap_can_be_lowered_and_the_figure_works() -> None:
    spec = asking(
        SMALL,
        rule("file.size", at_most="30 MB"),
        rule("picture.bit_rate", between=["2 Mb/s", "8 Mb/s"]),
    )
    master = master_facts(motion_frames=1500, file_duration=Fraction(60))
    made = plan_route(master, spec, {"picture.bit_rate": "8 Mb/s"}, "film.mov")
    assert made.plan is not None, "simple pictures may need less than they are given"
    said = next(c for c in made.cautions if c.row == "file.size")
    most = said.way_out.removeprefix("Choose a picture bit rate of at most ").removesuffix(".")
    lower = plan_route(master, spec, {"picture.bit_rate": read_bit_rate(most)}, "film.mov")
    assert lower.plan is not None and lower.size <= 30_000_000


def test_a_peak_close_above_the_least_rate_gets_a_smaller_buffer() -> None:
    spec = asking(
        SMALL,
        rule("picture.peak_bit_rate", at_most="10 Mb/s"),
        rule("picture.bit_rate", at_least="9 Mb/s"),
    )
    made = route(spec)
    assert made.plan is not None
    picture, rate = made.plan.picture.encoding, made.plan.picture.format.rate
    assert picture.bit_rate >= 9_000_000 and picture.max_rate + picture.buffer <= 10_000_000
    assert picture.buffer * rate >= picture.bit_rate, "a frame fits"


def test_a_peak_below_the_least_rate_is_refused() -> None:
    spec = asking(
        SMALL,
        rule("picture.peak_bit_rate", at_most="10 Mb/s"),
        rule("picture.bit_rate", at_least="10 Mb/s"),
    )
    said = blocking(route(spec), "picture.bit_rate")
    assert "The peak leaves" in said.what and "which of the two counts" in said.way_out


def test_the_way_out_of_a_level_is_one_that_the_spec_allows() -> None:
    """ITU-T H.264 Tables A-1, A-2: level 3.1 in high profile allows 17.5 Mb/s."""
    level = rule("picture.level", at_most="3.1")
    free = blocking(
        route(
            asking(
                SMALL,
                level,
                rule("picture.bit_rate", between=["10 Mb/s", "30 Mb/s"]),
                house={"picture.bit_rate": {"value": "20 Mb/s"}},
            )
        ),
        "picture.level",
    )
    assert free.way_out == "Choose at most 17.5 Mb/s."
    bound = blocking(
        route(asking(SMALL, level, rule("picture.bit_rate", at_least="20 Mb/s"))), "picture.level"
    )
    assert "at least 20 Mb/s" in bound.way_out and "Choose at most" not in bound.way_out


def test_mpeg_2_is_held_against_its_level_too() -> None:
    """ISO/IEC 13818-2 Tables 8-11 to 8-13: main@main ends at 720x576 and 15 Mb/s."""
    mpeg2 = {"codec": "mpeg2video", "wrapper": "mpeg-ps"}
    at = rule("picture.profile_level", **{"is": "main@main"})
    sound = rule("sound.codec", **{"is": "mp2"})
    large = blocking(
        route(asking(at, sound, rule("picture.size", same_as="master"), **mpeg2)),
        "picture.profile_level",
    )
    assert "cannot hold this picture" in large.what and "720 x 576" in large.figures
    sd = rule("picture.size", **{"is": "720x576"})
    fast = blocking(
        route(asking(at, sound, sd, rule("picture.bit_rate", **{"is": "20 Mb/s"}), **mpeg2)),
        "picture.profile_level",
    )
    assert "does not allow this rate" in fast.what and "15 Mb/s" in fast.figures
    open_one = route(asking(sound, rule("picture.size", **{"is": "1920x1080"}), **mpeg2))
    assert open_one.plan is not None and open_one.plan.picture.encoding.level == "main@high"


def test_two_things_asked_of_one_property_that_this_master_cannot_both_meet() -> None:
    spec = asking(rule("picture.size", same_as="master"), rule("picture.size", at_most="1920x1080"))
    made = route(spec, picture_size=Size(3840, 2160))
    said = next(c for c in made.cautions if "cannot meet together" in c.what)
    assert (
        said.row == "picture.size"
        and "3840 x 2160" in said.figures
        and "1920 x 1080" in said.figures
    )
    assert not any("meet together" in c.what for c in route(spec).cautions)


def test_every_field_of_a_name_is_named_with_its_shape() -> None:
    delivery = {
        "name": "{spot}_{part}_{production}[_{house}]",
        "asked": "must",
        "fields": {
            "spot": {"matches": "[A-Z]{3}[0-9]{4}"},
            "part": {"matches": "[0-9]{1,3}"},
            "house": {"matches": "[a-z]+"},
        },
    }
    said = blocking(route(asking(SMALL, delivery=delivery)), "file.name")
    assert said.what == (
        "The name still needs: spot, three capital letters, then four figures; part, one to three "
        "figures; production."
    )
    pattern = asking(SMALL, delivery=delivery).delivery.pattern()
    assert pattern.wanting({"spot": "AB", "part": "1", "production": "x"}) == [
        "spot: 'AB' is not three capital letters, then four figures"
    ]
    assert pattern.wanting({"spot": "ABC0001", "part": "1", "production": "é", "house": "9"}) == [
        "house: '9' is not small letters"
    ]
    assert not pattern.wanting({"spot": "ABC0001", "part": "1", "production": "x"})


@pytest.mark.parametrize(
    ("expression", "words"),
    [
        ("[0-9]{1,3}", "one to three figures"),
        (r"\d{8}", "eight figures"),
        ("l[0-9]{2}", "'l', then two figures"),
        ("[A-Z]", "one capital letter"),
        ("[0-9]{2,}", "at least two figures"),
        ("[A-Za-z0-9-]+", "letters, figures or hyphens"),
        ("[a-z]?", "no to one small letters"),
        ("(a|b)", "what fits (a|b)"),
        ("[xyz]{2}", "what fits [xyz]{2}"),
        ("AB_", "'AB_'"),
        ("[0-9]{30}", "30 figures"),
        ("", ""),
    ],
)
def test_simple_expressions_are_said_in_words(expression: str, words: str) -> None:
    assert in_words(expression) == words


@given(st.text(max_size=400))
def test_any_expression_is_said_somehow(text: str) -> None:
    in_words(text)


NAME = Pattern("{master}", {}, "A-Z a-z 0-9 _ - .", "any", 200)


@given(
    st.text(max_size=400), st.sampled_from(["", ".", ".mov", "." + "y" * 250, "é" * 120 + ".mxf"])
)
def test_any_name_of_a_stranger_is_made_safe_or_refused_and_it_ends(text: str, ending: str) -> None:
    from ample_crate.core.errors import BadValue

    try:
        made = safe_name(text + ending)
    except BadValue:
        return
    assert (
        0 < len(made.encode()) <= 200
        and "/" not in made
        and "\0" not in made
        and made not in {".", ".."}
    )
    assert safe_name(made) == made
