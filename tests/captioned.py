"""A film with two named tracks of sound, chapters, and captions as text."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
from av.stream import Disposition

from clips import Clip, moving_bar
from conformance import SIZE

NAMES = ("Full mix", "Music and effects")
CHAPTERS = (("Opening", 0, 800), ("Rain", 800, 2000))  # ms
LINES = ((300, 700, "Rain <i>again</i>,"), (1200, 500, "and lichen"), (1900, 600, "past the end"))


def captioned(folder: Path) -> Path:
    """Two seconds with two named tracks, of which the second is played; chapters; captions."""
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
