from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.errors import BadValue
from ample_crate.core.units import values


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("30 MB", 30_000_000),
        ("30 MiB", 31_457_280),
        ("4.7 GB", 4_700_000_000),
        ("512", 512),
        ("1/2 kB", 500),
    ],
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
    sample = {"text": "high", "name": "h264", "flag": True, "size": values.Size(720, 576)}.get(
        kind, 7
    )
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


@pytest.mark.parametrize(
    ("said", "exact"),
    [
        ("29.97", Fraction(30000, 1001)),
        (29.97, Fraction(30000, 1001)),
        ("23.976", Fraction(24000, 1001)),
        ("23.98 fps", Fraction(24000, 1001)),
        ("59.94", Fraction(60000, 1001)),
        ("119.88", Fraction(120000, 1001)),
        ("47.952", Fraction(48000, 1001)),
        ("25 fps", Fraction(25)),
        ("12.5", Fraction(25, 2)),
        ("29.97 fps (30000/1001)", Fraction(30000, 1001)),
        # Whoever writes a fraction means it.
        ("2997/100", Fraction(2997, 100)),
        ("30000/1001", Fraction(30000, 1001)),
    ],
)
def test_rates_spoken_as_decimals_are_the_fractions_they_stand_for(
    said: object, exact: Fraction
) -> None:
    assert values.read_rate(said) == exact


@given(st.sampled_from([24, 25, 30, 48, 50, 60, 120]), st.booleans())
def test_a_rate_reads_back_as_it_is_shown(whole: int, slowed: bool) -> None:
    rate = Fraction(whole * 1000, 1001) if slowed else Fraction(whole)
    assert values.read_rate(values.show_rate(rate)) == rate


@pytest.mark.parametrize(
    ("kind", "said", "value"),
    [
        ("ratio", "1.85:1", Fraction(37, 20)),
        ("ratio", "2.39 : 1", Fraction(239, 100)),
        ("bit_rate", "50 Mbps", 50_000_000),
        ("bit_rate", "384 kbit/s", 384_000),
        ("bit_count", "1 835 008 bits", 1_835_008),
        ("bytes", "4 700 000 000", 4_700_000_000),
        ("seconds", "0:01:30.5", Fraction(181, 2)),
        ("seconds", "1:00:00", Fraction(3600)),
        ("percent", "25 %", Fraction(25)),
        ("bits", "10 bit", 10),
        ("degrees", "90°", 90),
        ("count", "1 500", 1500),
    ],
)
def test_figures_are_read_as_people_and_screens_write_them(
    kind: str, said: str, value: object
) -> None:
    assert values.KINDS[kind].read(said) == value


@pytest.mark.parametrize(
    ("kind", "said"),
    [
        ("ratio", "16:9:1"),
        ("ratio", "16:0"),
        ("rate", "fps"),
        ("rate", "1/2/3"),
        ("seconds", "01:30"),
        ("bit_rate", "50 MB"),
        ("count", "12 34"),
    ],
)
def test_what_may_mean_two_things_is_refused(kind: str, said: str) -> None:
    with pytest.raises(BadValue):
        values.KINDS[kind].read(said)


@pytest.mark.parametrize("kind", [k for k in values.KINDS if values.KINDS[k].ordered])
def test_what_is_more_than_there_is_of_anything_is_refused_at_once(kind: str) -> None:
    """A few characters may stand for more digits than any memory holds."""
    for said in (
        "1e9999",
        "1e999999999",
        "9" * 5000,
        10**5000,
        "9" * 300,
        1e300,
        "9" * 6000 + ":00:00",
        float("nan"),
        float("inf"),
        "-",
        ".",
        "1e",
        "",
    ):
        with pytest.raises(BadValue) as error:
            values.KINDS[kind].read(said)
        assert len(error.value.what) < 200


SHOWN = {
    "count": st.integers(0, 10**7),
    "bits": st.integers(1, 64),
    "bytes": st.integers(0, 999),
    "bit_count": st.integers(0, 10**9),
    "hertz": st.integers(1, 400_000),
    "degrees": st.integers(0, 359),
    "seconds": st.integers(-(10**8), 10**8).map(lambda ms: Fraction(ms, 1000)),
    "ratio": st.fractions(min_value=0, max_value=10**9),
    "rate": st.fractions(min_value=0, max_value=10**9),
    "lufs": st.integers(-700, 0).map(lambda n: Fraction(n, 10)),
    "percent": st.integers(0, 10_000).map(lambda n: Fraction(n, 100)),
}


@pytest.mark.parametrize("kind", SHOWN)
@given(st.data())
def test_what_a_screen_shows_can_be_typed_again(kind: str, data: st.DataObject) -> None:
    value = data.draw(SHOWN[kind])
    made = values.KINDS[kind]
    assert made.read(made.show(value)) == value
