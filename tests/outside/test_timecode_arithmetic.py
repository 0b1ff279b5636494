"""Timecode arithmetic against two independent libraries, `timecode` and OpenTimelineIO's
`opentime`, and SMPTE ST 12-1's own rule.
"""

import random
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from opentimelineio import opentime
from timecode import Timecode

from ample_crate.core.errors import BadValue
from ample_crate.core.units import timecode

NTSC, FAST = Fraction(30000, 1001), Fraction(60000, 1001)
PLACES = [
    0,
    1,
    1799,
    1800,
    1801,
    3597,
    3598,
    17981,
    17982,
    17983,
    107891,
    107892,
    2589407,
    *random.Random(2).sample(range(2_000_000), 60),
]


@pytest.mark.parametrize("frame", PLACES)
def test_drop_frame_agrees_with_both(frame: int) -> None:
    label = timecode.show(frame, NTSC, drop=True)
    # That library counts its frames from 1.
    assert label == str(Timecode("29.97", frames=frame + 1))
    assert label == opentime.RationalTime(frame, 30000 / 1001).to_timecode(
        30000 / 1001, drop_frame=True
    )
    assert timecode.read(label, NTSC) == frame


@pytest.mark.parametrize("rate", ["24", "25", "30", "50"])
@pytest.mark.parametrize("frame", PLACES[:12])
def test_whole_rates_agree_with_both(rate: str, frame: int) -> None:
    label = timecode.show(frame, Fraction(rate))
    assert label == str(Timecode(rate, frames=frame + 1))
    assert label == opentime.RationalTime(frame, float(rate)).to_timecode()


@given(st.integers(0, 24 * 3600 * 30 - 1))
def test_there_and_back(frame: int) -> None:
    for rate, drop in ((Fraction(25), False), (NTSC, False), (Fraction(24000, 1001), False)):
        count = frame % (86400 * timecode.nominal(rate))
        assert timecode.read(timecode.show(count, rate, drop), rate) == count
    dropped = frame % 2_589_408  # frames in 24 hours of drop-frame
    assert timecode.read(timecode.show(dropped, NTSC, True), NTSC) == dropped
    assert timecode.read(timecode.show(dropped * 2, FAST, True), FAST) == dropped * 2


def test_the_rule_itself() -> None:
    """SMPTE ST 12-1: numbers 0 and 1 are left out at each minute but every tenth."""
    assert (
        timecode.show(1799, NTSC, True) == "00:00:59;29"
        and timecode.show(1800, NTSC, True) == "00:01:00;02"
    )
    assert timecode.show(17982, NTSC, True) == "00:10:00;00"


@pytest.mark.parametrize(
    ("text", "rate", "says"),
    [
        ("00:01:00;00", NTSC, "leaves out"),
        ("00:00:00;00", Fraction(25), "no drop-frame"),
        ("00:00:00:25", Fraction(25), "does not exist"),
        ("24:00:00:00", Fraction(25), "does not exist"),
        ("soon", Fraction(25), "no timecode"),
        ("1:2:3", Fraction(25), "no timecode"),
    ],
)
def test_labels_that_do_not_exist(text: str, rate: Fraction, says: str) -> None:
    with pytest.raises(BadValue, match=says) as error:
        timecode.read(text, rate)
    assert error.value.way_out
