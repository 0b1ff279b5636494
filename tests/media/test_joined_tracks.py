"""Mono tracks that belong to no layout, put into one track: each keeps its place; and one mix put
into several tracks.
"""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest

from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops
from ample_crate.store.library import find
from clips import Clip, moving_bar
from conformance import planned_from
from support import deliver

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


def test_surround_and_its_fold_lie_side_by_side(tmp_path: Path) -> None:
    """Only the left surround sounds: it is heard in the fold's left, at -3 dB."""
    tone = 0.25 * np.sin(2 * np.pi * 997 * np.arange(48000) / 48000)
    sound = np.zeros((6, 48000), np.float32)
    sound[4] = tone
    master = Clip(sound=sound, layout="5.1", sound_codec="pcm_s24le").write(tmp_path / "film.mov")
    asked = {
        "picture.codec": "prores",
        "file.wrapper": "mov",
        "sound.codec": "pcm_s24le",
        "sound.layout@1": "5.1",
        "sound.layout@2": "stereo",
    }
    rows = [{"property": k, "rule": {"is": v}, "source": k} for k, v in asked.items()]
    head = {"id": "both", "version": 1, "title": "Both", "recipient": "Test Hall"}
    spec = Spec.model_validate(head | {"requirements": rows})
    made = deliver(master, spec, tmp_path / "out", ops.measure(master).facts)
    assert made.verdict == "meets", [f.why for f in made.findings if f.verdict != "meets"]
    with av.open(str(made.path)) as container:
        parts = [f.to_ndarray().reshape(-1, 2) for f in container.decode(audio=1)]
    heard = np.concatenate(parts) / 2**31
    assert np.abs(heard[:, 1]).max() < 1e-4
    left = float(np.abs(heard[:, 0]).max())
    assert 20 * np.log10(left / 0.25) == pytest.approx(-3.01, abs=0.02)
