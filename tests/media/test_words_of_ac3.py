"""What AC-3 and E-AC-3 say of their sound, as it is read here and by a second reader."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest

from ample_crate.core.facts import Facts
from ample_crate.core.formats.ac3 import ONE_CHANNEL
from ample_crate.media.encoders.ac3 import MODES
from ample_crate.media.measuring import ac3, second, whole
from clips import Clip
from conformance import ignored

KEY = "sound.dialogue_level"


MODE = "sound.bitstream_mode"
COUNTS = {"mono": 1, "stereo": 2, "5.1": 6}
BOTH = pytest.mark.parametrize("codec", ["ac3", "eac3"])


def written(path: Path, codec: str, layout: str, level: int, **options: str) -> Path:
    with av.open(str(path), "w", format=codec) as container:
        said = {"dialnorm": str(level), **options}
        track = container.add_stream(codec, rate=48000, layout=layout, options=said)
        shape = COUNTS[layout], 1536 * 4
        noise = np.random.default_rng(1).normal(0, 0.1, shape).astype(np.float32)
        frame = av.AudioFrame.from_ndarray(noise, format="fltp", layout=layout)
        frame.sample_rate, frame.pts = 48000, 0
        container.mux(track.encode(frame))
        container.mux(track.encode(None))
    return path


def as_read(path: Path) -> tuple[Facts, Facts]:
    measured = Facts.from_json(whole.handle(ignored, str(path))["facts"])
    return measured, Facts.from_json(second.handle(ignored, str(path))["facts"])


@pytest.mark.parametrize("layout", list(COUNTS))
@pytest.mark.parametrize("level", [-31, -27, -24, -1])
@BOTH
def test_it_is_read_as_it_was_written(codec: str, level: int, layout: str, tmp_path: Path) -> None:
    path = written(tmp_path / f"a.{codec}", codec, layout, level)
    assert ac3.told(path.read_bytes()) == (level, "complete main")
    measured, told = as_read(path)
    assert measured.value(KEY) == level and told.fact(KEY).second == level


@pytest.mark.parametrize(("mode", "word"), list(MODES.items())[1:])
@BOTH
def test_what_it_is_for_is_read_too(codec: str, mode: str, word: str, tmp_path: Path) -> None:
    layout = "mono" if mode in ONE_CHANNEL else "stereo"
    options = {"audio_service_type": word}
    path = written(tmp_path / f"a.{codec}", codec, layout, -27, **options)
    assert ac3.told(path.read_bytes()) == (-27, mode)
    measured, told = as_read(path)
    assert measured.value(MODE) == mode and told.fact(MODE).second == mode


# Fields of E.1.2.2, each with its bits: a head with all that can stand before the mode.
LONG = (
    (0x0B77, 16), (0, 2), (0, 3), (700, 11), (0, 2), (3, 2), (7, 3), (1, 1), (16, 5),
    (24, 5), (1, 1), (200, 8),
    (1, 1), (2, 2), (45, 6), (54, 6), (1, 1), (21, 5), (1, 1), (50, 6), (1, 1), (51, 6),
    (3, 2), (0, 5), (0xABCD, 16), (1, 1), (1, 1), (9, 5), *((0, 1),) * 5,
    (1, 1), (3, 3),
)  # fmt: skip


def test_it_is_found_behind_what_is_said_of_mixing() -> None:
    bits = "".join(f"{value:0{count}b}" for value, count in LONG)
    head = int(bits.ljust(512, "1"), 2).to_bytes(64)
    assert ac3.told(head) == (-24, "hearing impaired")
    # Cut short it says nothing, and nothing wrong.
    assert {ac3.told(head[:size]) for size in range(17)} == {(None, None)}


def test_other_sound_has_none(tmp_path: Path) -> None:
    assert ac3.told(b"\x0b\x77") == ac3.told(bytes(20)) == (None, None)
    path = Clip(frames=5).write(tmp_path / "a.mov")
    assert KEY not in whole.handle(ignored, str(path))["facts"]
