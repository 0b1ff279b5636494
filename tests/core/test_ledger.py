"""Laws of the ledger."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.facts import Fact, Facts
from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.ledger import ledger, overall
from ample_crate.core.specs.spec import Spec
from support import master_facts


def asking(property: str, severity: str = "must", **rule: object) -> Spec:
    return Spec.model_validate(
        {
            "id": "one-rule",
            "version": 1,
            "recipient": "someone",
            "title": "One rule",
            "requirements": [{"property": property, "rule": rule, "severity": severity}],
        }
    )


def verdict(facts: Facts, spec: Spec, **more: object) -> str:
    return ledger(facts, spec, **more)[0].verdict  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("rule", "meets", "breaks"),
    [
        ({"is": "50 Mb/s"}, 50_000_000, 50_000_001),
        ({"is": "50 Mb/s", "tolerance": "2 %"}, 51_000_000, 51_000_001),
        ({"one_of": ["5 Mb/s", "8 Mb/s"]}, 8_000_000, 7_999_999),
        ({"at_least": "5 Mb/s"}, 5_000_000, 4_999_999),
        ({"at_most": "5 Mb/s"}, 5_000_000, 5_000_001),
        ({"between": ["5 Mb/s", "6 Mb/s"]}, 6_000_000, 6_000_001),
        ({"between": ["5 Mb/s", "6 Mb/s"], "tolerance": "1 Mb/s"}, 4_000_000, 3_999_999),
    ],
)
def test_each_operator_at_its_limit(rule: dict[str, object], meets: int, breaks: int) -> None:
    spec = asking("picture.bit_rate", **rule)
    assert verdict(Facts({"picture.bit_rate": Fact(measured=meets)}), spec) == "meets"
    assert verdict(Facts({"picture.bit_rate": Fact(measured=breaks)}), spec) == "breaks"


def test_megabytes_and_mebibytes_are_judged_apart() -> None:
    file = Facts({"file.size": Fact(measured=31_000_000)})
    assert verdict(file, asking("file.size", at_most="30 MB")) == "breaks"
    assert verdict(file, asking("file.size", at_most="30 MiB")) == "meets"


def test_a_header_alone_does_not_prove_what_must_be_measured() -> None:
    said = Facts({"motion.field_order": Fact(declared="upper first")})
    spec = asking("motion.field_order", **{"is": "upper first"})
    assert verdict(said, spec) == "unproven"
    assert (
        verdict(said.with_values("measured", {"motion.field_order": "upper first"}), spec)
        == "meets"
    )
    found = ledger(said.with_values("measured", {"motion.field_order": "lower first"}), spec)[0]
    assert found.verdict == "breaks" and "header says upper first" in found.why


def test_a_person_is_believed_before_the_bytes() -> None:
    facts = Facts({"motion.field_order": Fact(measured="lower first", assumed="upper first")})
    assert verdict(facts, asking("motion.field_order", **{"is": "upper first"})) == "meets"


def test_what_is_not_known_is_unproven() -> None:
    assert verdict(Facts(), asking("picture.codec", **{"is": "h264"})) == "unproven"


def test_present_and_absent() -> None:
    stated = Facts({"sound.language": Fact(declared="eng")})
    assert verdict(stated, asking("sound.language", present=True)) == "meets"
    assert verdict(stated, asking("sound.language", present=False)) == "breaks"
    assert verdict(Facts(), asking("sound.language", present=False)) == "meets"


def test_every_sound_track_counts() -> None:
    facts = Facts(
        {
            "sound.tracks": Fact(declared=2),
            "sound.codec": Fact(declared="aac"),
            "sound.codec@2": Fact(declared="mp3"),
        }
    )
    found = ledger(facts, asking("sound.codec", **{"is": "aac"}))[0]
    assert found.verdict == "breaks" and found.why.startswith("Sound track 2")


def test_no_sound_breaks_what_asks_for_sound() -> None:
    silent = Facts({"sound.tracks": Fact(declared=0)})
    assert verdict(silent, asking("sound.codec", **{"is": "aac"})) == "breaks"


def test_sound_as_the_masters_is_not_asked_of_silence_for_a_master_without_any() -> None:
    spec, silent = asking("sound.layout", same_as="master"), master_facts(sound_tracks=0)
    found = ledger(master_facts(), spec, silent)[0]
    assert found.verdict == "meets" and not found.applies and "the master has nothing" in found.why
    assert verdict(master_facts(sound_tracks=2), spec) == "unproven"


def test_rate_and_length_as_the_masters_are_not_asked_of_a_still() -> None:
    image = Facts({"file.wrapper": Fact(declared="still image"), "motion.frames": Fact(declared=1)})
    for key in ("motion.rate", "file.duration"):
        found = ledger(master_facts(), asking(key, same_as="master"), image)[0]
        assert found.verdict == "meets" and not found.applies
    frames = asking("motion.frames", same_as="master")
    assert verdict(master_facts(), frames, master=image) == "breaks"


def test_same_as_the_master_and_over_the_crate() -> None:
    here, there = master_facts(), master_facts(motion_rate=Fraction(50))
    spec = asking("motion.rate", same_as="master")
    assert verdict(here, spec) == "unproven"
    assert verdict(here, spec, master=here) == "meets"
    assert verdict(here, spec, master=there) == "breaks"
    whole = asking("motion.rate", same_as="crate")
    assert verdict(here, whole) == "meets"
    assert verdict(here, whole, siblings=[here, there]) == "breaks"


@given(st.integers(1, 10**9), st.integers(1, 10**9), st.integers(0, 10**8))
def test_widening_never_breaks_what_met(value: int, limit: int, wider: int) -> None:
    facts = Facts({"picture.bit_rate": Fact(measured=value)})
    for narrow, wide in (
        ({"at_most": limit}, {"at_most": limit + wider}),
        ({"at_least": limit + wider}, {"at_least": limit}),
        ({"is": limit}, {"is": limit, "tolerance": f"{wider} b/s"}),
    ):
        if verdict(facts, asking("picture.bit_rate", **narrow)) == "meets":
            assert verdict(facts, asking("picture.bit_rate", **wide)) == "meets"


@given(st.integers(1, 10**6), st.integers(1, 10**6))
def test_units_never_change_a_verdict(value: int, limit: int) -> None:
    facts = Facts({"file.size": Fact(measured=value * 1000)})
    said = {
        verdict(facts, asking("file.size", at_most=text))
        for text in (limit * 1000, f"{limit} kB", f"{Fraction(limit, 1000)} MB")
    }
    assert len(said) == 1


@given(st.integers(1, 100), st.integers(1, 100))
def test_severity_only_turns_breaks_into_advice(value: int, limit: int) -> None:
    facts = Facts({"motion.longest_gop": Fact(measured=value)})
    must = verdict(facts, asking("motion.longest_gop", at_most=limit))
    should = verdict(facts, asking("motion.longest_gop", severity="should", at_most=limit))
    assert (must, should) in {("meets", "meets"), ("breaks", "advice")}


def test_the_gravest_verdict_counts() -> None:
    met = ledger(Facts({"file.size": Fact(measured=1)}), asking("file.size", at_most=5))
    broken = ledger(Facts({"file.size": Fact(measured=9)}), asking("file.size", at_most=5))
    advised = ledger(
        Facts({"file.size": Fact(measured=9)}), asking("file.size", severity="should", at_most=5)
    )
    unknown = ledger(Facts(), asking("file.size", at_most=5))
    assert overall(met) == "meets" and overall(met + advised) == "advice"
    assert overall(advised + unknown) == "unproven" and overall(unknown + broken) == "breaks"
    assert overall(ledger(Facts(), asking("file.size", severity="should", at_most=5))) == "advice"


def test_a_yes_or_no_that_is_not_met_is_said_as_what_it_is() -> None:
    for prop in PROPERTIES.values():
        assert (prop.flag is not None) == (prop.kind.name == "flag"), prop.key
    asked = asking("picture.alpha", **{"is": True})
    (finding,) = ledger(Facts().with_values("measured", {"picture.alpha": False}), asked)
    assert finding.why == "The picture carries no transparency; the spec asks for it."
    better = asking("picture.bars", "should", **{"is": False})
    (finding,) = ledger(Facts().with_values("measured", {"picture.bars": True}), better)
    told = "Bars stand beside or above the picture; the spec would rather have none."
    assert finding.why == told
