"""A part of the master's picture: which can be taken, and where it comes to lie."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.planning import programme, region
from ample_crate.core.planning.framed import Framed, framed
from ample_crate.core.planning.region import LEAST, alignment_of
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.steps import Crop
from ample_crate.core.planning.streams import MadePicture
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.geometry import Alignment, Rect, read_rect
from ample_crate.core.units.values import Size
from ample_crate.store.library import find
from support import master_facts

CHROMAS = ["4:2:0", "4:2:2", "4:4:4", "4:1:1"]
CINEMA = Size(4096, 2336)


def spec(size: str, **asked: str) -> Spec:
    rows = {"picture.codec": "ffv1", "picture.size": size, "file.wrapper": "mkv"}
    rows |= {key.replace("_", ".", 1): value for key, value in asked.items()}
    return Spec.model_validate(
        {
            "id": "region",
            "version": 1,
            "recipient": "pinfold",
            "title": "t",
            "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()],
        }
    )


def picture_of(master: Facts, asked: Spec, **choices: Any) -> MadePicture:
    route = plan_route(master, asked, choices, "film.mov")
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    assert isinstance(route.plan.picture, MadePicture)
    return route.plan.picture


def test_a_cinema_frame_cut_to_1_85() -> None:
    """The worked example: 4096x2336 to 1.85:1 is 4096x2214, from line 60 or 62."""
    part = region.parts(master_facts(picture_size=CINEMA), None)["1.85:1"]
    assert (part.width, part.height, part.x) == (4096, 2214, 0) and part.y in (60, 62)
    master, asked = master_facts(picture_size=CINEMA), spec("4096x2214")
    made = framed(picture_of(master, asked, region=str(part)))
    assert made.crop == part and made.roundness == 1
    assert made.place == Rect(0, 0, 4096, 2214)


def test_what_is_inside_measured_bars_is_offered_inwards() -> None:
    master = master_facts(picture_active="1920 x 801 + 0 + 139", picture_bars=True)
    parts = region.parts(master, None)
    assert parts["inside the bars"] == Rect(0, 140, 1920, 800)
    # Shapes are taken amid what is inside the bars.
    assert parts["4:3"] == Rect(428, 140, 1066, 800)
    unbarred = master_facts(picture_active="1920 x 1080 + 0 + 0", picture_bars=False)
    assert "inside the bars" not in region.parts(unbarred, None)


def test_the_frame_has_a_shape_of_its_own() -> None:
    part = region.parts(master_facts(), Fraction(1))["the frame's shape"]
    assert part == Rect(420, 0, 1080, 1080)


def test_lines_of_the_vertical_interval_are_no_picture() -> None:
    master = master_facts(picture_codec="mpeg2video", picture_size=Size(720, 608))
    assert region.picture_of(master) == Rect(0, 32, 720, 576)
    with pytest.raises(BadValue, match="does not lie within"):
        region.region_of(master, "720 x 576 + 0 + 0")
    part = "704 x 560 + 8 + 40"
    made = framed(picture_of(master, spec("704x560"), region=part))
    assert str(made.crop) == part


def test_a_frame_with_lines_above_its_picture() -> None:
    """SMPTE ST 356: 576 lines of picture under 32 of vertical interval."""
    spec = find("skerry-d10-625")
    master = master_facts(picture_size=Size(1920, 1080), motion_scan="interlaced")
    made = framed(picture_of(master, spec, region="1440 x 1080 + 240 + 0"))
    assert made.made.size == Size(720, 608)
    # 4:3 in a frame of 16:9 between bars.
    assert made.place == Rect(90, 32, 540, 576)
    assert made.roundness == 1


@pytest.mark.parametrize(
    "text", ["", "all", "100 x 100", "16 x 16 + -2 + 0", "1920 x 1080 + 0 + 2", "8 x 8 + 0 + 0"]
)
def test_only_a_part_of_the_picture(text: str) -> None:
    if not text:
        assert region.region_of(master_facts(), text) is None
        return
    with pytest.raises(BadValue):
        region.region_of(master_facts(), text)


@st.composite
def rooms(draw: st.DrawFn) -> tuple[Rect, Alignment]:
    width, height = draw(st.integers(LEAST * 2, 5000)), draw(st.integers(LEAST * 2, 5000))
    alignment = alignment_of(draw(st.sampled_from(CHROMAS)), draw(st.booleans()))
    return Rect(0, draw(st.sampled_from([0, 32])), width, height), alignment


@given(rooms(), st.tuples(*[st.integers(0, 6000)] * 4))
def test_the_nearest_part_is_whole_and_within(
    room: tuple[Rect, Alignment], wanted: tuple[int, int, int, int]
) -> None:
    picture, alignment = room
    part = region.snapped(Rect(*wanted), picture, alignment)
    assert picture.holds(part) and part.width >= LEAST and part.height >= LEAST
    assert (part.x - picture.x) % alignment.columns == 0
    assert (part.y - picture.y) % alignment.lines == 0
    assert part.width % alignment.columns == 0 or part.width == picture.width
    assert part.height % alignment.lines == 0 or part.height == picture.height
    assert region.snapped(part, picture, alignment) == part
    assert read_rect(str(part)) == part


@given(st.sampled_from(CHROMAS), st.tuples(*[st.integers(0, 2500)] * 4))
def test_what_is_refused_offers_what_is_taken(
    chroma: str, wanted: tuple[int, int, int, int]
) -> None:
    master = master_facts(picture_chroma=chroma)
    try:
        region.region_of(master, str(Rect(*wanted)))
    except BadValue as error:
        offered = error.way_out.removeprefix("Choose ").removeprefix("a part of it, such as ")
        assert region.region_of(master, offered.rstrip(".")) is not None


def checked(made: Framed, part: Rect, framing: str, alignment: Alignment) -> None:
    assert part.holds(made.crop)
    assert Rect(0, 0, made.made.width, made.made.height).holds(made.place)
    for rect in (made.crop, made.place):
        assert rect.x % alignment.columns == 0 and rect.y % alignment.lines == 0
    if framing != "crop":
        assert made.crop == part
    if framing != "pad":
        assert (made.place.width, made.place.height) == made.made.size
    if framing != "stretch":
        sides = (made.place.width, made.place.height, made.crop.width, made.crop.height)
        # What rounding to whole steps is worth, and half a sample of shape.
        slack = sum(Fraction(alignment.lines, side) for side in sides) + Fraction(1, 200)
        assert abs(made.roundness - 1) <= slack


@settings(max_examples=150, deadline=None)
@given(
    st.sampled_from(CHROMAS),
    st.sampled_from(["pad", "crop", "stretch"]),
    st.tuples(*[st.integers(0, 1900)] * 4),
    st.sampled_from(["1280x720", "720x576", "1080x1080", "608x1080"]),
    st.sampled_from([Fraction(1), Fraction(64, 45), Fraction(8, 9)]),
)
def test_any_part_in_any_frame(
    chroma: str,
    framing: str,
    wanted: tuple[int, int, int, int],
    size: str,
    aspect: Fraction,
) -> None:
    master = master_facts(picture_chroma=chroma, picture_pixel_aspect=aspect)
    whole = Rect(0, 0, 1920, 1080)
    part = region.snapped(Rect(*wanted), whole, alignment_of(chroma))
    assume(Fraction(1, 6) < part.shape(aspect) < 6)
    asked = spec(size, picture_pixel_aspect="1:1", picture_chroma="4:2:2")
    picture = picture_of(master, asked, region=str(part), framing=framing)
    checked(framed(picture), part, framing, alignment_of(chroma))


def test_fields_stay_whole_where_only_lines_are_left_out() -> None:
    """Whole pairs of lines may go; anything else takes the fields apart first."""
    fields = {"motion_scan": "interlaced", "motion_field_order": "upper first"}
    master = master_facts(picture_size=Size(720, 576), picture_matrix="BT.601", **fields)
    asked = spec(
        "720x480", motion_scan="interlaced", picture_matrix="BT.601", picture_chroma="4:2:2"
    )
    kept = picture_of(master, asked, region="720 x 480 + 0 + 48")
    assert [type(s) for s in kept.steps if s.kind in {"crop", "deinterlace", "interlace"}] == [Crop]
    halved = master_facts(
        picture_size=Size(720, 576), picture_matrix="BT.601", picture_chroma="4:2:0", **fields
    )
    asked = spec(
        "720x480", motion_scan="interlaced", picture_matrix="BT.601", picture_chroma="4:2:0"
    )
    for line, kinds in ((48, ["crop"]), (50, ["deinterlace", "crop", "interlace"])):
        made = picture_of(halved, asked, region=f"720 x 480 + 0 + {line}")
        told = [s.kind for s in made.steps if s.kind in {"crop", "deinterlace", "interlace"}]
        assert told == kinds, line


def test_a_part_of_a_picture_on_its_side_is_one_of_it_upright() -> None:
    master = master_facts(picture_rotation=90)
    upright = programme.of(master)
    whole = framed(picture_of(master, spec("1080x1920")))
    assert whole.crop == whole.place == Rect(0, 0, 1080, 1920)
    assert region.picture_of(upright) == Rect(0, 0, 1080, 1920)
    made = framed(picture_of(master, spec("1080x1080"), region="1080 x 1080 + 0 + 420"))
    assert made.crop == Rect(0, 420, 1080, 1080) and made.place == Rect(0, 0, 1080, 1080)


def test_what_is_copied_has_all_of_its_picture() -> None:
    master = master_facts(
        picture_codec="ffv1", picture_bit_rate=8 * 10**6, sound_tracks=0, file_wrapper="mkv"
    )
    whole = plan_route(master, spec("1920x1080"), {"picture": "copied"}, "film.mkv")
    part = {"picture": "copied", "region": "1280 x 720 + 0 + 0"}
    cut = plan_route(master, spec("1920x1080"), part, "film.mkv")
    assert whole.plan is not None and cut.plan is None
    assert any("A part of it was chosen" in c.why for c in cut.cautions if c.blocks)
