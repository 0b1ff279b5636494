"""What a file says of its tracks, its chapters, and its captions that are text.

Forms of text are 3GPP TS 26.245 in MP4 and MOV, SubRip in Matroska, WebVTT in WebM.
"""

from __future__ import annotations

import re
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import pytest
from av.stream import Disposition
from pymediainfo import MediaInfo

from ample_crate.core import formats
from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.captions import tracks_of
from ample_crate.core.planning.plan import amount_of
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops
from clips import Clip, moving_bar
from conformance import SIZE, facts_of, odd_ones, planned_from

NAMES = ("Full mix", "Music and effects")
CHAPTERS = (("Opening", 0, 800), ("Rain", 800, 2000))  # ms
LINES = ((300, 700, "Rain <i>again</i>,"), (1200, 500, "and lichen"), (1900, 600, "past the end"))
PLACES = ("mp4", "mov", "matroska", "webm")


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two seconds with two named tracks, of which the second is played; chapters; captions."""
    folder = tmp_path_factory.mktemp("tracks")
    plain = Clip(draw=moving_bar(SIZE), frames=50).write(folder / "plain.mp4")
    lines = folder / "lines.srt"
    lines.write_text(
        "".join(f"{n}\n{at(a)} --> {at(a + d)}\n{t}\n\n" for n, (a, d, t) in enumerate(LINES, 1))
    )
    path = folder / "film.mkv"
    with av.open(str(plain)) as film, av.open(str(lines)) as text, av.open(str(path), "w") as out:
        picture = out.add_stream_from_template(film.streams.video[0])
        tracks = [out.add_stream_from_template(film.streams.audio[0]) for _ in NAMES]
        for track, name in zip(tracks, NAMES, strict=True):
            track.metadata["title"] = name
            track.disposition = Disposition(int(name == NAMES[1]))
        captions = out.add_stream_from_template(text.streams.subtitles[0])
        captions.metadata["language"] = "eng"
        out.set_chapters([chapter(n, *c) for n, c in enumerate(CHAPTERS, 1)])
        packets = [(p, [captions]) for p in text.demux() if p.dts is not None]
        packets += [
            (p, tracks if p.stream.type == "audio" else [picture])
            for p in film.demux()
            if p.dts is not None
        ]
        for packet, targets in sorted(packets, key=lambda one: one[0].dts * one[0].time_base):
            for target in targets:
                out.mux(again(packet, target))
    return path


def at(milliseconds: int) -> str:
    return f"00:00:{milliseconds // 1000:02d},{milliseconds % 1000:03d}"


def chapter(number: int, title: str, start: int, end: int) -> dict[str, Any]:
    return {
        "id": number,
        "start": start,
        "end": end,
        "time_base": Fraction(1, 1000),
        "metadata": {"title": title},
    }


def again(packet: av.Packet[Any], stream: Any) -> av.Packet[Any]:
    made: av.Packet[Any] = av.Packet(bytes(packet))
    made.pts, made.dts, made.duration = packet.pts, packet.dts, packet.duration
    made.time_base, made.is_keyframe, made.stream = packet.time_base, packet.is_keyframe, stream
    return made


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
