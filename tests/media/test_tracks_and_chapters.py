"""What a file says of its tracks, its chapters, and its captions that are text.

Forms of text are 3GPP TS 26.245 in MP4 and MOV, SubRip in Matroska, WebVTT in WebM.
"""

from __future__ import annotations

import os
import re
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import pytest
from pymediainfo import MediaInfo

from ample_crate.core import formats
from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.facts.captions import tracks_of
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.plan import amount_of
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops
from captioned import CHAPTERS, NAMES, captioned
from clips import Clip, moving_bar
from conformance import SIZE, facts_of, odd_ones, planned_from

PLACES = ("mp4", "mov", "matroska", "webm")


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return captioned(tmp_path_factory.mktemp("tracks"))


def spec_of(wrapper: str, **rules: Any) -> Spec:
    picture, sound = ("vp9", "opus") if wrapper == "webm" else ("h264", "aac")
    asked: dict[str, Any] = {
        "file.wrapper": {"is": wrapper},
        "picture.codec": {"is": picture},
        "picture.size": {"is": str(SIZE)},
        "sound.codec": {"is": sound},
        "sound.tracks": {"is": 2},
    }
    rows = [{"property": key, "rule": rule} for key, rule in (asked | rules).items()]
    head = {"id": "tracks", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(head | {"requirements": rows})


def shown(path: Path) -> list[tuple[int, int, str]]:
    """Give the lines of a file's captions, as (begin, length, text), in ms from the picture's
    first frame on; slanted words stand in stars.
    """
    with av.open(str(path)) as container:
        film, stream = container.streams.video[0], container.streams.subtitles[0]
        first = Fraction(film.start_time or 0) * Fraction(film.time_base or 1)
        lines = []
        for packet in container.demux(stream):
            text = stream.codec_context.decode2(packet) if packet.size else None
            if text is not None and len(text):
                begin, length = packet.pts * packet.time_base, packet.duration * packet.time_base
                line = re.sub(r"\{[^}]*\}", "*", text[0].ass.decode().split(",", 8)[8])
                lines.append((round((begin - first) * 1000), round(length * 1000), line))
        return lines


@pytest.mark.parametrize("way", ["encoded", "copied"])
@pytest.mark.parametrize("wrapper", PLACES)
def test_names_flags_chapters_and_captions_go_along(
    wrapper: str, way: str, master: Path, tmp_path: Path
) -> None:
    choices = {"sound": way} if wrapper != "webm" else {}
    plan, predicted, path, measured = planned_from(master, spec_of(wrapper), tmp_path, **choices)
    assert not odd_ones(predicted, measured)
    tracks = [measured.value(f"sound.name{n}") for n in ("", "@2")]
    assert tracks == list(NAMES)
    assert [measured.value(f"sound.enabled{n}") for n in ("", "@2")] == [False, True]
    assert measured.value("file.chapters") == 2
    place = formats.WRAPPERS[wrapper]
    assert measured.value("file.captions") == f"{place.text} eng"
    lines = [(300, 700, "Rain *again*,"), (1200, 500, "and lichen"), (1900, 100, "past the end")]
    assert shown(path) == lines
    amount = amount_of(plan)
    assert amount.least <= measured.value("file.size") <= amount.most


def test_captions_past_the_end_are_not_taken_for_a_film_that_is_cut_short(master: Path) -> None:
    """The last line ends half a second after the film."""
    (note,) = (n for n in ops.measure(master).notes if "length in the header" in n)
    assert note.endswith("its captions run on beyond its end, or the file is cut short.")


def test_another_parser_reads_the_same(master: Path, tmp_path: Path) -> None:
    _, _, path, _ = planned_from(master, spec_of("mp4"), tmp_path)
    told = MediaInfo.parse(str(path))
    assert [t.title for t in told.audio_tracks] == list(NAMES)
    assert [t.default for t in told.audio_tracks] == ["No", "Yes"]
    assert [t.language for t in told.text_tracks if t.language] == ["en"]
    assert any("Rain" in str(menu.to_data()) for menu in told.menu_tracks)


def test_the_spec_says_otherwise(master: Path, tmp_path: Path) -> None:
    rules = {
        "sound.name": {"present": False},
        "sound.enabled@1": {"is": True},
        "file.chapters": {"is": 0},
        "file.captions": {"present": False},
    }
    _, predicted, path, measured = planned_from(master, spec_of("mp4", **rules), tmp_path)
    assert not odd_ones(predicted, measured)
    assert measured.value("sound.name") is None and measured.value("sound.enabled") is True
    assert measured.value("file.chapters") == 0 and measured.value("file.captions") is None
    with av.open(str(path)) as container:
        assert not container.streams.subtitles and not container.streams.data


def test_of_a_range_only_its_part(master: Path, tmp_path: Path) -> None:
    """From 0.6 s to 1.6 s: both chapters are cut, and the first line has 0.4 s left."""
    span = Span(name="part", first=15, frames=25)
    route = plan_route(facts_of(master), spec_of("mov"), {}, "film.mkv", Item(span))
    assert route.plan is not None and route.facts.value("file.chapters") is None
    made = ops.render([master], tmp_path, route.plan, route.size).path
    with av.open(str(made)) as container:
        found = [(c["metadata"]["title"], c["start"], c["end"]) for c in container.chapters()]
    # The coder's first samples lie before the picture, which begins that much later.
    assert [title for title, *_ in found] == [title for title, *_ in CHAPTERS]
    assert [n for _, *times in found for n in times] == pytest.approx([0, 200, 200, 1000], abs=22)
    assert shown(made) == [(0, 400, "Rain *again*,"), (600, 400, "and lichen")]


@pytest.mark.parametrize(
    ("wrapper", "captions", "said"),
    [
        ("mpeg-ts", "subrip eng", "has no place for text"),
        ("mp4", "dvd_subtitle deu", "pictures or codes"),
    ],
)
def test_captions_are_not_lost_in_silence(
    wrapper: str, captions: str, said: str, master: Path
) -> None:
    facts = facts_of(master).with_values("declared", {"file.captions": captions})
    route = plan_route(facts, spec_of(wrapper), {}, "film.mkv")
    assert route.plan is not None
    (told,) = [c for c in route.cautions if c.row == "file.captions"]
    assert said in told.why and captions in told.what and "beside the file" in told.way_out


SRT = """1
00:00:00,300 --> 00:00:01,000
Rain <i>again</i>,

2
00:00:01,200 --> 00:00:01,700
and lichen

3
00:00:01,900 --> 00:00:02,000
past the end

"""
# W3C WebVTT, section 4: a signature, and cues with full stops in their times.
VTT = "WEBVTT\n\n" + "\n".join(
    re.sub(r"00:(\d\d:\d\d),", r"\1.", line) for line in SRT.splitlines() if not line.isdecimal()
)


def with_captions(spec: Spec, *forms: str) -> Spec:
    wanted = [{"kind": "captions", "form": form} for form in forms]
    delivery = {"name": "{master}", "sidecars": wanted}
    return Spec.model_validate(spec.model_dump() | {"delivery": delivery})


@pytest.mark.parametrize("wrapper", ["mpeg-ts", "mp4"])
def test_captions_lie_beside_where_that_is_asked(
    wrapper: str, master: Path, tmp_path: Path
) -> None:
    """Without another decoder: the forms are text that anybody reads (WebVTT is W3C's)."""
    spec = with_captions(spec_of(wrapper), "srt", "webvtt")
    route = plan_route(facts_of(master), spec, {}, "film.mkv")
    assert route.plan is not None
    assert not [c for c in route.cautions if c.row == "file.captions"]
    made = ops.render([master], tmp_path, route.plan, route.size)
    assert (tmp_path / "film.srt").read_text() == SRT
    assert (tmp_path / "film.vtt").read_text().strip() == VTT.strip()
    assert made.notes == ["film.srt: 3 captions.", "film.vtt: 3 captions."]
    assert sorted(os.listdir(tmp_path)) == sorted(["film.srt", "film.vtt", made.path.name])
    with av.open(str(made.path)) as container:
        inside = len(container.streams.subtitles)
    assert inside == (wrapper == "mp4")


def test_captions_beside_are_those_of_the_range(master: Path, tmp_path: Path) -> None:
    spec, facts = with_captions(spec_of("mov"), "srt", "webvtt"), facts_of(master)
    for first, frames, lines in ((30, 10, ["00:00:00,000 --> 00:00:00,400"]), (26, 3, [])):
        span = Span(name="part", first=first, frames=frames)
        route = plan_route(facts, spec, {}, "film.mkv", Item(span))
        assert route.plan is not None
        made = ops.render([master], tmp_path / str(first), route.plan, route.size)
        text = made.path.with_suffix(".srt").read_text()
        assert [line for line in text.splitlines() if "-->" in line] == lines
        assert made.notes[0] == f"film_part.srt: {len(lines)} caption{'' if lines else 's'}."
        # Without a line it is still a file of its form.
        assert made.path.with_suffix(".vtt").read_text().startswith("WEBVTT")


def test_they_can_be_chosen_where_nobody_asks(master: Path) -> None:
    facts = facts_of(master)
    route = plan_route(facts, spec_of("mpeg-ts"), {"captions": "srt"}, "film.mkv")
    assert route.plan is not None and route.choices["captions"] == "srt"
    assert [file.name for file in route.plan.captions] == ["film_pinfold.srt"]
    assert not [c for c in route.cautions if c.row == "file.captions"]
    with pytest.raises(BadValue, match="no form of captions"):
        plan_route(facts, spec_of("mpeg-ts"), {"captions": "pdf"}, "film.mkv")
    asked = plan_route(facts, with_captions(spec_of("mov"), "srt"), {}, "film.mkv")
    assert "captions" not in asked.choices
    without = facts.with_values("declared", {"file.captions": "dvd_subtitle deu"})
    assert "captions" not in plan_route(without, spec_of("mov"), {}, "film.mkv").choices


@pytest.mark.parametrize(
    ("tracks", "names"),
    [
        ("subrip eng, webvtt deu", ["film.eng.srt", "film.deu.srt"]),
        ("subrip eng, dvd_subtitle deu, ass eng", ["film.1.srt", "film.3.srt"]),
        ("subrip", ["film.srt"]),
    ],
)
def test_files_of_several_tracks_are_told_apart(
    tracks: str, names: list[str], master: Path
) -> None:
    facts = facts_of(master).with_values("declared", {"file.captions": tracks})
    route = plan_route(facts, with_captions(spec_of("mov"), "srt"), {}, "film.mkv")
    assert route.plan is not None
    assert [file.name for file in route.plan.captions] == names


def test_captions_that_are_asked_for_and_not_there_are_missed(tmp_path: Path) -> None:
    clip = Clip(draw=moving_bar(SIZE), frames=10).write(tmp_path / "plain.mov")
    spec = with_captions(spec_of("mov"), "webvtt")
    route = plan_route(facts_of(clip), spec, {}, "plain.mov")
    assert route.plan is not None and not route.plan.captions
    (told,) = [c for c in route.cautions if c.row == "file.captions"]
    assert "WebVTT beside the file" in told.what and "by hand" in told.way_out


def test_tracks_of_captions_are_read_from_what_the_header_names() -> None:
    facts = Facts().with_values("declared", {"file.captions": "mov_text eng, eia_608"})
    assert [tuple(t) for t in tracks_of(facts)] == [(1, "mov_text", "eng"), (2, "eia_608", "")]


def test_channels_in_tracks_of_their_own_are_all_played(tmp_path: Path) -> None:
    clip = Clip(draw=moving_bar(SIZE), frames=10).write(tmp_path / "stereo.mov")
    rules = {"sound.channels": {"is": 1}, "sound.codec": {"is": "pcm_s24le"}}
    spec = spec_of("mov", **rules)
    _, predicted, _, measured = planned_from(clip, spec, tmp_path / "out")
    assert not odd_ones(predicted, measured)
    assert [measured.value(f"sound.enabled{n}") for n in ("", "@2")] == [True, True]
