"""The picture's rate, ceiling, buffer and level: each limit by itself, and which one wins where two
meet.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.formats.wrapper import Contents
from ample_crate.core.planning import rates
from ample_crate.core.planning.encoding import RatedPicture
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.resolve import Resolver
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.store import library
from support import master_facts

MB = 10**6


def asking(*rows: dict[str, Any], **more: Any) -> Spec:
    """A spec for 720p25 in H.264 and MP4, with further rows."""
    usual = [
        {"property": "picture.codec", "rule": {"is": "h264"}},
        {"property": "picture.size", "rule": {"is": "1280x720"}},
        {"property": "file.wrapper", "rule": {"is": "mp4"}},
        {"property": "sound.bit_rate", "rule": {"is": "192 kb/s"}},
    ]
    return Spec.model_validate(
        {
            "id": "rates",
            "version": 1,
            "recipient": "pinfold",
            "title": "t",
            "requirements": [*usual, *rows],
        }
        | more
    )


def rule(key: str, **how: Any) -> dict[str, Any]:
    return {"property": key, "rule": how}


def route(spec: Spec, seconds: int = 60, **choices: Any) -> Route:
    facts = master_facts(motion_frames=25 * seconds, file_duration=Fraction(seconds))
    return plan_route(facts, spec, choices, "film.mov")


def picture(spec: Spec, seconds: int = 60, **choices: Any) -> RatedPicture:
    plan = route(spec, seconds, **choices).plan
    assert plan is not None
    assert plan.picture is not None and isinstance(plan.picture.encoding, RatedPicture)
    return plan.picture.encoding


def test_without_a_word_the_usual_rate_is_taken() -> None:
    """8 Mb/s at 720p25 (common practice), in proportion to the samples; twice that for MPEG-2."""
    made = picture(asking())
    assert made.bit_rate == 8 * MB and made.max_rate == made.buffer == 16 * MB and not made.constant
    larger = Size(1920, 1080), Fraction(50)
    assert made.model.usual(*larger) == 36 * MB
    assert made.model_copy(update={"codec": "mpeg2video"}).model.usual(*larger) == 72 * MB


def test_the_rate_that_fills_a_cap_by_hand() -> None:
    """30 MB over a minute: 29.7 MB less 1.44 MB of sound and the wrapper's own bytes, over 60 s."""
    spec = asking(rule("file.size", at_most="30 MB"))
    made = picture(spec)
    contents = Contents(Fraction(60), 1500, 30, True, 2813, 2)
    by_hand = (
        (29_700_000 - 1_440_000 - rates.overhead("mp4", contents, 30 * MB)) * 8 // 60 // 1000 * 1000
    )
    assert made.bit_rate == by_hand and 3_750_000 < by_hand < 3_770_000
    assert 29_600_000 < route(spec).size <= 29_700_000


@pytest.mark.parametrize(
    ("more", "expected"),
    [
        ([], 16 * MB),  # twice the usual: more helps nobody
        ([rule("picture.bit_rate", at_most="5 Mb/s")], 5 * MB),
        ([rule("picture.level", at_most=3)], None),  # cannot hold 720p at all
        (
            [rule("picture.level", at_most="3.1")],
            14 * MB,
        ),  # 17.5 Mb/s in high profile, of which four fifths
    ],
)
def test_a_generous_cap_is_not_filled_for_its_own_sake(
    more: list[dict[str, Any]], expected: int | None
) -> None:
    spec = asking(rule("file.size", at_most="900 MB"), *more)
    if expected is None:
        made = route(spec)
        assert made.plan is None and any("level cannot hold" in c.what for c in made.cautions)
    else:
        assert picture(spec).bit_rate == expected


