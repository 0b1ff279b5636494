"""A part of the picture that is not scaled keeps every sample of it, and its fields."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame

from ample_crate.core.planning.framed import framed
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.geometry import Rect, read_rect
from ample_crate.media import planned, reference
from clips import Clip, moving_bar
from conformance import facts_of

NTSC = Fraction(30000, 1001)
# Pixel layout, what it is called, and how many luma samples share one of chroma across and down.
LAYOUTS = {
    "yuv420p": ("4:2:0", 2, 2),
    "yuv422p": ("4:2:2", 2, 1),
    "yuv444p": ("4:4:4", 1, 1),
    "yuv411p": ("4:1:1", 4, 1),
}


ORDERS = [None, "upper first", "lower first"]


def spec(part: Rect, chroma: str, scan: str) -> Spec:
    rows = {
        "picture.codec": "ffv1",
        "picture.size": f"{part.width}x{part.height}",
        "picture.pixel_aspect": "1",
        "picture.chroma": chroma,
        "picture.matrix": "BT.709",
        "motion.scan": scan,
        "file.wrapper": "mkv",
        "sound.tracks": 0,
    }
    head = {"id": "part", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


def planes(frame: VideoFrame) -> list[np.ndarray]:
    found = []
    for component, plane in zip(frame.format.components, frame.planes, strict=True):
        rows = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
        found.append(rows[: plane.height, : component.width])
    return found


def decoded(path: Path) -> list[VideoFrame]:
    with av.open(str(path)) as container:
        return list(container.decode(video=0))


# 4:1:1 is made 4:2:0, which takes fields apart.
WAYS = [(p, f) for p in LAYOUTS for f in ORDERS if f is None or p != "yuv411p"]


@pytest.mark.parametrize(("pixels", "fields"), WAYS)
@pytest.mark.parametrize("text", ["320 x 240 + 40 + 48", "256 x 128 + 124 + 100"])
def test_samples_are_the_masters(
    pixels: str, fields: str | None, text: str, tmp_path: Path
) -> None:
    chroma, across, down = LAYOUTS[pixels]
    clip = Clip(
        draw=moving_bar((480, 320), 200),
        frames=6,
        codec="ffv1",
        pixels=pixels,
        matrix="bt709",
        rate=NTSC,
        fields=fields,
        flagged=fields,
        tones=None,
    )
    master, part = clip.write(tmp_path / "film.mkv"), read_rect(text)
    asked = spec(part, chroma, "progressive" if fields is None else "interlaced")
    plan = plan_route(facts_of(master), asked, {"region": text}, "film.mkv").plan
    assert plan is not None and plan.picture is not None
    assert framed(plan.picture).crop == part
    # Where the encoder takes another layout, what is cut before is looked at.
    picture = plan.picture.model_copy(update={"steps": plan.picture.steps[:1]})
    assert [step.kind for step in picture.steps] == ["crop"]
    assert chroma in {"4:4:4", "4:1:1"} or picture == plan.picture
    plan = plan.model_copy(update={"streams": (picture,)})
    shown = list(reference.frames(picture, plan, [str(master)]))
    whole = decoded(master)
    assert len(shown) == len(whole)
    for place, (made, all_of_it) in enumerate(zip(shown, whole, strict=True)):
        early = planned.frame_of([str(master)], plan, place)
        for number, (seen, given) in enumerate(zip(planes(made), planes(all_of_it), strict=True)):
            x, y = (1, 1) if number == 0 else (across, down)
            rows = slice(part.y // y, (part.y + part.height) // y)
            columns = slice(part.x // x, (part.x + part.width) // x)
            assert np.array_equal(seen, given[rows, columns]), (place, number)
            assert np.array_equal(planes(early)[number], seen)
