"""Image sequences on disk: a folder of links in the order of the frames, and a description beside
it.

A missing number is bridged by the frame before it, so that everything after it stays in its time.
"""

from __future__ import annotations

import json
import os
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import BadMedia
from ..core.facts.sequences import ENDINGS, Sequence, gaps_told

if (
    TYPE_CHECKING
):  # the library itself is brought in where it is used: who lays a sequence out does not need it
    from av.container import InputContainer

DESCRIPTION, FRAMES = "sequence.json", "frames"


@dataclass(frozen=True)
class Told:
    """A sequence's description: its name, rate, frames (bridged ones counted), bytes and missing
    numbers.
    """

    name: str
    rate: Fraction
    ending: str
    count: int
    size: int
    missing: int
    gaps: tuple[str, ...] = ()


def lay_out(folder: Path, files: list[Path], sequence: Sequence, rate: Fraction) -> Path:
    """Lay out a sequence in a new folder by links; its description comes last, when all is there.

    Args:
        folder: where; made here.
        files: the images, in the order of `sequence.names`.
        sequence: their numbering.
        rate: frames a second.

    Returns:
        the description's path, which stands for the master.
    """
    frames = folder / FRAMES
    frames.mkdir(parents=True)
    ending, at, total = sequence.ending.lower(), 0, 0
    numbers = [*sequence.numbers[1:], sequence.numbers[-1] + 1]
    for file, number, following in zip(files, sequence.numbers, numbers, strict=True):
        total += file.stat().st_size
        for _ in range(following - number):
            (frames / link(at, ending)).symlink_to(file)
            at += 1
    return describe(
        folder,
        Told(
            sequence.name,
            rate,
            ending,
            at,
            total,
            sequence.missing_count,
            tuple(gaps_told(sequence)),
        ),
    )


def link(at: int, ending: str) -> str:
    """Name the link to the frame of a number, counted from nought."""
    return f"{at:08d}{ending}"


def images_of(description: Path) -> list[Path]:
    """List the images of a sequence in order, each once."""
    links = sorted((description.parent / FRAMES).iterdir())
    return list(dict.fromkeys(link.resolve() for link in links))


def escaped(path: str) -> str:
    """Write a path as it stands in the codec library's patterns of numbered names."""
    return path.replace("%", "%%")


def describe(folder: Path, told: Told) -> Path:
    """Write a sequence's description."""
    path, part = folder / DESCRIPTION, folder / f".{DESCRIPTION}.part"
    body = {
        "name": told.name,
        "rate": str(told.rate),
        "ending": told.ending,
        "count": told.count,
        "bytes": told.size,
        "missing": told.missing,
        "gaps": told.gaps,
    }
    part.write_text(json.dumps(body), "utf-8")
    os.replace(part, path)
    return path


def read(path: str) -> Told:
    """Read a sequence's description.

    Raises:
        BadMedia: it is none.
    """
    try:
        body = json.loads(Path(path).read_text("utf-8"))
        told = Told(
            body["name"],
            Fraction(body["rate"]),
            body["ending"],
            int(body["count"]),
            int(body["bytes"]),
            int(body["missing"]),
            tuple(map(str, body["gaps"])),
        )
        if told.ending not in ENDINGS or told.count < 1 or not 0 < told.rate <= 1000:
            raise ValueError
    except (ValueError, KeyError, TypeError, OSError, ZeroDivisionError):
        raise BadMedia(
            "This is no description of an image sequence.", "Hand in the images themselves."
        ) from None
    return told


def opened(path: str, options: dict[str, str]) -> InputContainer:
    """Open a sequence as one stream of frames at its rate."""
    import av

    told = read(path)
    folder = Path(path).parent / FRAMES
    if not folder.is_dir():
        raise BadMedia(
            "This is no description of an image sequence.", "Hand in the images themselves."
        )
    more = {
        "framerate": f"{told.rate.numerator}/{told.rate.denominator}",
        "start_number": "0",
        "pattern_type": "sequence",
    }
    return av.open(
        f"{escaped(str(folder))}/%08d{told.ending}",
        "r",
        format="image2",
        options=options | more,
        metadata_errors="replace",
    )


def odd_frames(path: str) -> list[str]:
    """Name the frames whose size or kind differs from most, and those that cannot be read, by
    reading each one's header.
    """
    told = read(path)
    seen: dict[str, tuple[str, int]] = {}
    kinds: dict[str, int] = {}
    folder = Path(path).parent / FRAMES
    for number in range(told.count):
        real = os.path.realpath(folder / link(number, told.ending))
        if real in seen:
            continue
        kind = _kind(real)
        seen[real] = kind, number
        kinds[kind] = kinds.get(kind, 0) + 1
    usual = max(kinds, key=lambda k: kinds[k])
    return [
        f"{os.path.basename(name)} is {kind}; the others are {usual}."
        for name, (kind, _) in seen.items()
        if kind != usual
    ]


def _kind(path: str) -> str:
    import av

    if not os.path.exists(path):
        return "not there"
    try:
        with av.open(path, "r", options={"protocol_whitelist": "file"}) as image:
            context = image.streams.video[0].codec_context
            return f"{context.width} x {context.height} {context.pix_fmt}"
    except (av.FFmpegError, IndexError, AttributeError):
        return "not readable"