def test_a_preference_gives_way_to_a_cap_and_a_choice_does_not() -> None:
    room = rule("picture.bit_rate", between=["1 Mb/s", "9 Mb/s"])
    spec = asking(
        rule("file.size", at_most="30 MB"), room, house={"picture.bit_rate": {"value": "6 Mb/s"}}
    )
    assert picture(spec, 20).bit_rate == 6 * MB, "it fits"
    assert picture(spec, 60).bit_rate < 4 * MB
    chosen = route(spec, 60, **{"picture.bit_rate": "6 Mb/s"})
    assert chosen.plan is not None and chosen.plan.picture.encoding.bit_rate == 6 * MB
    assert any("over the file's cap" in c.what for c in chosen.cautions)


def test_a_ceiling_over_any_second_is_kept_by_rate_and_buffer() -> None:
    made = picture(asking(rule("picture.peak_bit_rate", at_most="10 Mb/s")))
    assert (made.max_rate, made.buffer) == (
        8 * MB,
        2 * MB,
    ) and made.max_rate + made.buffer == 10 * MB
    # Under a ceiling the spec's own buffer may only be smaller.
    assert (
        picture(
            asking(rule("picture.peak_bit_rate", at_most="10 Mb/s"), coding={"buffer_bits": 9 * MB})
        ).buffer
        == 2 * MB
    )
    assert (
        picture(
            asking(rule("picture.peak_bit_rate", at_most="10 Mb/s"), coding={"buffer_bits": MB})
        ).buffer
        == MB
    )
    assert picture(asking(rule("picture.peak_bit_rate", at_most="4 Mb/s"))).bit_rate == 3_200_000


@given(ceiling=st.integers(1, 60), seconds=st.integers(5, 4000), cap=st.integers(40, 4000))
def test_no_limit_is_ever_passed_by_the_plan(ceiling: int, seconds: int, cap: int) -> None:
    spec = asking(
        rule("picture.peak_bit_rate", at_most=f"{ceiling} Mb/s"),
        rule("file.size", at_most=f"{cap} MB"),
    )
    plan = route(spec, seconds).plan
    if plan is not None:
        made = plan.picture.encoding
        assert made.bit_rate <= made.max_rate and made.max_rate + made.buffer <= ceiling * MB
        assert made.bit_rate * seconds // 8 < cap * MB


def test_an_exact_rate_is_constant_and_its_buffer_a_second() -> None:
    made = picture(asking(rule("picture.bit_rate", **{"is": "6 Mb/s"})))
    assert made.constant and made.bit_rate == made.max_rate == made.buffer == 6 * MB
    assert (
        picture(
            asking(rule("picture.bit_rate", **{"is": "6 Mb/s"}), coding={"buffer_bits": 2 * MB})
        ).buffer
        == 2 * MB
    )


@pytest.mark.parametrize(("rate", "thin"), [("1.9 Mb/s", True), ("2 Mb/s", False)])
def test_a_thin_rate_is_told_of(rate: str, thin: bool) -> None:
    made = route(asking(rule("picture.bit_rate", at_most=rate)))
    assert any("thin" in c.what for c in made.cautions) is thin


def test_floor_and_cap_count_what_must_be_and_holds() -> None:
    spec = asking(
        rule("picture.bit_rate", between=["4 Mb/s", "9 Mb/s"], tolerance="5 %"),
        rule("motion.rate", one_of=["25", "50"]),
        rule("sound.bit_rate", at_least="64 kb/s")
        | {"when": rule("sound.layout", **{"is": "mono"})},
        rule("file.size", at_most="40 MB") | {"severity": "should"},
        rule("file.duration", at_least="5 s"),
    )
    settled = Resolver(spec, master_facts(), {})
    assert (
        settled.floor("picture.bit_rate") == 3_800_000 and settled.cap("picture.bit_rate") == 9 * MB
    )
    assert settled.floor("sound.bit_rate") == 192_000, (
        "the condition does not hold, the other rule does"
    )
    assert settled.cap("file.size") is None and settled.floor("file.size") is None
    assert settled.floor("file.duration") == 5 and settled.cap("file.duration") is None
    assert settled.floor("motion.rate") is None, "a list has no floor"


