"""The rules behind Masters: cadence, events, flashes, sequences, search, ranges, corrections,
assess.
"""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts, cadence, corrections, flashes, search, sequences, span
from ample_crate.core.facts.events import Event, stretches
from ample_crate.core.facts.properties import disagree
from ample_crate.core.planning import assess
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.fields import FieldOrder
from ample_crate.core.units.values import Size
from ample_crate.store.library import find
from support import master_facts


def repeats(pattern: list[int], frames: int) -> list[bool]:
    shown = [n for n in range(frames) for _ in range(pattern[n % len(pattern)])][:frames]
    return [False] + [a == b for a, b in zip(shown, shown[1:], strict=False)]  # noqa: RUF007


@pytest.mark.parametrize(
    ("pattern", "name", "share"),
    [
        ([1], "every frame new", 1),
        ([2], "each picture 2 times", Fraction(1, 2)),
        ([3], "each picture 3 times", Fraction(1, 3)),
        ([2, 3], "2:3", Fraction(2, 5)),
        ([1, 1, 1, 1, 2], "1 in 6 repeats", Fraction(5, 6)),
        ([1] * 23 + [2], "1 in 25 repeats", Fraction(24, 25)),
    ],
)
def test_cadences(pattern: list[int], name: str, share: Fraction) -> None:
    same = repeats(pattern, 240)
    assert cadence.find(same, same) == cadence.Cadence(name, Fraction(share))


def test_a_cadence_with_a_standstill_in_it_and_one_that_is_none() -> None:
    same = repeats([2, 3], 120) + [True] * 60 + repeats([2, 3], 120)
    found = cadence.find(same, same)
    assert found is not None and found.name == "2:3"
    assert cadence.find([True] * 100, [True] * 100) is None
    odd = [n in {5, 17, 20, 41, 66, 90} for n in range(100)]
    uneven = cadence.find(odd, odd)
    assert (
        uneven is not None
        and uneven.name == "uneven repeats"
        and uneven.told(Fraction(25)) == "uneven repeats"
    )


@given(st.lists(st.booleans(), max_size=80), st.integers(1, 5))
def test_stretches_cover_just_the_long_runs(marks: list[bool], least: int) -> None:
    found = stretches(marks, least)
    for first, last in found:
        assert last - first + 1 >= least and all(marks[first : last + 1])
        assert (first == 0 or not marks[first - 1]) and (
            last == len(marks) - 1 or not marks[last + 1]
        )
    covered = sum(b - a + 1 for a, b in found)
    assert covered <= sum(marks) and (least > 1 or covered == sum(marks))


def test_an_event_comes_back_from_json_as_it_was() -> None:
    event = Event("silent", Fraction(59259, 48000), Fraction(7, 3), "silent", 30, 57, 1)
    assert Event.from_json(event.as_json()) == event


def test_flashes_are_pairs_within_a_second() -> None:
    assert flashes.count([], Fraction(25)) == flashes.Flashing(0, ())
    assert (
        flashes.count([0, 3, 6, 9, 12, 15], Fraction(25)).most == 3
        and not flashes.count([0, 3, 6, 9, 12, 15], Fraction(25)).stretches
    )
    told = flashes.count([0, 3, 6, 9, 12, 15, 18, 21, 100, 150], Fraction(25))
    assert told.most == 4 and told.stretches == ((0, 21),)
    # A second is open at its end: frames 0 and 25 at 25 fps are not in the same one.
    assert flashes.count([0, 25], Fraction(25)).most == 0


def test_sequences_are_gathered_by_their_last_number() -> None:
    names = [
        "roll2_0001.dpx",
        "roll2_0002.dpx",
        "roll2_0004.dpx",
        "roll2_0001.tif",
        "roll3_7.dpx",
        "notes.txt",
        "a1.png",
        "a01.png",
        "cut.mov",
    ]
    found, rest = sequences.gather(names)
    assert [(s.name, s.missing, s.missing_count) for s in found] == [
        ("roll2_[0001-0004].dpx", [(3, 3)], 1)
    ]
    assert rest == ["a01.png", "a1.png", "cut.mov", "notes.txt", "roll2_0001.tif", "roll3_7.dpx"]
    many, _ = sequences.gather([f"x{n}.exr" for n in (1, 2, 9, 10, 11, 30)])
    assert sequences.gaps_told(many[0]) == [
        "Frames 3 to 8 are missing.",
        "Frames 12 to 29 are missing.",
    ]
    told = [*sequences.gaps_told(many[0]), *sequences.gaps_told(found[0]), "a9.png is odd."]
    assert [sequences.tells_a_gap(note) for note in told] == [True, True, True, False]


