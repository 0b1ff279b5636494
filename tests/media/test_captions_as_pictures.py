"""Captions that are pictures go along as they are: the subpictures of a DVD."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import pytest
from pymediainfo import MediaInfo

from ample_crate.core.facts.span import Span
from ample_crate.core.planning.plan import amount_of
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops
from clips import Clip, moving_bar
from conformance import SIZE, facts_of, odd_ones, planned_from

# A subpicture by the layout of DVD-Video (from memory): its size, where its commands lie, two lines
# of one colour, and the commands: palette, transparency, place, fields, shown at once.
SUBPICTURE = bytes.fromhex("002000080001000100000008033210040ff005010040010041060004000601ff")
TIMES = (300, 1200, 1900)  # ms; each lasts half a second
MILLI = Fraction(1, 1000)


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("subpictures")
    plain = Clip(draw=moving_bar(SIZE), frames=50).write(folder / "plain.mp4")
    path = folder / "film.mkv"
    with av.open(str(plain)) as film, av.open(str(path), "w") as out:
        streams = {s.index: out.add_stream_from_template(s) for s in film.streams}
        captions = out.add_mux_stream("dvdsub")
        captions.time_base, captions.metadata["language"] = MILLI, "deu"
        packets: list[Any] = [p for p in film.demux() if p.dts is not None]
        for packet in packets:
            packet.stream = streams[packet.stream.index]
        for at in TIMES:
            made: av.Packet[Any] = av.Packet(SUBPICTURE)
            made.pts = made.dts = at
            made.duration, made.time_base, made.stream = 500, MILLI, captions
            packets.append(made)
        for packet in sorted(packets, key=lambda p: p.dts * p.time_base):
            out.mux(packet)
    return path


def spec_of(wrapper: str) -> Spec:
    asked = {"file.wrapper": wrapper, "picture.codec": "h264", "sound.codec": "aac"}
    rows = [{"property": key, "rule": {"is": value}} for key, value in asked.items()]
    head = {"id": "subpictures", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**head, "requirements": rows})


def shown(path: Path) -> list[tuple[int, int]]:
    """Give when each subpicture begins and how long it lasts, in ms."""
    with av.open(str(path)) as container:
        film, stream = container.streams.video[0], container.streams.subtitles[0]
        first = Fraction(film.start_time or 0) * film.time_base
        packets = [p for p in container.demux(stream) if p.size]
        assert all(bytes(p) == SUBPICTURE for p in packets)
        return [
            (round((p.pts * p.time_base - first) * 1000), round(p.duration * p.time_base * 1000))
            for p in packets
        ]


@pytest.mark.parametrize("way", ["encoded", "copied"])
def test_they_go_along_where_there_is_a_place(way: str, master: Path, tmp_path: Path) -> None:
    plan, predicted, path, measured = planned_from(
        master, spec_of("matroska"), tmp_path, picture=way, sound=way
    )
    assert measured.value("file.captions") == "dvd_subtitle deu"
    assert not odd_ones(predicted, measured)
    assert shown(path) == [(300, 500), (1200, 500), (1900, 100)]
    size = amount_of(plan)
    assert size.least <= measured.value("file.size") <= size.most
    (track,) = MediaInfo.parse(path).text_tracks
    assert (track.format, track.language) == ("VobSub", "de")


def test_of_a_range_only_its_part(master: Path, tmp_path: Path) -> None:
    span = Span(name="part", first=15, frames=25)
    route = plan_route(facts_of(master), spec_of("matroska"), {}, "film.mkv", Item(span))
    assert route.plan is not None
    made = ops.render([master], tmp_path, route.plan, route.size).path
    assert shown(made) == [(0, 200), (600, 400)]


def test_where_there_is_none_that_is_said(master: Path) -> None:
    route = plan_route(facts_of(master), spec_of("mp4"), {}, "film.mkv")
    (told,) = [c for c in route.cautions if c.row == "file.captions"]
    assert "no place in MP4" in told.why and "whether Matroska will do" in told.way_out
    coded = facts_of(master).with_values("declared", {"file.captions": "eia_608"})
    route = plan_route(coded, spec_of("mp4"), {}, "film.mkv")
    (told,) = [c for c in route.cautions if c.row == "file.captions"]
    assert told.way_out == "Send them along beside the file."
