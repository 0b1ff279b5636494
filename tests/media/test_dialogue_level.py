"""The dialogue level of AC-3 and E-AC-3, as it is read here and by a second reader."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest

from ample_crate.core.facts import Facts
from ample_crate.media.measuring import dialogue, second, whole
from clips import Clip
from conformance import ignored

KEY = "sound.dialogue_level"


@pytest.mark.parametrize("layout", ["mono", "stereo", "5.1"])
@pytest.mark.parametrize("level", [-31, -27, -24, -1])
@pytest.mark.parametrize("codec", ["ac3", "eac3"])
def test_it_is_read_as_it_was_written(codec: str, level: int, layout: str, tmp_path: Path) -> None:
    count = {"mono": 1, "stereo": 2, "5.1": 6}[layout]
    path = tmp_path / f"a.{codec}"
    with av.open(str(path), "w", format=codec) as container:
        track = container.add_stream(
            codec, rate=48000, layout=layout, options={"dialnorm": str(level)}
        )
        noise = np.random.default_rng(1).normal(0, 0.1, (count, 1536 * 4)).astype(np.float32)
        frame = av.AudioFrame.from_ndarray(noise, format="fltp", layout=layout)
        frame.sample_rate, frame.pts = 48000, 0
        container.mux(track.encode(frame))
        container.mux(track.encode(None))
    assert dialogue.level(path.read_bytes()) == level
    measured = Facts.from_json(whole.handle(ignored, str(path))["facts"])
    told = Facts.from_json(second.handle(ignored, str(path))["facts"])
    assert measured.value(KEY) == level and told.fact(KEY).second == level


def test_other_sound_has_none(tmp_path: Path) -> None:
    assert dialogue.level(b"\x0b\x77") is None and dialogue.level(bytes(20)) is None
    path = Clip(frames=5).write(tmp_path / "a.mov")
    assert KEY not in whole.handle(ignored, str(path))["facts"]
