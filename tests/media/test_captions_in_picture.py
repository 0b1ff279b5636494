"""Captions that come with the frames (ANSI/CTA-708-E, carried as ATSC A/53 part 4 has it): they
stay with their frames, or are said to be left out.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import av
import pytest
from av.sidedata.sidedata import Type

from ample_crate.core import formats
from ample_crate.core.facts.words import IN_PICTURE
from ample_crate.core.planning.route import plan_route
from clips import Clip, moving_bar
from conformance import SIZE, Case, facts_of, odd_ones, planned_from, spec_for

FRAMES = 25
KEPT = [("h264", "high", "mp4"), ("hevc", "main", "mp4"), ("mpeg2video", "main", "mpeg-ps")]


def message(number: int) -> bytes:
    """Give a message of supplemental enhancement (ITU-T H.264 D.1.6) with one pair of bytes, which
    differs from frame to frame.
    """
    pair = bytes([0xFC, 0x20 + number, 0x21 + number])
    body = b"\xb5\x00\x31GA94\x03" + bytes([0x41, 0xFF]) + pair + b"\xff"
    return b"\x06\x04" + bytes([len(body)]) + body + b"\x80"


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("captioned")
    options = {"preset": "ultrafast", "crf": "20", "bf": "0"}
    plain = Clip(draw=moving_bar(SIZE), frames=FRAMES, options=options).write(folder / "plain.mp4")
    path = folder / "captioned.mp4"
    with av.open(str(plain)) as film, av.open(str(path), "w") as out:
        stream = out.add_stream_from_template(film.streams.video[0])
        for number, packet in enumerate(p for p in film.demux(video=0) if p.dts is not None):
            unit = message(number)
            # In MP4 each unit stands behind its length.
            made: av.Packet[av.VideoStream] = av.Packet(
                len(unit).to_bytes(4, "big") + unit + bytes(packet)
            )
            made.pts, made.dts, made.duration = packet.pts, packet.dts, packet.duration
            made.time_base, made.is_keyframe = packet.time_base, packet.is_keyframe
            made.stream = stream
            out.mux(made)
    return path


def pairs(path: Path) -> Iterator[tuple[int, int] | None]:
    """Give the pair of bytes that comes with each frame, in the order in which they are shown."""
    with av.open(str(path)) as container:
        for frame in container.decode(video=0):
            found = [bytes(d) for d in frame.side_data if d.type == Type.A53_CC]
            yield (found[0][1], found[0][2]) if found else None


def case_of(codec: str, profile: str, wrapper: str) -> Case:
    return Case(codec, profile, formats.PICTURE[codec].layouts(profile)[0], wrapper)


@pytest.mark.parametrize("kind", KEPT, ids=" ".join)
def test_each_pair_stays_with_its_frame(
    kind: tuple[str, str, str], master: Path, tmp_path: Path
) -> None:
    choices = {"picture": "encoded"} if kind[0] == "h264" else {}
    _, predicted, path, measured = planned_from(
        master, spec_for(case_of(*kind)), tmp_path, **choices
    )
    assert not odd_ones(predicted, measured)
    assert predicted.value("file.captions") == measured.value("file.captions") == IN_PICTURE
    assert list(pairs(path)) == [(0x20 + n, 0x21 + n) for n in range(FRAMES)]


def test_a_copy_has_them_too(master: Path, tmp_path: Path) -> None:
    profile = str(facts_of(master).value("picture.profile"))
    spec = spec_for(case_of("h264", profile, "matroska"))
    plan, predicted, path, measured = planned_from(master, spec, tmp_path, picture="copied")
    assert plan.picture is not None and plan.picture.kind == "copied picture"
    assert predicted.value("file.captions") == measured.value("file.captions") == IN_PICTURE
    assert list(pairs(path)) == list(pairs(master))


@pytest.mark.parametrize(
    ("kind", "more"),
    [
        (("prores", "hq", "mov"), {}),
        (KEPT[0], {"motion.rate": "50"}),
        (KEPT[0], {"motion.scan": "interlaced", "motion.field_order": "upper first"}),
    ],
    ids=["another codec", "another rate", "fields"],
)
def test_what_cannot_go_along_is_said(
    kind: tuple[str, str, str], more: dict[str, str], master: Path, tmp_path: Path
) -> None:
    spec = spec_for(case_of(*kind), **more)
    route = plan_route(facts_of(master), spec, {}, "captioned.mp4")
    (said,) = [c for c in route.cautions if c.row == "file.captions"]
    assert "do not go along" in said.what and "beside the file" in said.way_out
    _, predicted, path, measured = planned_from(master, spec, tmp_path)
    assert predicted.value("file.captions") is None and measured.value("file.captions") is None
    assert set(pairs(path)) == {None}


def test_a_spec_that_wants_none_gets_none(master: Path, tmp_path: Path) -> None:
    profile = str(facts_of(master).value("picture.profile"))
    spec = spec_for(case_of("h264", profile, "mp4"))
    document = spec.model_dump(mode="json", by_alias=True, exclude_none=True)
    document["requirements"].append({"property": "file.captions", "rule": {"present": False}})
    spec = type(spec).model_validate(document)
    plan, _, path, _ = planned_from(master, spec, tmp_path)
    assert plan.picture is not None and plan.picture.kind == "picture"
    assert set(pairs(path)) == {None}
