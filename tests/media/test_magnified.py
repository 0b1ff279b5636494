"""The values that are shown of samples, held against frames whose every sample is known."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame

from ample_crate.core.formats.pixels import Pixels
from ample_crate.core.planning.route import plan_route
from ample_crate.media import magnified
from ample_crate.media.magnified import COLUMNS, ROWS
from clear import SIZE, halves
from conformance import Case, facts_of, ignored, make, spec_for

WIDE, HIGH = 64, 48


def painted(form: str, rng: np.random.Generator) -> tuple[VideoFrame, list[np.ndarray]]:
    """Give a frame of random samples, and its planes."""
    frame = VideoFrame(WIDE, HIGH, form)
    planes = []
    for number, plane in enumerate(frame.planes):
        bits = frame.format.components[min(number, len(frame.format.components) - 1)].bits
        kind = np.uint16 if bits > 8 else np.uint8
        room = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size).view(kind)
        made = rng.integers(16, 235 << (bits - 8), (plane.height, plane.width), kind)
        room[:, : plane.width] = made
        planes.append(made)
    return frame, planes


def side(frame: VideoFrame, left: int, top: int, woven: bool = False) -> Any:
    told = magnified._side(frame, left, top, woven, "BT.709")
    return told


@pytest.mark.parametrize(
    ("form", "across", "down"),
    [
        ("yuv420p", 2, 2),
        ("yuv422p10le", 2, 1),
        ("yuv444p12le", 1, 1),
        ("yuv411p", 4, 1),
        ("yuva444p16le", 1, 1),
    ],
)
def test_each_place_has_the_samples_that_make_it(form: str, across: int, down: int) -> None:
    frame, planes = painted(form, np.random.default_rng(3))
    found = side(frame, 13, 7)
    assert found["values"].shape == (ROWS, COLUMNS, len(planes))
    assert found["stored"] == frame.format.components[0].bits
    assert found["names"] == ["Y", "Cb", "Cr", "A"][: len(planes)]
    for row, column in ((0, 0), (3, 6), (ROWS - 1, COLUMNS - 1)):
        y, x = 7 + row, 13 + column
        wanted = [planes[0][y, x]]
        wanted += [planes[n][y // down, x // across] for n in (1, 2)]
        wanted += [plane[y, x] for plane in planes[3:]]
        assert found["values"][row, column].tolist() == wanted


def test_fields_of_420_have_colour_of_their_own() -> None:
    frame, planes = painted("yuv420p", np.random.default_rng(4))
    found = side(frame, 0, 0, woven=True)["values"]
    # Lines 0 and 2 are the first two of the upper field, 1 and 3 of the lower one.
    of_line = [0, 1, 0, 1, 2, 3, 2, 3, 4, 5]
    for line, chroma in enumerate(of_line):
        assert found[line, :, 1].tolist() == np.repeat(planes[1][chroma, :8], 2).tolist()


@pytest.mark.parametrize("form", ["rgb24", "bgra", "gbrp", "rgb48le", "rgba64le", "pal8"])
def test_colours_are_told_as_such(form: str) -> None:
    wanted = (200, 40, 7)
    plain = np.full((HIGH, WIDE, 3), wanted, np.uint8)
    frame = VideoFrame.from_ndarray(plain, "rgb24")
    if form == "pal8":
        frame = VideoFrame(WIDE, HIGH, "pal8")
        memoryview(frame.planes[1])[:4] = bytes((7, 40, 200, 255))
        memoryview(frame.planes[0])[:] = bytes(frame.planes[0].buffer_size)
    elif form != "rgb24":
        frame = frame.reformat(format=form)
    found = side(frame, 2, 2)
    assert found["names"][:3] == ["R", "G", "B"]
    scale = 257 if found["stored"] == 16 else 1
    assert np.abs(found["values"][4, 4, :3] - np.array(wanted) * scale).max() < scale
    assert found["colours"][4][4] == "#c82807"
    if "A" in found["names"]:
        assert abs(found["values"][0, 0, 3] - 255 * scale) < scale


@pytest.mark.parametrize("form", ["nv12", "uyvy422", "p010le"])
def test_mixed_planes_are_parted_without_a_loss(form: str) -> None:
    whole = {"nv12": "yuv420p", "uyvy422": "yuv422p", "p010le": "yuv420p10le"}[form]
    frame, _ = painted(whole, np.random.default_rng(5))
    assert np.array_equal(
        side(frame.reformat(format=form), 9, 9)["values"], side(frame, 9, 9)["values"]
    )


def test_grey_has_luma_alone() -> None:
    frame, (luma,) = painted("gray10le", np.random.default_rng(6))
    found = side(frame, 1, 1)
    assert found["names"] == ["Y"]
    assert found["values"][:, :, 0].tolist() == luma[1 : 1 + ROWS, 1 : 1 + COLUMNS].tolist()


def test_a_file_is_told_as_it_decodes_beside_what_went_in(tmp_path: Path) -> None:
    case = Case("prores", "4444", Pixels("4:4:4", 10, alpha=True), "mov", size=SIZE)
    master = halves(tmp_path / "a.mov")
    route = plan_route(facts_of(master), spec_for(case), {}, master.name)
    assert route.plan is not None
    made = tmp_path / "made" / route.plan.files[0].name
    made.parent.mkdir()
    make(master, made, route.plan)
    plan = route.plan.model_dump(mode="json")

    def at(x: int, y: int) -> dict[str, Any]:
        return magnified.handle(ignored, str(made), [str(master)], plan, 1, (x, y))

    found = at(60, 30)
    width, height = found["width"], found["height"]
    assert (found["left"], found["top"], found["interlaced"]) == (52, 25, False)
    with av.open(str(made)) as container:
        frame = [f for f, _ in zip(container.decode(video=0), range(2), strict=False)][1]
    told = np.array(found["sides"][1]["values"])
    for number in range(4):
        stored = magnified.plane(frame, number)[25 : 25 + ROWS, 52 : 52 + COLUMNS]
        # The decoder gives 12 bits of what went in with 10.
        assert told[:, :, number].tolist() == np.minimum((stored + 2) >> 2, 1023).tolist()
    assert [(s["stored"], s["depth"]) for s in found["sides"]] == [(10, 10), (12, 10)]
    before = np.array(found["sides"][0]["values"])
    assert before.shape == told.shape and 0 < np.abs(before - told).max() < 60
    # At an edge, and beyond it, there are as many.
    for x, y in ((0, 0), (width - 1, height - 1), (9999, 9999)):
        corner = at(x, y)
        assert np.array(corner["sides"][0]["values"]).shape[:2] == (ROWS, COLUMNS)
        assert corner["left"] + COLUMNS <= width and corner["top"] + ROWS <= height
