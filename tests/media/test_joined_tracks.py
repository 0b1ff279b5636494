"""Mono tracks that belong to no layout, put into one track: each keeps its place."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np

from ample_crate.store.library import find
from clips import Clip, moving_bar
from conformance import planned_from

RATE = 48_000
TONES = (300, 500, 700, 1100)


def test_four_mono_tracks_become_the_four_channels_of_one(tmp_path: Path) -> None:
    time = np.arange(RATE) / RATE
    tones = [0.25 * np.sin(2 * np.pi * hertz * time).astype(np.float32) for hertz in TONES]
    clip = Clip(
        draw=moving_bar((720, 576)),
        frames=25,
        fields="upper first",
        matrix="bt470bg",
        codec="mpeg2video",
        pixels="yuv422p",
        options={"b": "20000000", "g": "12"},
        sound_codec="pcm_s24le",
        tracks=[("mono", tone[None]) for tone in tones],
    )
    master = clip.write(tmp_path / "a.mxf")
    _, _, path, measured = planned_from(master, find("skerry-d10-625"), tmp_path / "made")
    assert measured.value("sound.tracks") == 1 and measured.value("sound.channels") == 4
    with av.open(str(path)) as container:
        heard = np.concatenate([f.to_ndarray() for f in container.decode(audio=0)], axis=-1)
    channels = heard.reshape(-1, 4).T if heard.shape[0] == 1 else heard
    loudest = [int(np.argmax(np.abs(np.fft.rfft(one[:RATE])))) for one in channels]
    assert loudest == list(TONES)
