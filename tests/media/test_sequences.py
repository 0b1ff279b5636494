"""Image sequences as one master, and stills."""

import io
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image

from ample_crate.core.errors import AmpleError
from ample_crate.core.facts.sequences import gather
from ample_crate.core.planning.route import plan_route
from ample_crate.media import ops, sequence
from ample_crate.media.viewer import Viewer
from ample_crate.store.library import find
from clips import moving_bar

FORMATS = [
    ("dpx", "dpx", "gbrp10le", 10),
    ("exr", "exr", "gbrpf32le", 32),
    ("tif", "tiff", "rgb48le", 16),
    ("png", "png", "rgb24", 8),
    ("jpg", "mjpeg", "yuvj444p", 8),
]
DRAW = moving_bar((320, 180), 240)


def image(
    path: Path,
    number: int,
    codec: str = "png",
    pixels: str = "rgb24",
    size: tuple[int, int] = (320, 180),
) -> None:
    with av.open(str(path), "w", format="image2", options={"update": "1"}) as out:
        stream = out.add_stream(codec, rate=24)
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        frame = av.VideoFrame.from_ndarray(
            moving_bar(size, 240)(number / 24), format="rgb24"
        ).reformat(format=pixels)
        frame.pts = 0
        out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


def laid(folder: Path, into: Path, rate: Fraction = Fraction(24)) -> Path:
    (one,), rest = gather(p.name for p in folder.iterdir())
    assert not rest
    return sequence.lay_out(into, [folder / n for n in one.names], one, rate)


@pytest.mark.parametrize(
    ("ending", "codec", "pixels", "depth"), FORMATS, ids=[f[0] for f in FORMATS]
)
def test_numbered_images_are_one_master(
    ending: str, codec: str, pixels: str, depth: int, tmp_path: Path
) -> None:
    folder = tmp_path / "roll"
    folder.mkdir()
    for number in range(10):
        image(folder / f"roll_{number + 998:05d}.{ending}", number, codec, pixels)
    facts = ops.measure(laid(folder, tmp_path / "laid"), depth="everything").facts
    assert facts.value("file.wrapper") == "image sequence" and facts.value("motion.frames") == 10
    assert facts.value("motion.rate") == 24 and facts.value("file.duration") == Fraction(10, 24)
    assert facts.value("picture.size") == (320, 180) and facts.value("picture.bit_depth") == depth
    assert (
        facts.value("file.name") == f"roll_[00998-01007].{ending}"
        and facts.value("file.missing_frames") == 0
    )
    # What was not judged is not said to be within its limits.
    assert (facts.value("picture.excursion") is None) == (ending != "jpg")
    assert facts.value("file.size") == sum(p.stat().st_size for p in folder.iterdir())


def test_gaps_are_named_and_bridged_and_odd_images_named(tmp_path: Path) -> None:
    folder = tmp_path / "roll"
    folder.mkdir()
    for number in range(20):
        if number not in (5, 11, 12):
            image(folder / f"a{number}.png", number, size=(160, 90) if number == 17 else (320, 180))
    made = ops.measure(laid(folder, tmp_path / "laid", Fraction(30000, 1001)), depth="everything")
    assert "Frame 5 is missing." in made.notes and "Frames 11 to 12 are missing." in made.notes
    assert any("a17.png is 160 x 90" in n for n in made.notes)
    assert made.facts.value("file.missing_frames") == 3 and made.facts.value("motion.frames") == 20
    route = plan_route(made.facts, find("brackwater-scan"), {}, "a.png")
    (said,) = [c for c in route.cautions if c.row == "file.missing_frames"]
    assert "3 images" in said.what and said.figures == "3 of 20 frames" and not said.blocks
    assert made.facts.value("motion.rate") == Fraction(30000, 1001)
    viewer = Viewer()
    try:
        four, five, six = (
            np.asarray(
                Image.open(io.BytesIO(viewer.picture(tmp_path / "laid" / "sequence.json", n, 320))),
                np.int16,
            )
            for n in (4, 5, 6)
        )
        assert np.abs(four - five).mean() < 0.5 < np.abs(five - six).mean()
    finally:
        viewer.close()


def test_a_still(tmp_path: Path) -> None:
    Image.fromarray(DRAW(0.2)).save(tmp_path / "a.tif")
    facts = ops.measure(tmp_path / "a.tif", depth="everything").facts
    assert facts.value("file.wrapper") == "still image" and facts.value("motion.frames") == 1
    assert facts.value("motion.rate") is None and facts.value("file.duration") is None


@pytest.mark.parametrize(
    "body",
    [
        "{}",
        "no",
        '{"name": "x", "rate": "25", "ending": "/etc/passwd", "count": 1, "bytes": 1, "missing": '
        '0, "gaps": []}',
    ],
)
def test_a_description_from_a_stranger_opens_nothing(body: str, tmp_path: Path) -> None:
    (tmp_path / "sequence.json").write_text(body)
    with pytest.raises(AmpleError, match="no description"):
        ops.read_facts(tmp_path / "sequence.json")


def test_a_linear_and_a_logarithmic_film_scan(tmp_path: Path) -> None:
    image(tmp_path / "a.dpx", 0, "dpx", "gbrp10le")
    data = bytearray((tmp_path / "a.dpx").read_bytes())
    for value, said in ((1, "log"), (2, "linear"), (6, "BT.709")):
        data[801] = value  # SMPTE ST 268-1: transfer characteristic of the first element
        (tmp_path / "b.dpx").write_bytes(bytes(data))
        assert ops.read_facts(tmp_path / "b.dpx").value("picture.transfer") == said
