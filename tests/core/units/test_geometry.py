from fractions import Fraction

from hypothesis import assume, given
from hypothesis import strategies as st

from ample_crate.core.formats import picture_of
from ample_crate.core.units import geometry
from ample_crate.core.units.geometry import Alignment, Frame
from ample_crate.core.units.values import Size

SD, HD = Size(720, 576), Size(1920, 1080)
WIDE = Fraction(16, 9)


def test_wide_625_over_each_convention() -> None:
    # The handbook's geometry: 64:45 over 720, 16:11 over 704, 512:351 over 702.
    assert geometry.pixel_aspect(WIDE, 720, 576) == Fraction(64, 45)
    assert geometry.pixel_aspect(WIDE, 704, 576) == Fraction(16, 11)
    assert geometry.pixel_aspect(WIDE, 702, 576) == Fraction(512, 351)


def test_hd_fills_wide_sd_without_bars_or_cuts() -> None:
    made = geometry.fit(Frame(HD), Frame(SD, Fraction(64, 45)), "pad")
    assert not made.bars and made.crop == geometry.Rect(0, 0, 1920, 1080)


def test_hd_over_704_leaves_eight_black_samples_a_side() -> None:
    made = geometry.fit(Frame(HD), Frame(SD, Fraction(16, 11)), "pad", active_width=704)
    assert made.place == geometry.Rect(8, 0, 704, 576)


def test_wide_film_is_padded_above_and_below_or_cut_at_the_sides() -> None:
    film = Size(2048, 858)
    padded = geometry.fit(Frame(film), Frame(HD), "pad")
    assert padded.place.width == 1920 and padded.place.y == (1080 - padded.place.height) // 2
    cut = geometry.fit(Frame(film), Frame(HD), "crop")
    assert cut.crop.height == 858 and cut.crop.width < 2048 and not cut.bars


def test_interlaced_420_is_cut_in_steps_of_four_lines() -> None:
    tall = Size(1440, 1200)
    cut = geometry.fit(Frame(tall), Frame(HD), "crop", alignment=Alignment(lines=4))
    assert cut.crop.y % 4 == 0 and cut.crop.height % 4 == 0


@given(
    st.integers(64, 4096),
    st.integers(64, 4096),
    st.integers(32, 2048),
    st.integers(32, 2048),
    st.sampled_from(["pad", "crop"]),
)
def test_circles_stay_round(w: int, h: int, tw: int, th: int, framing: str) -> None:
    assume(Fraction(1, 8) < Fraction(w, h) / Fraction(tw, th) < 8)
    source, target = Size(w, h), Size(2 * tw, 2 * th)
    made = geometry.fit(Frame(source), Frame(target), framing)  # type: ignore[arg-type]
    across = Fraction(made.place.width, made.crop.width)
    down = Fraction(made.place.height, made.crop.height)
    # Whole, even samples: the shape may be off by what rounding one side by one sample is worth,
    # and by 1 in 250.
    sides = (made.place.width, made.place.height, made.crop.width, made.crop.height)
    assert abs(across / down - 1) <= 2 * sum(Fraction(1, side) for side in sides) + Fraction(1, 250)
    assert made.place.x >= 0 and made.place.x + made.place.width <= target.width
    assert made.crop.x >= 0 and made.crop.y + made.crop.height <= h


def test_lines_of_the_vertical_interval_are_cut_and_never_scaled() -> None:
    """SMPTE ST 356: 720x608 is 576 lines of picture under 32 of vertical interval."""
    from ample_crate.core.planning.route import plan_route
    from ample_crate.store.library import find
    from support import master_facts

    assert picture_of("mpeg2video", Size(720, 608)) == (720, 576) and picture_of(
        "mpeg2video", Size(720, 512)
    ) == (720, 480)
    assert picture_of("h264", Size(720, 608)) == (720, 608) and picture_of(
        "mpeg2video", Size(720, 576)
    ) == (720, 576)
    master = master_facts(
        picture_codec="mpeg2video",
        picture_size=Size(720, 608),
        picture_pixel_aspect=Fraction(64, 45),
        picture_matrix="BT.601",
    )
    route = plan_route(master, find("pinfold-720p"), {}, "tape.mxf")
    assert route.plan is not None
    cut = next(o for o in route.plan.picture.steps if o.kind == "crop")
    assert (cut.x, cut.y, cut.width, cut.height) == (0, 32, 720, 576)
    assert not any(o.kind == "pad" for o in route.plan.picture.steps), "16:9 fills 1280x720"
    assert any("lines above the picture" in s.title for s in route.steps)
