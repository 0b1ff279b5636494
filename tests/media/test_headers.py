"""What headers declare beyond the plain: flags, chapters, timecode, turn, mastering, encryption,
sizes over 4 GiB.
"""

import struct
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame

from ample_crate.core.errors import BadMedia
from ample_crate.media import iso, ops
from ample_crate.media.viewer import Viewer
from clips import Clip, moving_bar
from tones import sine, write

Make = Callable[..., Path]


def patched(path: Path, out: Path, old: bytes, new: bytes) -> Path:
    data = path.read_bytes()
    assert old in data and len(old) == len(new)
    out.write_bytes(data.replace(old, new, 1))
    return out


def test_an_encrypted_file_says_so(clip: Make, tmp_path: Path) -> None:
    """ISO/IEC 23001-7: a protected picture's sample entry is called encv."""
    with pytest.raises(BadMedia, match="is encrypted"):
        ops.read_facts(
            patched(
                clip("plain.mp4"),
                tmp_path / "locked.mp4",
                b"avc1\0\0\0\0\0\0\0\1",
                b"encv\0\0\0\0\0\0\0\1",
            )
        )


def test_a_codec_that_nothing_decodes_is_named(clip: Make, tmp_path: Path) -> None:
    silent = Clip(tones=None, frames=10).write(tmp_path / "plain.mov")
    with pytest.raises(
        BadMedia, match=r"no decoder|neither picture nor sound|could not be worked on"
    ) as error:
        ops.measure(
            patched(silent, tmp_path / "odd.mov", b"avc1\0\0\0\0\0\0\0\1", b"zq9x\0\0\0\0\0\0\0\1")
        )
    assert error.value.way_out


def two_tracks(path: Path, languages: tuple[str, str]) -> Path:
    tone = sine(-20, 1, 440).astype(np.float32)
    with av.open(str(path), "w") as out:
        tracks = []
        for language in languages:
            track = out.add_stream("aac", rate=48000, layout="mono")
            track.metadata["language"] = language
            tracks.append(track)
        for start in range(0, len(tone), 1024):
            for track in tracks:
                frame = av.AudioFrame.from_ndarray(
                    tone[None, start : start + 1024].copy(), format="fltp", layout="mono"
                )
                frame.sample_rate, frame.pts, frame.time_base = 48000, start, Fraction(1, 48000)
                out.mux(track.encode(frame))
        for track in tracks:
            out.mux(track.encode(None))
    return path


def test_languages_and_a_track_that_is_there_but_disabled(tmp_path: Path) -> None:
    facts = ops.read_facts(two_tracks(tmp_path / "a.mp4", ("eng", "gla")))
    assert facts.value("sound.language") == "eng" and facts.value("sound.language@2") == "gla"
    # libav's muxer enables the first track of a kind alone (tkhd flag 1).
    assert facts.value("sound.enabled") is True and facts.value("sound.enabled@2") is False
    assert [t.enabled for t in iso.read(str(tmp_path / "a.mp4")).of("soun")] == [True, False]


@pytest.mark.parametrize(
    ("text", "rate", "drop"),
    [("01:00:00;02", Fraction(30000, 1001), True), ("10:11:12:13", Fraction(25), False)],
)
def test_timecode_tracks(text: str, rate: Fraction, drop: bool, tmp_path: Path) -> None:
    path = tmp_path / "a.mov"
    with av.open(str(path), "w") as out:
        out.metadata["timecode"] = text
        video = out.add_stream("libx264", rate=rate)
        video.width, video.height, video.pix_fmt = 320, 180, "yuv420p"
        for number in range(10):
            frame = VideoFrame.from_ndarray(moving_bar()(number / 25), format="rgb24").reformat(
                format="yuv420p"
            )
            frame.pts, frame.time_base = number, 1 / rate
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    facts = ops.read_facts(path)
    assert facts.value("file.start_timecode") == text and facts.value("file.drop_frame") is drop
    assert facts.value("file.timecode_tracks") == 1


