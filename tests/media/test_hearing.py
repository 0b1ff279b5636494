"""Sound heard before it is coded: levels, where a limiter works, and before beside after."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from ample_crate.core.planning.plan import Plan
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units import peaks
from ample_crate.media import looks, ops
from clips import Clip, moving_bar
from conformance import made, plan_of
from tones import RATE, sine, write

LOUD_FROM, LOUD_TO = 2.0, 2.5  # seconds


def spec(**asked: str) -> Spec:
    rows = {"file.wrapper": "wav", "sound.codec": "pcm_s24le", **asked}
    head = {"id": "heard", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Left a tone of 997 Hz at -20 dBFS, and for half a second at -4; right at -26."""
    left, right = sine(-20, 6.0, 997), sine(-26, 6.0, 997)
    loud = sine(-4, 6.0, 997)
    first, last = int(LOUD_FROM * RATE), int(LOUD_TO * RATE)
    left[first:last] = loud[first:last]
    path = tmp_path_factory.mktemp("heard") / "tone.wav"
    write(path, [left, right])
    return path


def hear(master: Path, plan: Plan, folder: Path, tracks: int = 1) -> Any:
    folder.mkdir(exist_ok=True)
    outs = [folder / f"{n}.mp4" for n in range(tracks)]
    return looks.hearing([master], plan.alone, outs, ops.Control())["tracks"]


def samples(path: Path) -> np.ndarray:
    with av.open(str(path)) as film:
        blocks = [frame.to_ndarray() for frame in film.decode(audio=0)]
        packed = not blocks or film.streams.audio[0].codec_context.format.is_packed
        channels = film.streams.audio[0].codec_context.channels
    found = np.concatenate(blocks, axis=1)
    return found.reshape(-1, channels).T if packed else found


def test_levels_are_those_of_the_channels(master: Path, tmp_path: Path) -> None:
    plan = plan_of(master, spec(**{"sound.layout": "stereo"}), sound="encoded")
    (track,) = hear(master, plan, tmp_path / "out")
    for side in ("taken", "made"):
        heard = track[side]
        assert heard["speakers"] == ["FL", "FR"]
        assert heard["most"] == pytest.approx([-4, -26], abs=0.05)
        left, right = (peaks.LEVELS.unpacked(channel) for channel in heard["peaks"])
        assert len(left) == len(right) == len(peaks.LEVELS.unpacked(heard["momentary"])) == 60
        assert left[10] == pytest.approx(-20, abs=0.5) and left[22] == pytest.approx(-4, abs=0.5)
        assert right[22] == pytest.approx(-26, abs=0.5)
    assert track["most_held"] == track["seconds_held"] == track["gain"] == 0


def test_a_limiter_is_seen_where_it_works(master: Path, tmp_path: Path) -> None:
    """Brought to -10 LUFS, the loud half second would be over full scale."""
    plan = plan_of(master, spec(**{"sound.layout": "stereo", "sound.loudness": "-10"}))
    (track,) = hear(master, plan, tmp_path / "out")
    assert track["made"]["loudness"] == pytest.approx(-10, abs=0.1)
    assert track["made"]["true_peak"] <= -0.9
    # By as much as the loud tone would pass the limit.
    over = -4 + track["gain"] - track["made"]["true_peak"]
    assert over > 2 and track["most_held"] == pytest.approx(over, abs=0.4)
    held = peaks.HELD.unpacked(track["held"])
    where = np.flatnonzero(held) / 10
    assert where[0] >= LOUD_FROM - 0.1 and where[-1] <= LOUD_TO + 0.1
    assert track["seconds_held"] == pytest.approx(LOUD_TO - LOUD_FROM, abs=0.2)
    # What was heard is what is made.
    whole = samples(made(plan, master, tmp_path / "file")).astype(np.float64)
    most = 20 * np.log10(np.abs(whole / 2.0**31).max(axis=1))
    assert track["made"]["most"] == pytest.approx(list(most), abs=0.02)


def test_before_and_after_lie_beside_each_other(master: Path, tmp_path: Path) -> None:
    choices = {"mix": "FL = FR -6; FR = FL"}
    plan = plan_of(master, spec(**{"sound.layout": "stereo"}), **choices)
    (track,) = hear(master, plan, tmp_path / "out")
    assert track["made"]["most"] == pytest.approx([-32, -4], abs=0.05)
    both = samples(tmp_path / "out" / "0.mp4")
    assert both.shape[0] == 4
    # Of the middle, where every channel is even: each twice, crossed.
    part = both[:, 3 * RATE : 5 * RATE].astype(np.float64)
    taken_left, taken_right, made_left, made_right = part
    assert np.abs(taken_left).max() == pytest.approx(0.1, rel=0.1)
    assert made_right == pytest.approx(taken_left, abs=0.01)
    assert np.abs(made_left).max() == pytest.approx(np.abs(taken_right).max() / 2, rel=0.1)
    # To the sample: nothing else than no shift fits better.
    fits = [float((taken_left * np.roll(made_right, n)).sum()) for n in range(-20, 21)]
    assert int(np.argmax(fits)) == 20


def test_each_track_is_heard_by_itself(tmp_path: Path) -> None:
    tones = np.stack([sine(-4, 2, 997), sine(-26, 2, 997)]).astype(np.float32)
    film = Clip(draw=moving_bar(), frames=50, sound=tones, sound_codec="pcm_s24le").write(
        tmp_path / "film.mov"
    )
    rows = {"sound.layout": "mono", "sound.tracks": "2", "file.wrapper": "mov"}
    plan = plan_of(film, spec(**rows, **{"picture.codec": "prores"}))
    left, right = hear(film, plan, tmp_path / "out", tracks=2)
    assert left["made"]["most"] == pytest.approx([-4], abs=0.5)
    assert right["made"]["most"] == pytest.approx([-26], abs=0.5)
    assert left["taken"]["speakers"] == ["FL", "FR"] and left["made"]["speakers"] == ["FC"]
    assert all((tmp_path / "out" / f"{n}.mp4").stat().st_size > 0 for n in range(2))
