from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core import values
from ample_crate.core.errors import BadValue


@pytest.mark.parametrize(
    ("text", "count"),
    [("30 MB", 30_000_000), ("30 MiB", 31_457_280), ("4.7 GB", 4_700_000_000), ("512", 512), ("1/2 kB", 500)],
)
def test_bytes_keep_decimal_and_binary_apart(text: str, count: int) -> None:
    assert values.read_bytes(text) == count


def test_megabytes_a_second_are_eight_times_megabits() -> None:
    assert values.read_bit_rate("2 MB/s") == values.read_bit_rate("16 Mb/s") == 16_000_000


@pytest.mark.parametrize("text", ["30 Mb", "30 mb", "thirty MB", "30 MB/s", "1/0 MB", "", "1.5 B"])
def test_bad_sizes_say_what_would_be_right(text: str) -> None:
    with pytest.raises(BadValue) as error:
        values.read_bytes(text)
    assert error.value.way_out


def test_rates_are_exact() -> None:
    assert values.fraction("30000/1001") * 1001 == 30000
    assert values.fraction("29.97") == Fraction(2997, 100)
    assert values.show_rate(Fraction(30000, 1001)) == "29.97 fps (30000/1001)"


def test_yes_is_no_number() -> None:
    with pytest.raises(BadValue):
        values.fraction(True)


@pytest.mark.parametrize("kind", sorted(values.KINDS))
def test_what_is_stored_reads_back(kind: str) -> None:
    sample = {"text": "high", "name": "h264", "flag": True, "size": values.Size(720, 576)}.get(kind, 7)
    if kind in {"ratio", "rate", "seconds", "level", "lufs", "dbtp"}:
        sample = Fraction(-230, 7)
    made = values.KINDS[kind]
    assert made.read(made.stored(sample)) == sample
    assert made.show(sample)


@given(st.integers(0, 10**13))
def test_sizes_read_back_from_every_unit(count: int) -> None:
    assert values.read_bytes(f"{count} B") == count
    assert values.read_bytes(f"{Fraction(count, 2**20)} MiB".replace(" MiB", " MiB")) == count


@given(st.fractions(min_value=Fraction(1, 1001), max_value=1000))
def test_every_rate_survives_its_text(rate: Fraction) -> None:
    assert values.fraction(f"{rate.numerator}/{rate.denominator}") == rate