def test_chapters_are_counted(tmp_path: Path) -> None:
    path = tmp_path / "a.mkv"
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        video.width, video.height, video.pix_fmt = 320, 180, "yuv420p"
        base = Fraction(1, 1000)
        out.set_chapters(
            [
                {
                    "id": n + 1,
                    "start": n * 200,
                    "end": (n + 1) * 200,
                    "time_base": base,
                    "metadata": {"title": f"Reel {n}"},
                }
                for n in range(2)
            ]
        )
        for number in range(10):
            frame = VideoFrame.from_ndarray(moving_bar()(number / 25), format="rgb24").reformat(
                format="yuv420p"
            )
            frame.pts = number
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    assert ops.read_facts(path).value("file.chapters") == 2


def test_mastering_metadata_of_an_hdr_stream(tmp_path: Path) -> None:
    """SMPTE ST 2086 and CTA-861.3 figures, as an encoder writes them into the stream."""
    params = (
        "log-level=none:hdr10=1:colorprim=bt2020:transfer=smpte2084:colormatrix=bt2020nc:max-cll=1000,400"
        ":master-display=G(13250,34500)B(7500,3000)R(34000,16000)WP(15635,16450)L(10000000,50)"
    )
    path = tmp_path / "a.mp4"
    with av.open(str(path), "w") as out:
        video = out.add_stream(
            "libx265", rate=25, options={"x265-params": params, "preset": "ultrafast"}
        )
        video.width, video.height, video.pix_fmt = 320, 192, "yuv420p10le"
        for number in range(4):
            frame = VideoFrame.from_ndarray(
                moving_bar((320, 192))(number / 25), format="rgb24"
            ).reformat(format="yuv420p10le")
            frame.pts = number
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    facts = ops.measure(path).facts
    assert facts.value("picture.mastering") == "0.005 to 1000 cd/m2, P3-D65"
    assert (
        facts.value("picture.light_level") == "brightest sample 1000 cd/m2, frame average 400 cd/m2"
    )
    assert facts.value("picture.transfer") == "PQ" and facts.value("picture.bit_depth") == 10


