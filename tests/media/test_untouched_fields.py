"""Fields that nothing reshapes come through line by line."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import numpy.typing as npt
import pytest

from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.media import planned, reference
from clips import Clip, Draw
from conformance import odd_ones, planned_from

SIZE = Size(720, 576)
Picture = npt.NDArray[np.uint8]


def thin_lines(moment: float) -> Picture:
    """Draw lines of one row, which a low-pass would wash out."""
    lines = np.where(np.arange(SIZE.height) % 2, 60, 180).astype(np.uint8)
    return np.repeat(np.repeat(lines[:, None], SIZE.width, 1)[..., None], 3, 2)


def spec(size: Size, order: str = "upper first") -> Spec:
    rows = {
        "picture.codec": "prores",
        "picture.profile": "hq",
        "picture.size": str(size),
        "picture.pixel_aspect": "64:45",
        "picture.matrix": "BT.601",
        "motion.scan": "interlaced",
        "motion.field_order": order,
        "file.wrapper": "mov",
    }
    return Spec.model_validate(
        {
            "id": "fields",
            "version": 1,
            "recipient": "pinfold",
            "title": "t",
            "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()],
        }
    )


def luma(path: Path) -> npt.NDArray[np.float64]:
    with av.open(str(path)) as container:
        frame = [f.reformat(format="gray") for f in container.decode(video=0)][3]
    return frame.to_ndarray().astype(float)


def contrast(picture: npt.NDArray[np.float64]) -> float:
    rows = picture[40:-40].mean(axis=1)
    return float(np.abs(rows[::2].mean() - rows[1::2].mean()))


def clip_of(draw: Draw, order: str, **more: Any) -> Clip:
    return Clip(
        draw=draw,
        frames=8,
        codec="mpeg2video",
        pixels="yuv422p",
        matrix="bt470bg",
        aspect=Fraction(64, 45),
        options={
            "b": "40000000",
            "maxrate": "50000000",
            "bufsize": "9000000",
            "profile": "0",
            "g": "1",
        },
        fields=order,
        flagged=order,
        **more,
    )


def test_fields_that_nothing_reshapes_keep_their_lines(tmp_path: Path) -> None:
    clip = clip_of(thin_lines, "upper first")
    master = clip.write(tmp_path / "master.mov")
    same, _, kept, _ = planned_from(master, spec(SIZE), tmp_path / "same")
    assert "deinterlace" not in [s.kind for s in same.picture.steps]
    assert contrast(luma(kept)) > 0.95 * contrast(luma(master)) > 80
    # Another size takes every line apart, and the thin ones are washed out.
    other, _, scaled, _ = planned_from(master, spec(Size(704, 480)), tmp_path / "other")
    assert "deinterlace" in [s.kind for s in other.picture.steps]
    assert contrast(luma(scaled)) < 0.5 * contrast(luma(master))


UPPER, LOWER = "upper first", "lower first"


def counting(moment: float) -> Picture:
    """Draw a grey that tells which field of the film it is."""
    return np.full((SIZE.height, SIZE.width, 3), 40 + 10 * round(moment * 50), np.uint8)


@pytest.mark.parametrize(("have", "want"), [(UPPER, LOWER), (LOWER, UPPER)])
def test_the_other_order_is_made_by_a_line(have: str, want: str, tmp_path: Path) -> None:
    master = clip_of(counting, have).write(tmp_path / "master.mov")
    plan, predicted, file, measured = planned_from(master, spec(SIZE, want), tmp_path / "made")
    assert [s.kind for s in plan.picture.steps if s.kind in KINDS] == ["shift line"]
    assert odd_ones(predicted, measured) == {}
    assert measured.value("motion.field_order") == want
    for number, frame in enumerate(lumas(file)):
        rows = frame[40:-40].mean(axis=1)
        # Of the two lines side by side the one that is shown first has the earlier moment.
        first, second = (rows[::2], rows[1::2]) if want == UPPER else (rows[1::2], rows[::2])
        levels = [first.mean(), second.mean()]
        assert levels == pytest.approx([shown(2 * number), shown(2 * number + 1)], abs=3)


def test_lines_come_through_the_turn_unharmed(tmp_path: Path) -> None:
    master = clip_of(thin_lines, UPPER).write(tmp_path / "master.mov")
    _, _, file, _ = planned_from(master, spec(SIZE, LOWER), tmp_path / "made")
    before, after = luma(master), luma(file)
    # A line higher, and as sharp.
    assert np.abs(after[40:-40] - before[41:-39]).mean() < 2
    assert contrast(after) > 0.95 * contrast(before)


@pytest.mark.parametrize(("have", "want"), [(UPPER, LOWER), (LOWER, UPPER)])
def test_what_is_shown_before_a_run_is_what_is_coded(have: str, want: str, tmp_path: Path) -> None:
    master = clip_of(counting, have).write(tmp_path / "master.mov")
    plan, _, _, _ = planned_from(master, spec(SIZE, want), tmp_path / "made")
    assert plan.picture is not None
    whole = list(reference.frames(plan.picture, plan, [str(master)]))
    for place in (0, 3, 7):
        one = planned.frame_of([str(master)], plan, place)
        assert [bytes(p) for p in one.planes] == [bytes(p) for p in whole[place].planes]


KINDS = {"deinterlace", "interlace", "shift line"}


def shown(field: int) -> float:
    return 16 + (40 + 10 * field) * 219 / 255


def lumas(path: Path) -> list[npt.NDArray[np.float64]]:
    with av.open(str(path)) as container:
        frames = [f.reformat(format="yuv422p") for f in container.decode(video=0)]
    high, wide = SIZE.height, SIZE.width
    made = []
    for frame in frames:
        plane = np.frombuffer(memoryview(frame.planes[0]), np.uint8)
        made.append(plane.reshape(-1, frame.planes[0].line_size)[:high, :wide].astype(float))
    return made
