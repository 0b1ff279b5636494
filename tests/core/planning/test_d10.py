"""MPEG-2 of equal frames in MXF: SMPTE ST 356 and ST 386."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core import formats
from ample_crate.core.facts import Facts
from ample_crate.core.planning.encoding import PictureFixed
from ample_crate.core.planning.plan import Route, amount_of
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.steps import Crop, LinesAbove
from ample_crate.core.planning.streams import MadePicture
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.store import library
from support import master_facts

SPECS = {s.id: s for s in library.specs()}
GIVEN = {"production": "lichen", "episode": "3", "date": "20261127", "reel": "1"}


def routed(lines: int, master: Facts, **choices: Any) -> Route:
    spec: Spec = SPECS[f"skerry-d10-{lines}"]
    fields = {f"name.{f}": "7" for f in spec.delivery.fields}
    return plan_route(master, spec, fields | choices, "reel.mxf", Item(given=GIVEN))


def picture_of(route: Route) -> MadePicture:
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    picture = route.plan.picture
    assert isinstance(picture, MadePicture)
    return picture


@pytest.mark.parametrize(
    ("lines", "rate", "height", "frame_bytes"),
    # SMPTE ST 356 Table 1, at 50 Mb/s.
    [(625, Fraction(25), 608, 250_000), (525, Fraction(30000, 1001), 512, 208_541)],
)
def test_every_frame_has_the_bytes_of_the_standard(
    lines: int, rate: Fraction, height: int, frame_bytes: int
) -> None:
    route = routed(lines, master_facts(motion_rate=rate))
    picture = picture_of(route)
    assert isinstance(picture.encoding, PictureFixed)
    assert picture.encoding.frame_bytes == frame_bytes
    assert picture.format.size == Size(720, height)
    assert picture.steps[-1] == LinesAbove(lines=32)
    assert route.plan is not None and route.plan.files[0].wrapper == "mxf d10"
    assert route.facts.value("file.wrapper") == "mxf"
    assert route.facts.value("picture.profile_level") == "4:2:2@main"
    size = amount_of(route.plan)
    assert size.most - size.least < 20_000


def tape(**changes: Any) -> Facts:
    """A master that is D-10 itself."""
    usual = {
        "picture_codec": "mpeg2video",
        "picture_profile": "4:2:2",
        "picture_profile_level": "4:2:2@main",
        "picture_size": Size(720, 608),
        "picture_interval_lines": 32,
        "picture_pixel_aspect": Fraction(64, 45),
        "picture_display_aspect": Fraction(16, 9),
        "picture_matrix": "BT.601",
        "picture_chroma": "4:2:2",
        "picture_bit_rate": 50_000_000,
        "motion_scan": "interlaced",
        "motion_field_order": "upper first",
        "motion_intra_only": True,
        "file_wrapper": "mxf",
    }
    return master_facts(**(usual | changes))


def test_lines_above_that_the_master_has_are_kept() -> None:
    picture = picture_of(routed(625, tape(), picture="encoded"))
    assert not [s for s in picture.steps if isinstance(s, Crop | LinesAbove)]
    assert picture.format.size == Size(720, 608) and picture.format.above == 32


def test_what_has_other_bytes_a_frame_is_not_copied_into_it() -> None:
    same = routed(625, tape())
    assert same.plan is not None and same.plan.picture is not None
    assert same.plan.picture.kind == "copied picture"
    other = routed(625, tape(picture_bit_rate=48_000_000))
    assert picture_of(other).kind == "picture"
    insisted = routed(625, tape(picture_bit_rate=48_000_000), picture="copied")
    assert any(c.blocks and "do not have the bytes" in c.what + c.why for c in insisted.cautions)


@pytest.mark.parametrize(("channels", "made"), [(1, 4), (2, 4), (6, 8), (8, 8)])
def test_the_only_sound_track_has_four_or_eight_channels(channels: int, made: int) -> None:
    layout = {1: "mono", 2: "stereo", 6: "5.1", 8: "7.1"}[channels]
    master = master_facts(sound_channels=channels, sound_layout=layout)
    route = routed(625, master, sound="encoded")
    assert route.plan is not None
    (track,) = route.plan.sounds
    assert track.format.channels == made
    # Channel by channel: nothing is folded.
    mix = next(s for s in track.steps if s.kind == "mix")
    assert [list(row).index(1) if 1 in row else None for row in mix.gains] == [
        n if n < channels else None for n in range(made)
    ]


def test_the_kind_is_taken_for_its_frames_alone() -> None:
    assert formats.kind_of_wrapper("mxf", "mpeg2video", Size(720, 608)) == "mxf d10"
    assert formats.kind_of_wrapper("mxf", "mpeg2video", Size(1920, 1080)) == "mxf"
    assert formats.kind_of_wrapper("mov", "mpeg2video", Size(720, 608)) == "mov"