def box(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", 8 + len(body)) + kind + body


def test_boxes_of_a_picture_track(tmp_path: Path) -> None:
    """ISO/IEC 14496-12: clean aperture and pixel aspect inside the sample entry; the index before
    the media.
    """
    entry = (
        bytes(78)
        + box(b"clap", struct.pack(">8I", 704, 1, 576, 1, 0, 1, 0, 1))
        + box(b"pasp", struct.pack(">2I", 16, 11))
    )
    table = box(
        b"stsd", struct.pack(">2I", 0, 1) + struct.pack(">I", 8 + len(entry)) + b"mp4v" + entry
    )
    media = box(
        b"mdia", box(b"hdlr", bytes(8) + b"vide" + bytes(12)) + box(b"minf", box(b"stbl", table))
    )
    track = box(b"trak", box(b"tkhd", bytes([0, 0, 0, 6]) + bytes(80)) + media)
    path = tmp_path / "a.mov"
    path.write_bytes(
        box(b"ftyp", b"qt  " + bytes(4)) + box(b"moov", track) + box(b"mdat", b"x" * 9)
    )
    layout = iso.read(str(path))
    (found,) = layout.of("vide")
    assert layout.index_in_front is True and layout.top == [b"ftyp", b"moov", b"mdat"]
    assert (
        found.aperture == (704, 576)
        and found.aspect == Fraction(16, 11)
        and found.enabled is False
        and found.entry == "mp4v"
    )


@pytest.mark.parametrize("size", [0, 7, 8, 0xFFFFFFFF])
def test_boxes_that_make_no_sense_end_the_reading(size: int, tmp_path: Path) -> None:
    path = tmp_path / "a.mov"
    path.write_bytes(
        box(b"ftyp", b"qt  ") + box(b"moov", struct.pack(">I4s", size, b"trak") + b"\0" * 40)
    )
    assert iso.read(str(path)).top == [b"ftyp", b"moov"]


def test_a_wave_file_over_4_gib(tmp_path: Path) -> None:
    """EBU Tech 3306 (RF64): sizes over 4 GiB stand in the ds64 chunk. The file is sparse: almost
    nothing is on disk.
    """
    seconds = 30_000
    data = seconds * 48000 * 2 * 2
    form = struct.pack("<HHIIHH", 1, 2, 48000, 48000 * 4, 4, 16)
    head = (
        b"RF64"
        + struct.pack("<I", 0xFFFFFFFF)
        + b"WAVE"
        + b"ds64"
        + struct.pack("<IQQQI", 28, 72 + data, data, data // 4, 0)
    )
    head += b"fmt " + struct.pack("<I", 16) + form + b"data" + struct.pack("<I", 0xFFFFFFFF)
    path = tmp_path / "long.wav"
    with path.open("wb") as file:
        file.write(head)
        file.truncate(len(head) + data)
    facts = ops.read_facts(path)
    assert data > 2**32 and facts.value("file.size") == len(head) + data
    assert (
        facts.value("file.wrapper") == "wav"
        and facts.value("file.duration") == seconds
        and facts.value("sound.bit_depth") == 16
    )


def test_a_turned_picture_is_shown_turned(tmp_path: Path) -> None:
    path = tmp_path / "a.mov"
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        video.width, video.height, video.pix_fmt = 320, 180, "yuv420p"
        video.set_display_rotation(90)
        for number in range(5):
            frame = VideoFrame.from_ndarray(moving_bar()(number / 25), format="rgb24").reformat(
                format="yuv420p"
            )
            frame.pts = number
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    facts = ops.measure(path).facts
    assert facts.value("picture.rotation") == 90
    import io

    from PIL import Image

    viewer = Viewer()
    try:
        image = Image.open(io.BytesIO(viewer.picture(path, 2, 180)))
        assert image.height > image.width
    finally:
        viewer.close()


def test_cover_art_beside_sound_is_no_picture(tmp_path: Path) -> None:
    facts = ops.measure(
        write(tmp_path / "a.flac", [sine(-20, 1)] * 2, codec="flac"), depth="everything"
    ).facts
    assert facts.value("picture.size") is None and facts.value("motion.frames") is None


@pytest.mark.parametrize(
    ("primaries", "transfer", "matrix", "says"),
    [
        ("smpte432", "smpte2084", "bt2020nc", ("P3-D65", "PQ", "BT.2020")),
        ("smpte431", "smpte428", "ictcp", ("P3-DCI", "SMPTE ST 428", "ICtCp")),
        ("bt2020", "arib-std-b67", "bt2020c", ("BT.2020", "HLG", "BT.2020 constant luminance")),
        ("smpte240m", "smpte240m", "smpte240m", ("SMPTE 240M",) * 3),
        ("film", "bt470m", "YCgCo", (None, "gamma 2.2", "YCgCo")),
    ],
)
def test_colours_are_told_by_the_points_that_streams_carry(
    tmp_path: Path, primaries: str, transfer: str, matrix: str, says: tuple[str | None, ...]
) -> None:
    """ISO/IEC 23091-2, as an encoder that carries its own table writes them; the points from
    memory.
    """
    how = {
        "preset": "ultrafast",
        "x264-params": f"colorprim={primaries}:transfer={transfer}:colormatrix={matrix}",
    }
    facts = ops.read_facts(
        Clip(tones=None, frames=3, options=how).write(tmp_path / "colours.264", "h264")
    )
    assert (
        tuple(facts.value(f"picture.{key}") for key in ("primaries", "transfer", "matrix")) == says
    )
