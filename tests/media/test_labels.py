"""What files say of themselves: title, artist, comment and languages, carried over or as asked.

Languages are ISO 639-2's; another parser is asked what it reads.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av
import pytest
from pymediainfo import MediaInfo

from ample_crate.core import formats
from ample_crate.core.formats.languages import NUMBERED, TWINS, known_by, numbered
from ample_crate.core.ledger import ledger
from ample_crate.core.planning.plan import amount_of
from ample_crate.core.specs.spec import Spec
from clips import Clip, moving_bar
from conformance import SIZE, facts_of, odd_ones, planned_from

SAID = {"title": "Lichen Hours: the reel", "artist": "Quill & Ink", "comment": "Second cut, ä ö"}


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A film that says what it is, in two languages."""
    folder = tmp_path_factory.mktemp("labels")
    plain = Clip(draw=moving_bar(SIZE), frames=25).write(folder / "plain.mp4")
    path = folder / "named.mp4"
    with av.open(str(plain)) as source, av.open(str(path), "w") as out:
        picture = out.add_stream_from_template(source.streams.video[0])
        tracks = [out.add_stream_from_template(source.streams.audio[0]) for _ in range(2)]
        for track, language in zip(tracks, ("gla", "deu"), strict=True):
            track.metadata["language"] = language
        for name, text in SAID.items():
            out.metadata[name] = text
        for packet in source.demux():
            if packet.dts is None:
                continue
            of_sound = packet.stream.type == "audio"
            coded = bytes(packet)
            for target in tracks if of_sound else [picture]:
                again: av.Packet[Any] = av.Packet(coded)
                again.pts, again.dts = packet.pts, packet.dts
                again.time_base, again.is_keyframe = packet.time_base, packet.is_keyframe
                again.stream = target
                out.mux(again)
    return path


def spec_of(wrapper: str, **rules: Any) -> Spec:
    codecs = {"webm": ("vp9", "opus"), "mxf": ("mpeg2video", "pcm_s16le")}
    picture, sound = codecs.get(wrapper, ("h264", "aac"))
    asked: dict[str, Any] = {"file.wrapper": {"is": wrapper}, "sound.codec": {"is": sound}}
    if formats.WRAPPERS[wrapper].picture:
        asked |= {"picture.codec": {"is": picture}, "picture.size": {"is": str(SIZE)}}
    rows = [{"property": key, "rule": rule} for key, rule in (asked | rules).items()]
    head = {"id": "labels", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(head | {"requirements": rows})


@pytest.mark.parametrize("way", ["encoded", "copied"])
@pytest.mark.parametrize("wrapper", ["mp4", "mov", "matroska", "webm", "mpeg-ts", "m4a", "mxf"])
def test_what_the_master_says_goes_along(
    wrapper: str, way: str, master: Path, tmp_path: Path
) -> None:
    if way == "copied" and wrapper in {"webm", "mxf"}:
        pytest.skip("its codecs do not go there")
    choices = {"sound": way, "tracks": "2"}
    plan, predicted, _, measured = planned_from(master, spec_of(wrapper), tmp_path, **choices)
    assert not odd_ones(predicted, measured)
    place = formats.WRAPPERS[wrapper]
    for name, text in SAID.items():
        assert measured.value(f"file.{name}") == (text if name in place.titles else None)
    # German has two codes, and is known by one here.
    assert measured.value("sound.language") == ("deu" if place.languages else None)
    amount = amount_of(plan)
    assert amount.least <= measured.value("file.size") <= amount.most


def test_another_parser_reads_the_same(master: Path, tmp_path: Path) -> None:
    choices = {"sound": "encoded", "tracks": "2"}
    _, _, path, _ = planned_from(master, spec_of("mov"), tmp_path, **choices)
    told = MediaInfo.parse(str(path))
    assert told.general_tracks[0].title == SAID["title"]
    assert told.audio_tracks[0].language == "de"


def test_the_spec_says_otherwise(master: Path, tmp_path: Path) -> None:
    rules = {
        "file.title": {"is": "Reel 2"},
        "file.comment": {"present": False},
        "sound.language": {"is": "fra"},
    }
    _, predicted, _, measured = planned_from(master, spec_of("mp4", **rules), tmp_path, tracks="1")
    assert not odd_ones(predicted, measured)
    assert measured.value("file.title") == "Reel 2"
    assert measured.value("file.comment") is None
    assert measured.value("file.artist") == SAID["artist"]
    assert measured.value("sound.language") == "fra"


@pytest.mark.parametrize("wrapper", ["wav", "aiff", "flac", "mp3", "avi"])
def test_others_have_a_place_for_titles(wrapper: str, master: Path, tmp_path: Path) -> None:
    sounds = {"flac": "flac", "mp3": "mp3", "aiff": "pcm_s16be"}
    codec = {"sound.codec": {"is": sounds.get(wrapper, "pcm_s16le")}}
    if wrapper == "avi":
        codec |= {"picture.codec": {"is": "mjpeg"}}
    spec = spec_of(wrapper, **codec)
    plan, predicted, _, measured = planned_from(master, spec, tmp_path, tracks="1")
    assert not odd_ones(predicted, measured)
    for name in formats.WRAPPERS[wrapper].titles:
        assert measured.value(f"file.{name}") == SAID[name]
    amount = amount_of(plan)
    assert amount.least <= measured.value("file.size") <= amount.most


def test_a_language_without_a_number_is_left_out_of_mov(master: Path, tmp_path: Path) -> None:
    assert facts_of(master).value("sound.language") == "gla"
    choices = {"sound": "encoded", "tracks": "1"}
    _, predicted, _, measured = planned_from(master, spec_of("mov"), tmp_path, **choices)
    assert not odd_ones(predicted, measured) and measured.value("sound.language") is None


def test_every_language_has_one_code() -> None:
    assert known_by("ger") == known_by("deu") == "deu"
    assert known_by("und") is None and known_by(None) is None
    assert numbered("deu") == "ger" and numbered("gla") is None
    assert not set(TWINS) & set(TWINS.values())
    assert all(known_by(numbered(known_by(code) or "")) == known_by(code) for code in NUMBERED)


def test_a_rule_with_the_other_code_asks_for_the_same_language(
    master: Path, tmp_path: Path
) -> None:
    spec = spec_of("mp4", **{"sound.language": {"is": "ger"}})
    _, predicted, _, measured = planned_from(master, spec, tmp_path, tracks="1")
    assert not odd_ones(predicted, measured)
    asked = next(f for f in ledger(measured, spec) if f.property == "sound.language")
    assert measured.value("sound.language") == "deu" and asked.verdict == "meets"