def test_a_search_is_words_bars_and_bounds() -> None:
    asked = search.read("Interlaced 5.1 -ProRes over 1.5 GB shorter than 10 min > 3 parsecs")
    assert asked.words == ("interlaced", "5.1") and asked.barred == ("prores",)
    assert [(b.what, b.over, b.figure) for b in asked.bounds] == [
        ("size", True, 1.5e9),
        ("seconds", False, 600),
    ]
    assert asked.unread == ("> 3 parsecs",)
    assert search.read("under 2 GiB").bounds[0].figure == 2 * 2**30
    assert search.read("over 1.2.3 GB").unread == ("over 1.2.3 GB",)


def test_words_of_a_master() -> None:
    words = search.words(
        "Reel.MOV",
        "Fog",
        master_facts(motion_scan="interlaced", picture_alpha=True, sound_layout="5.1"),
    )
    for word in (
        "reel.mov",
        "fog",
        "interlaced",
        "1080i",
        "1920x1080",
        "25fps",
        "prores",
        "4:2:2",
        "10bit",
        "5.1",
        "alpha",
    ):
        assert word in words, word
    assert "sound alone" in search.words(
        "a.wav",
        "",
        Facts().with_values(
            "measured", {"sound.tracks": 1, "sound.layout": "stereo", "sound.codec": "flac"}
        ),
    )


def test_a_range_of_a_master() -> None:
    master = master_facts(sound_loudness=Fraction(-23)).with_values(
        "declared", {"file.start_timecode": "10:00:00:00"}
    )
    part = span.within(master, span.Span(name="walk", first=250, frames=100))
    assert part.value("motion.frames") == 100 and part.value("file.duration") == 4
    assert (
        part.value("file.start_timecode") == "10:00:10:00" and part.value("sound.loudness") is None
    )
    assert span.within(master, None) is master
    with pytest.raises(BadValue, match="the last one is 499"):
        span.within(master, span.Span(name="late", first=450, frames=51))
    route = plan_route(
        master,
        find("pinfold-720p"),
        {},
        "reel.mov",
        Item(span.Span(name="walk", first=250, frames=100)),
    )
    assert route.plan is not None and route.plan.inputs[0].first == 250 and route.plan.seconds == 4
    assert route.facts.value("motion.frames") == 100 and "walk" in str(
        route.facts.value("file.name")
    )


def test_corrections_are_assumed_with_what_follows_from_them() -> None:
    facts = corrections.apply(
        master_facts(),
        {"motion.field_order": "lower first", "picture.pixel_aspect": "4/3", "motion.rate": "24/1"},
    )
    assert (
        facts.fact("motion.scan").provenance == "assumed"
        and facts.value("motion.scan") == "interlaced"
    )
    assert facts.value("picture.display_aspect") == Fraction(1920 * 4, 1080 * 3)
    assert facts.value("file.duration") == Fraction(500, 24)
    route = plan_route(facts, find("pinfold-720p"), {}, "reel.mov")
    assert (
        route.plan is not None
        and route.plan.picture.source.fields is FieldOrder.LOWER
        and route.plan.inputs[0].clock == "given"
    )
    assert route.plan.inputs[0].rate == 24 and route.plan.picture.source.pixel_aspect == Fraction(
        4, 3
    )
    blocked = plan_route(
        corrections.apply(master_facts(), {"picture.transfer": "log"}),
        find("pinfold-720p"),
        {},
        "reel.mov",
    )
    assert blocked.plan is None and any("logarithmic" in c.what for c in blocked.cautions)
    with pytest.raises(BadValue):
        corrections.check("sound.layout", "9.1")
    assert corrections.check("sound.layout@2", "5.1") == "5.1" and corrections.check(
        "picture.pixel_aspect", "16:11"
    ) == Fraction(16, 11)


