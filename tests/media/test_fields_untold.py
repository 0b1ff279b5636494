"""What the head of an H.264 stream leaves open of fields: of streams that x264 makes."""

from __future__ import annotations

from pathlib import Path

import av
import pytest

from ample_crate.core.facts import Facts
from ample_crate.core.formats.h264 import fields_untold
from ample_crate.media.measuring import whole
from clips import moving_bar
from conformance import SIZE, ignored

INTRA = "avcintra-class=50"  # has no word for which field is shown first
KINDS = {
    "frames": ("", "", False),
    "fields": ("+ildct+ilme", "", False),
    "fields with a model": ("+ildct+ilme", "nal-hrd=cbr:vbv-maxrate=900:vbv-bufsize=900", False),
    "fields untold": ("+ildct+ilme", f"{INTRA}:tff=1", True),
    "frames that could be fields": ("", f"{INTRA}:fake-interlaced=1", True),
}


def written(path: Path, flags: str, params: str) -> Path:
    size = (1440, 1080) if INTRA in params else (SIZE.width, SIZE.height)
    pixels = "yuv420p10le" if INTRA in params else "yuv420p"
    with av.open(str(path), "w") as container:
        flags += "-global_header" * (INTRA in params)
        asked = {"flags": flags, "x264-params": params, "b": "900k"}
        options = {name: value for name, value in asked.items() if value}
        stream = container.add_stream("libx264", rate=25, options=options)
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        for number in range(4):
            frame = av.VideoFrame.from_ndarray(moving_bar(SIZE)(number), format="rgb24")
            container.mux(stream.encode(frame.reformat(*size, format=pixels)))
        container.mux(stream.encode(None))
    return path


@pytest.mark.parametrize("wrapper", ["mov", "ts"])
@pytest.mark.parametrize("kind", list(KINDS))
def test_only_what_is_said_is_declared(kind: str, wrapper: str, tmp_path: Path) -> None:
    flags, params, untold = KINDS[kind]
    path = written(tmp_path / f"a.{wrapper}", flags, params)
    with av.open(str(path)) as container:
        assert fields_untold(container.streams.video[0].codec_context.extradata) is untold
    facts = Facts.from_json(whole.handle(ignored, str(path))["facts"])
    interlaced = bool(flags)
    declared = facts.fact("motion.scan").declared
    # What the head leaves open the coded frames say, where they are fields.
    assert declared == ("interlaced" if interlaced else None if untold else "progressive")
    assert facts.value("motion.scan") == ("interlaced" if interlaced else "progressive")
    assert facts.contradictions() == []


def test_a_head_that_is_cut_short_says_nothing(tmp_path: Path) -> None:
    path = written(tmp_path / "a.mov", "+ildct+ilme", INTRA)
    with av.open(str(path)) as container:
        head = container.streams.video[0].codec_context.extradata
    assert fields_untold(head)
    assert {fields_untold(head[:size]) for size in range(20)} == {False}