@pytest.mark.parametrize(
    ("id", "buffer", "named"),
    [
        ("skerry-sd625", 2_000_000, False),
        ("ostler-dvd-625", 1_835_008, True),
        ("ostler-bd", 8_000_000, True),
    ],
)
def test_the_rate_buffer_of_the_discs_is_named_and_holds_a_frame(
    id: str, buffer: int, named: bool
) -> None:
    plan = plan_route(
        master_facts(picture_size=Size(1920, 1080)), library.find(id), {}, "film.mov"
    ).plan
    assert plan is not None
    made, rate = plan.picture.encoding, plan.picture.format.rate
    assert (made.buffer, made.named) == (buffer, named)
    assert made.buffer * rate >= made.bit_rate
    assert made.slices == (4 if id == "ostler-bd" else 1)


def test_a_smaller_rate_buffer_that_is_asked_for_is_made() -> None:
    wide, tight = (
        route(asking(rule("picture.bit_rate", **{"is": "5 Mb/s"}), *more)).plan
        for more in ([], [rule("picture.vbv", at_most="2 Mbit")])
    )
    assert wide is not None and tight is not None
    assert wide.picture.encoding.buffer > 2_000_000 and not wide.picture.encoding.named
    assert tight.picture.encoding.buffer == 2_000_000 and tight.picture.encoding.named


def test_a_rate_buffer_smaller_than_a_frame_blocks_the_route() -> None:
    made = route(
        asking(rule("picture.bit_rate", **{"is": "5 Mb/s"}), rule("picture.vbv", at_most="2 Mbit")),
        **{"picture.vbv": "199999 bits"},
    )
    assert made.plan is None
    (one,) = [c for c in made.cautions if c.blocks]
    assert one.row == "picture.vbv" and "199 999 bits against 200 kbit" in one.figures
    assert (
        route(
            asking(
                rule("picture.bit_rate", **{"is": "5 Mb/s"}), rule("picture.vbv", at_most="2 Mbit")
            ),
            **{"picture.vbv": "200 kbit"},
        ).plan
        is not None
    )


@pytest.mark.parametrize(
    ("rows", "chosen", "what", "figures", "way_out"),
    [
        # Table A-1: 50 000 units of 1250 bits a second at level 4.1 in high; 3,600 macroblocks at
        # level 3.1.
        (
            [rule("picture.level", at_most="4.1")],
            "90 Mb/s",
            "The asked level does not allow this rate.",
            "90 Mb/s; level 4.1 allows 62.5 Mb/s in high",
            "Choose at most 62.5 Mb/s.",
        ),
        (
            [rule("picture.level", at_most="3")],
            None,
            "The asked level cannot hold this picture.",
            "3600 macroblocks, 90000 a second at 25 fps; it needs level 3.1; level 3 holds 1620",
            "Ask the recipient",
        ),
        # Table A-4: no fields above level 4.1.
        (
            [
                rule("motion.scan", **{"is": "interlaced"}),
                rule("motion.field_order", **{"is": "upper first"}),
            ],
            "90 Mb/s",
            "No level allows this rate in fields.",
            "level 4.1, the highest with fields, allows 62.5 Mb/s",
            "Choose at most 62.5 Mb/s.",
        ),
    ],
)
def test_a_level_that_is_passed_says_which_limit(
    rows: list[dict[str, Any]], chosen: str | None, what: str, figures: str, way_out: str
) -> None:
    spec = asking(
        rule("picture.bit_rate", at_least="1 Mb/s"),
        rule("picture.profile", **{"is": "high"}),
        *rows,
    )
    made = route(spec, **({"picture.bit_rate": chosen} if chosen else {}))
    said = next(c for c in made.cautions if c.row == "picture.level")
    assert (
        made.plan is None
        and said.blocks
        and said.what == what
        and figures in said.figures
        and said.way_out.startswith(way_out)
    )


def test_a_codec_without_profiles_is_named_alone() -> None:
    made = plan_route(
        master_facts(picture_size=Size(1920, 1080)), library.find("pinfold-webm"), {}, "film.mov"
    )
    assert any(step.title.startswith("VP8 at ") for step in made.steps)
