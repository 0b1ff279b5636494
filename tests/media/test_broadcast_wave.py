"""The broadcast extension of a WAV, held against EBU Tech 3285 byte by byte."""

from __future__ import annotations

import struct
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from pymediainfo import MediaInfo

from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.beside import Beside, lay
from ample_crate.core.planning.plan import amount_of
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops
from clips import Clip, moving_bar
from conformance import SIZE, facts_of, measured_here, odd_ones, planned_from

RATE = 48000


def wav(**rules: Any) -> Spec:
    asked = {"file.wrapper": {"is": "wav"}, "sound.codec": {"is": "pcm_s24le"}} | rules
    rows = [{"property": key, "rule": rule} for key, rule in asked.items()]
    head = {"id": "bwf", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**head, "requirements": rows, "delivery": {"name": "{master}"}})


def chunk(path: Path) -> dict[str, Any] | None:
    """Read the extension: EBU Tech 3285, section 2.3."""
    data = path.read_bytes()
    at = data.find(b"bext")
    if at < 0:
        return None
    size = struct.unpack_from("<I", data, at + 4)[0]
    body = data[at + 8 : at + 8 + size]
    texts = struct.unpack_from("256s32s32s10s8s", body)
    reference, version = struct.unpack_from("<QH", body, 338)
    keys = ("description", "originator", "reference", "date", "time")
    told = {k: t.rstrip(b"\0").decode() for k, t in zip(keys, texts, strict=True)}
    return told | {
        "samples": reference,
        "version": version,
        "history": body[602:].rstrip(b"\0").decode(),
    }


def film(folder: Path, timecode: str = "") -> Path:
    about = {"timecode": timecode} if timecode else {}
    return Clip(draw=moving_bar(SIZE), frames=50, about=about).write(folder / "film.mov")


def test_the_masters_timecode_goes_on_as_samples(tmp_path: Path) -> None:
    master = film(tmp_path, timecode="10:00:00:12")
    plan, predicted, path, measured = planned_from(master, wav(), tmp_path / "out")
    assert not odd_ones(predicted, measured) and measured.contradictions() == []
    told = chunk(path)
    assert told is not None
    assert told["samples"] == 36000 * RATE + 12 * RATE // 25
    assert (told["description"], told["originator"]) == ("film", "Ample Crate")
    assert told["history"] == "A=PCM,F=48000,W=24,M=stereo\r\n" and len(told["date"]) == 10
    assert measured.value("file.start_time") == 36000 + Fraction(12, 25)
    assert measured.value("file.broadcast_extension") is True
    size = amount_of(plan)
    assert size.least <= path.stat().st_size <= size.most
    (general,) = MediaInfo.parse(path).general_tracks
    assert general.encoding_settings == "A=PCM,F=48000,W=24,M=stereo"
    (track,) = MediaInfo.parse(path).audio_tracks
    assert Fraction(track.delay) == 1000 * (36000 + Fraction(12, 25))


def test_of_a_range_it_is_the_ranges(tmp_path: Path) -> None:
    master = film(tmp_path, timecode="10:00:00:00")
    span = Span(name="part", first=30, frames=10)
    route = plan_route(facts_of(master), wav(), {}, "film.mov", Item(span))
    assert route.plan is not None
    made = ops.render([master], tmp_path / "out", route.plan, route.size).path
    told = chunk(made)
    assert told is not None and told["samples"] == 36000 * RATE + 30 * RATE // 25
    assert not odd_ones(route.facts, measured_here(made))


@pytest.mark.parametrize(
    ("timecode", "rules", "samples"),
    [
        (None, {}, None),
        (None, {"file.broadcast_extension": {"is": True}}, 0),
        ("10:00:00:00", {"file.broadcast_extension": {"is": False}}, None),
        ("10:00:00:00", {"file.start_time": {"is": "3600 s"}}, 3600 * RATE),
    ],
)
def test_it_is_there_as_asked(
    timecode: str | None, rules: dict[str, Any], samples: int | None, tmp_path: Path
) -> None:
    master = film(tmp_path, timecode=timecode or "")
    _, predicted, path, measured = planned_from(master, wav(**rules), tmp_path / "out")
    assert not odd_ones(predicted, measured)
    told = chunk(path)
    assert (None if told is None else told["samples"]) == samples
    assert measured.value("file.broadcast_extension") is (samples is not None)


def test_a_bwf_is_laid_by_its_time(tmp_path: Path) -> None:
    """And it goes on where a BWF is made of it."""
    master = film(tmp_path, timecode="10:00:00:00")
    span = Span(name="part", first=30, frames=20)
    route = plan_route(facts_of(master), wav(), {}, "film.mov", Item(span))
    assert route.plan is not None
    made = ops.render([master], tmp_path / "out", route.plan, route.size).path
    sound = measured_here(made)
    laying = lay(facts_of(master), Beside(made.name, sound))
    assert (laying.by, laying.later) == ("timecode", Fraction(30, 25))
    _, predicted, _, again = planned_from(made, wav(), tmp_path / "again")
    assert again.value("file.start_time") == sound.value("file.start_time")
    assert not odd_ones(predicted, again)


def test_a_length_over_a_day_is_none(tmp_path: Path) -> None:
    facts = facts_of(film(tmp_path)).with_values("declared", {"file.start_timecode": "23:59:59:20"})
    late = Facts(dict(facts.items())).with_values("declared", {"file.start_time": Fraction(90000)})
    plans = [plan_route(one, wav(), {}, "film.mov").plan for one in (facts, late)]
    assert [p.files[0].broadcast.reference // RATE for p in plans if p] == [86399, 86399]
