"""Fields that nothing reshapes come through line by line."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import numpy.typing as npt

from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from clips import Clip
from conformance import planned_from

SIZE = Size(720, 576)
Picture = npt.NDArray[np.uint8]


def thin_lines(moment: float) -> Picture:
    """Draw lines of one row, which a low-pass would wash out."""
    lines = np.where(np.arange(SIZE.height) % 2, 60, 180).astype(np.uint8)
    return np.repeat(np.repeat(lines[:, None], SIZE.width, 1)[..., None], 3, 2)


def spec(size: Size) -> Spec:
    rows = {
        "picture.codec": "prores",
        "picture.profile": "hq",
        "picture.size": str(size),
        "picture.pixel_aspect": "64:45",
        "picture.matrix": "BT.601",
        "motion.scan": "interlaced",
        "motion.field_order": "upper first",
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


def test_fields_that_nothing_reshapes_keep_their_lines(tmp_path: Path) -> None:
    clip = Clip(
        draw=thin_lines,
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
        fields="upper first",
        flagged="upper first",
    )
    master = clip.write(tmp_path / "master.mov")
    same, _, kept, _ = planned_from(master, spec(SIZE), tmp_path / "same")
    assert "deinterlace" not in [s.kind for s in same.picture.steps]
    assert contrast(luma(kept)) > 0.95 * contrast(luma(master)) > 80
    # Another size takes every line apart, and the thin ones are washed out.
    other, _, scaled, _ = planned_from(master, spec(Size(704, 480)), tmp_path / "other")
    assert "deinterlace" in [s.kind for s in other.picture.steps]
    assert contrast(luma(scaled)) < 0.5 * contrast(luma(master))
