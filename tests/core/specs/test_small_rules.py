"""Names, rates, time to ready, facts."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.errors import BadSpec, BadValue, Impossible
from ample_crate.core.facts import Fact, Facts
from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.formats.size import payload_bytes
from ample_crate.core.planning import rates, ready
from ample_crate.core.specs import naming


def pattern(
    text: str,
    case: str = "any",
    free: dict[str, str] | None = None,
    characters: str = "A-Z a-z 0-9 _ - .",
    longest: int = 200,
) -> naming.Pattern:
    return naming.Pattern(text, free or {}, characters, case, longest)


@pytest.mark.parametrize(
    ("given_name", "kept"),
    [
        ("../../etc/passwd", "passwd"),
        ("..\\..\\boot.mov", "boot.mov"),
        ("a\u202egnp.mp4", "agnp.mp4"),
        ("Cafe\u0301.mov", "Caf\u00e9.mov"),
        ("nul\x00byte.mp4", "nulbyte.mp4"),
        ("con.mp4", "con_.mp4"),
        ("  .hidden.mp4 ", "hidden.mp4"),
    ],
)
def test_names_from_strangers(given_name: str, kept: str) -> None:
    assert naming.safe_name(given_name) == kept


@pytest.mark.parametrize("name", ["", "..", "/", "\x00", " . "])
def test_names_that_leave_nothing(name: str) -> None:
    with pytest.raises(BadValue):
        naming.safe_name(name)


@given(st.text(max_size=400))
def test_no_name_escapes(name: str) -> None:
    try:
        made = naming.safe_name(name)
    except BadValue:
        return
    assert (
        "/" not in made
        and "\\" not in made
        and made not in {".", ".."}
        and not made.startswith(".")
    )
    assert len(made.encode()) <= 200 and made.isprintable()


def test_names_as_the_recipient_asks() -> None:
    assert (
        pattern("{master}_{recipient}_r{revision}", "lower").name(
            {"master": "Épisode 3", "recipient": "skerry", "revision": "2"}, ".mpg"
        )
        == "episode_3_skerry_r2.mpg"
    )
    with pytest.raises(BadValue, match="not known"):
        pattern("{chapter}")


def test_the_rate_from_a_cap_by_hand() -> None:
    # 30 MB less 1 %, less 0.5 MB, over 60 s: 29.2 MB * 8 / 60 = 3.893 Mb/s.
    assert rates.solve_picture_rate(30_000_000, 400_000, 100_000, Fraction(60)) == 3_893_000
    with pytest.raises(Impossible):
        rates.solve_picture_rate(1_000_000, 990_000, 0, Fraction(60))


@given(st.integers(10**6, 10**10), st.integers(1, 20_000))
def test_a_solved_rate_never_overfills(cap: int, seconds: int) -> None:
    try:
        rate = rates.solve_picture_rate(cap, cap // 10, 5000, Fraction(seconds))
    except Impossible:
        return
    assert payload_bytes(rate, Fraction(seconds)) + cap // 10 + 5000 <= cap


def test_a_corrected_rate_lands_under() -> None:
    rate = rates.corrected_rate(11_000_000, 30_000_000, 30_900_000, 30_300_000)
    assert rate * 30_300_000 / 11_000_000 + 600_000 < 30_000_000


def test_a_second_correction_keeps_more_back() -> None:
    # 500 000 bytes asked, 501 445 landed, 1 445 of them not picture: 5 % kept back leaves 473 555
    # for the picture.
    assert (
        rates.corrected_rate(3_800_000, 500_000, 501_445, 500_000, missed=1)
        == int(3_800_000 * 473_555 / 500_000) // 1000 * 1000
        == 3_599_000
    )
    first, second, third = (
        rates.corrected_rate(3_800_000, 500_000, 501_445, 500_000, missed=n) for n in range(3)
    )
    assert first > second == third


def test_time_to_ready_is_the_sum_of_its_parts() -> None:
    left = ready.Ready(10, 2, 1, 0) + ready.Ready(
        0, 0, 0, ready.transfer_seconds(30_000_000, 20_000_000)
    )
    assert left.transfer == 12 and left.total == 25
    assert ready.encode_seconds("h264", 90e6, ready.Past(encode={"h264": 30.0})) == 3.0


def test_facts_keep_their_sources_and_survive_json() -> None:
    facts = Facts(
        {
            "motion.rate": Fact(declared=Fraction(25), measured=Fraction(30000, 1001)),
            "sound.codec@2": Fact(declared="aac"),
        }
    )
    assert facts.contradictions() == ["motion.rate"]
    assert facts.value("motion.rate") == Fraction(30000, 1001)
    again = Facts.from_json(facts.as_json())
    assert again.as_json() == facts.as_json()
    with pytest.raises(BadSpec):
        facts.with_values("declared", {"picture.smell": "fresh"})


def test_every_property_reads_as_it_should() -> None:
    for key, prop in PROPERTIES.items():
        assert prop.key == key and prop.label and prop.meaning and prop.group == key.split(".")[0]