def test_only_true_disagreements_are_contradictions() -> None:
    assert not disagree("file.duration", Fraction(10), Fraction(1001, 100)) and disagree(
        "file.duration", Fraction(10), Fraction(9)
    )
    assert not disagree("sound.bit_rate", 384_000, 383_000) and disagree(
        "sound.bit_rate", 384_000, 128_000
    )
    assert disagree("motion.field_order", "upper first", "lower first") and not disagree(
        "motion.rate", None, Fraction(25)
    )
    assert disagree("motion.rate", Fraction(24), Fraction(24000, 1001))


def perfect() -> dict[str, object]:
    """What the playout list of Tannery Hall takes as it is, but for the wrapper."""
    return {
        "picture.codec": "h264",
        "picture.profile": "high",
        "picture.size": Size(1920, 1080),
        "picture.pixel_aspect": Fraction(1),
        "picture.display_aspect": Fraction(16, 9),
        "picture.chroma": "4:2:0",
        "picture.bit_depth": 8,
        "picture.matrix": "BT.709",
        "picture.bit_rate": 14_000_000,
        "picture.peak_bit_rate": 15_900_000,
        "picture.range": "limited",
        "picture.level": Fraction(4),
        "picture.alpha": False,
        "motion.rate": Fraction(25),
        "motion.steady": True,
        "motion.scan": "progressive",
        "motion.field_order": "none",
        "motion.longest_gop": 25,
        "motion.frames": 500,
        "file.duration": Fraction(20),
        "sound.tracks": 1,
        "sound.codec": "aac",
        "sound.layout": "stereo",
        "sound.channels": 2,
        "sound.sample_rate": 48000,
        "sound.bit_rate": 320_000,
        "file.wrapper": "mov",
        "sound.length_difference": Fraction(0),
        "sound.start_offset": Fraction(0),
        "sound.true_peak": Fraction(-3),
        "sound.loudness": Fraction(-23),
        "file.index_in_front": True,
        "picture.primaries": "BT.709",
        "picture.transfer": "BT.709",
    }


def asked(**changes: object) -> assess.Assessment:
    values = perfect() | {k.replace("_", ".", 1): v for k, v in changes.items()}
    return assess.assess(Facts().with_values("measured", values), find("tannery-list"), "a.mov")  # type: ignore[arg-type]


def test_who_would_take_it() -> None:
    assert asked().answer == "accepts", asked()
    rewrapped = asked(file_wrapper="mp4")
    assert rewrapped.answer == "rewrap only" and "wrapper" in rewrapped.why
    assert asked(picture_size=Size(1280, 720)).answer == "needs an encode"
    assert asked(picture_transfer="PQ", picture_size=Size(1280, 720)).answer == "cannot"
    unread = assess.assess(Facts(), find("tannery-list"), "a.mov", known=False)
    assert unread.answer == "not known yet"
    silent = assess.assess(
        Facts().with_values("measured", {"sound.tracks": 1, "sound.codec": "aac"}),
        find("tannery-list"),
        "a.wav",
    )
    assert silent.answer == "cannot" and "no moving picture" in silent.why


@pytest.mark.parametrize(
    ("codec", "sound", "wrapper", "answer"),
    [
        ("h264", "aac", "mp4", "rewrap only"),
        ("h264", "pcm_s24le", "mp4", "needs an encode"),  # hardly a player takes it there
        ("h264", "pcm_s24le", "mov", "accepts"),
        ("prores", "pcm_s24le", "mxf", "rewrap only"),
        ("prores", "pcm_s24le", "mp4", "needs an encode"),
    ],
)
def test_a_new_wrapper_is_enough_where_it_carries_what_is_coded(
    codec: str, sound: str, wrapper: str, answer: str
) -> None:
    spec = Spec.model_validate(
        {
            "id": "wrapped",
            "version": 1,
            "recipient": "someone",
            "title": "Wrapped",
            "requirements": [{"property": "file.wrapper", "rule": {"is": wrapper}}],
        }
    )
    values = perfect() | {"picture.codec": codec, "sound.codec": sound, "file.wrapper": "mov"}
    master = Facts().with_values("measured", values)  # type: ignore[arg-type]
    assert assess.assess(master, spec, "a.mov").answer == answer
