"""The rate buffer: a worked example, and the law that a buffer one bit smaller is too small."""

from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.formats.vbv import least_buffer


def keeps(frames: list[int], rate: int, step: Fraction, size: int) -> bool:
    """Play a decoder: full at first, each frame taken out at its time, filled up to its brim in
    between.
    """
    held = Fraction(size)
    for bits in frames:
        if bits > held:
            return False
        held = min(Fraction(size), held - bits + rate * step)
    return True


def test_a_worked_example() -> None:
    # 25 fps at 2.5 Mb/s: 100 000 bits come between frames. 300 000, then 150 000 over what has
    # come: 350 000 are needed.
    assert least_buffer([300_000, 150_000, 20_000, 100_000], 2_500_000, Fraction(1, 25)) == 350_000
    assert least_buffer([100_000] * 50, 2_500_000, Fraction(1, 25)) == 100_000
    assert least_buffer([], 2_500_000, Fraction(1, 25)) == 0


@given(
    st.lists(st.integers(0, 10**6), min_size=1, max_size=40),
    st.integers(1, 10**7),
    st.sampled_from(
        [Fraction(1, 25), Fraction(1001, 30000), Fraction(1, 50), Fraction(1001, 24000)]
    ),
)
def test_no_smaller_buffer_would_do(frames: list[int], rate: int, step: Fraction) -> None:
    least = least_buffer(frames, rate, step)
    assert keeps(frames, rate, step, least)
    assert least == 0 or not keeps(frames, rate, step, least - 1)
