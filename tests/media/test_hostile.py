"""Bytes that lie, break or threaten: one clear message each, and nothing else suffers."""

import os
import random
import signal
import struct
from collections.abc import Callable
from pathlib import Path

import pytest

from ample_crate.core.errors import AmpleError, OverLimit
from ample_crate.media import confine, guard, limits, ops

Make = Callable[..., Path]


def refused(path: Path) -> str:
    with pytest.raises(AmpleError) as error:
        ops.measure(path)
    assert (
        error.value.way_out
        and "Traceback" not in error.value.what
        and "unforeseen" not in error.value.what
    )
    return error.value.what


def test_zero_bytes(tmp_path: Path) -> None:
    path = tmp_path / "empty.mp4"
    path.touch()
    assert "empty" in refused(path)


def test_text_named_as_film(tmp_path: Path) -> None:
    path = tmp_path / "notes.mp4"
    path.write_text("Scene one. A lantern in the fog.\n" * 40)
    assert "text file" in refused(path)


def test_a_truncated_mp4_names_the_missing_index(clip: Make, tmp_path: Path) -> None:
    whole = clip("plain.mp4").read_bytes()
    path = tmp_path / "cut.mp4"
    path.write_bytes(whole[: len(whole) // 2])
    assert "cut short" in refused(path) and "moov" in refused(path)


def test_a_truncated_mp4_with_its_index_in_front(
    hd_frames: Path, tmp_path: Path, measured: Callable[[Path], ops.Measured]
) -> None:
    import av

    front = tmp_path / "front.mp4"
    with (
        av.open(str(hd_frames)) as source,
        av.open(str(front), "w", options={"movflags": "+faststart"}) as out,
    ):
        mapped = {s.index: out.add_stream_from_template(s) for s in source.streams}
        for packet in source.demux():
            if packet.dts is not None:
                packet.stream = mapped[packet.stream.index]
                out.mux(packet)
    data = front.read_bytes()
    front.write_bytes(data[: len(data) * 6 // 10])
    found = ops.measure(front)
    assert found.notes and "cut short" in " ".join(found.notes)


def test_a_truncated_program_stream_is_measured_as_what_is_there(
    hd_fields: Path, clip: Make, tmp_path: Path
) -> None:
    whole = (
        clip("fields_u_u.mpg")
        if (hd_fields.parent / "fields_u_u.mpg").exists()
        else clip(
            "ps.mpg", codec="mpeg2video", sound_codec="mp2", frames=50, options={"b": "2000000"}
        )
    )
    data = whole.read_bytes()
    path = tmp_path / "cut.mpg"
    path.write_bytes(data[: len(data) // 2 + 777])
    found, all_of_it = ops.measure(path), ops.measure(whole)
    assert 0 < found.facts.value("motion.frames") < all_of_it.facts.value("motion.frames")
    assert found.notes and "damaged" in found.notes[0]


def forged(data: bytes, side: int) -> bytes:
    """Write a new width and height into the sample entry and the track header of an MP4."""
    at = data.index(b"avc1") + 4 + 24
    made = bytearray(data)
    made[at : at + 4] = struct.pack(">HH", side, side)
    head = data.index(b"tkhd") + 4 + 76
    made[head : head + 8] = struct.pack(">II", (side << 16) & 0xFFFFFFFF, (side << 16) & 0xFFFFFFFF)
    return bytes(made)


def test_a_header_that_claims_sixty_thousand_by_sixty_thousand(clip: Make, tmp_path: Path) -> None:
    lying = tmp_path / "huge.y4m"
    lying.write_bytes(b"YUV4MPEG2 W60000 H60000 F25:1 Ip A1:1 C420\nFRAME\n" + b"\x80" * 4096)
    message = refused(lying)
    assert "60000x60000" in message or "not a readable" in message
    mp4 = tmp_path / "huge.mp4"
    mp4.write_bytes(forged(clip("plain.mp4").read_bytes(), 60000))
    try:
        facts = ops.measure(mp4).facts
    except AmpleError as error:
        assert "60000" in error.what or "not a readable" in error.what
    else:  # the stream's own header is right, and is what is believed
        assert facts.value("picture.size") == (320, 180)


def test_a_file_that_is_not_there_and_a_folder(tmp_path: Path) -> None:
    assert "does not exist" in refused(tmp_path / "gone.mp4")
    assert "is a folder" in refused(tmp_path)


def test_a_crash_costs_one_item_of_a_batch(clip: Make, tmp_path: Path) -> None:
    good, bad = clip("plain.mp4"), tmp_path / "bad.mp4"
    bad.write_bytes(b"\x00" * 5000)
    results = [r for _, r in ops.read_many([good, bad, good])]
    assert isinstance(results[1], AmpleError)
    assert not isinstance(results[0], AmpleError) and not isinstance(results[2], AmpleError)


def test_a_batch_goes_on_when_its_child_is_ended(
    clip: Make, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    made: list[guard.Child] = []

    class Kept(guard.Child):
        def __enter__(self) -> guard.Child:
            made.append(self)
            return self

    monkeypatch.setattr(guard, "Child", Kept)
    paths = [clip("plain.mp4")] * 40 + [tmp_path / "none.mp4"]
    reading = ops.read_many(paths)
    results = [next(reading), next(reading)]
    os.killpg(made[0].pid, signal.SIGKILL)
    results += list(reading)
    ended = [found for path, found in results if path == paths[0] and isinstance(found, AmpleError)]
    # What had been answered counts; of the rest one file was at work, if any was still.
    assert len(results) == 41 and len(made) == 2 and len(ended) <= 1
    assert all(isinstance(one, OverLimit) and "was ended" in one.what for one in ended)


def test_a_child_that_dies_is_named_and_the_next_one_works(clip: Make) -> None:
    file = clip("plain.mp4")
    child = guard.Child(limits.READ, confine.reading(file))
    child.request("read", {"path": str(file)})
    os.killpg(child.pid, signal.SIGKILL)
    with pytest.raises(OverLimit, match="was ended"):
        child.request("read", {"path": str(file)})
    child.close()
    assert ops.read_facts(clip("plain.mp4"))


@pytest.mark.parametrize("seed", range(24))
def test_mutated_files_give_facts_or_one_clear_error(seed: int, clip: Make, tmp_path: Path) -> None:
    """Seeded damage in a small MP4: never a crash of ours, never an unforeseen error."""
    rng = random.Random(seed)
    data = bytearray(clip("plain.mp4").read_bytes())
    for _ in range(rng.choice([1, 10, 200])):
        data[rng.randrange(len(data))] = rng.randrange(256)
    path = tmp_path / "mutated.mp4"
    path.write_bytes(
        bytes(data[: rng.randrange(len(data) // 2, len(data))] if seed % 3 == 0 else data)
    )
    try:
        assert ops.read_facts(path)
    except AmpleError as error:
        assert error.way_out and "unforeseen" not in error.what
