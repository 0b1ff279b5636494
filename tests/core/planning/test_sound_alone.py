"""Files that hold sound and no picture."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.assess import assess
from ample_crate.core.planning.plan import Route, amount_of
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from support import master_facts

NO_PICTURE = {
    "picture_codec": None,
    "picture_size": None,
    "motion_rate": None,
    "motion_frames": None,
    "file_wrapper": "wav",
}


def spec(wrapper: str = "wav", **rows: Any) -> Spec:
    asked = {"file.wrapper": wrapper} | {k.replace("_", ".", 1): v for k, v in rows.items()}
    kept = {"id": "sound-alone", "version": 1, "recipient": "pinfold", "title": "t"}
    requirements = [{"property": key, "rule": {"is": value}} for key, value in asked.items()]
    return Spec.model_validate({**kept, "requirements": requirements})


def planned(master: Facts, asked: Spec, item: Item | None = None, **choices: Any) -> Route:
    return plan_route(master, asked, choices, "film.mov", item or Item())


def test_the_picture_is_left_out_and_that_is_said() -> None:
    route = planned(master_facts(), spec(), sound="encoded")
    plan = route.plan
    assert plan is not None and plan.picture is None and plan.frames == 0 and plan.work == 0
    assert [s.kind for s in plan.streams] == ["sound"]
    assert any(s.title == "Picture left out" for s in route.steps)
    assert route.facts.value("picture.codec") is None
    assert route.facts.value("file.duration") == 20
    assert route.size == amount_of(plan).expected == 20 * 48000 * 2 * 3 + 138
    assert "picture" not in route.choices and plan.files[0].name.endswith(".wav")


def test_a_length_that_is_no_whole_number_of_samples_is_cut_to_one() -> None:
    rate = Fraction(30000, 1001)
    master = master_facts(motion_rate=rate, motion_frames=1, file_duration=1 / rate)
    assert planned(master, spec(), sound="encoded").facts.value("file.duration") == Fraction(
        1601, 48000
    )


def test_a_range_of_a_picture_gives_its_sound() -> None:
    route = planned(master_facts(), spec(), Item(Span(name="a", first=50, frames=25)))
    assert route.plan is not None and route.plan.inputs[0].start == 2
    assert route.facts.value("file.duration") == 1


def test_a_master_of_sound_alone_needs_no_picture() -> None:
    master = master_facts(**NO_PICTURE)
    copied = planned(master, spec())
    assert copied.plan is not None and copied.plan.sounds[0].kind == "copied sound"
    resampled = planned(master, spec(sound_sample_rate=44100))
    assert resampled.plan is not None and resampled.plan.inputs[0].rate is None
    assert resampled.facts.value("sound.sample_rate") == 44100
    assert not any("Picture" in s.title for s in resampled.steps)
    assert assess(master, spec(), "film.wav").answer == "accepts"
    assert assess(master, spec(sound_sample_rate=44100), "film.wav").answer == "needs an encode"


def test_of_several_depths_none_is_lost_unless_it_is_asked() -> None:
    either = {"property": "sound.codec", "rule": {"one_of": ["pcm_s16le", "pcm_s24le"]}}
    document = spec().model_dump(by_alias=True, exclude_none=True)
    document["requirements"].append(either)
    asked = Spec.model_validate(document)
    deep = master_facts(sound_codec="pcm_s24be", sound_bit_depth=24)
    assert planned(deep, asked).facts.value("sound.codec") == "pcm_s24le"
    flat = master_facts(sound_codec="pcm_s16be", sound_bit_depth=16)
    assert planned(flat, asked).facts.value("sound.codec") == "pcm_s16le"
    chosen = planned(deep, asked, **{"sound.codec": "pcm_s16le"})
    assert chosen.facts.value("sound.codec") == "pcm_s16le"
    assert any("24 bit are cut to 16" in c.what for c in chosen.cautions)
    assert not any("bit are cut" in c.what for c in planned(deep, asked).cautions)


def test_sound_that_begins_late_is_laid_to_the_start() -> None:
    late = planned(master_facts(sound_start_offset=Fraction(1, 50)), spec())
    assert late.plan is not None and late.plan.sounds[0].kind == "sound"


def test_what_cannot_be_says_so_with_a_way_out() -> None:
    silent = planned(master_facts(sound_tracks=0), spec())
    (said,) = silent.cautions
    assert said.blocks and "no sound to hand over" in said.what and said.way_out
    other = planned(master_facts(), spec("flac", sound_codec="mp2"))
    (said,) = other.cautions
    assert said.blocks and "does not go into FLAC" in said.what and said.way_out
    wide = planned(master_facts(sound_channels=8, sound_layout="7.1"), spec("aiff"))
    assert any(c.blocks and "at most 6 channels" in c.way_out for c in wide.cautions)
    small = planned(master_facts(), spec(file_size="1 MB"))
    assert any(c.blocks and c.row == "file.size" for c in small.cautions)
