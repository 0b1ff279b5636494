"""A file and what went into its encoder, to be played together: frame beside frame, and what is
heard with what is seen.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from ample_crate.core.facts.span import Span
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import looks, ops
from clips import Clip, Picture
from conformance import facts_of

RATE, FRAMES, EVERY = 48000, 75, 25
SIZE = (320, 180)


def flashes(time: float) -> Picture:
    """White in one frame of every second, else grey that rises with time."""
    number = round(time * 25)
    level = 235 if number % EVERY == 10 else 40 + number
    return np.full((SIZE[1], SIZE[0], 3), level, np.uint8)


def clicks() -> np.ndarray:
    """Noise as long as each white frame: left alone."""
    sound = np.zeros((2, FRAMES * RATE // 25), np.float32)
    noise = np.random.default_rng(3).uniform(-0.5, 0.5, RATE // 25)
    for first in range(10, FRAMES, EVERY):
        at = first * RATE // 25
        sound[0, at : at + RATE // 25] = noise
    return sound


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("viewed") / "flashes.mov"
    clip = Clip(
        draw=flashes,
        frames=FRAMES,
        sound=clicks(),
        sound_codec="pcm_s16le",
        codec="prores_ks",
        pixels="yuv422p10le",
        options={},
    )
    clip.write(path)
    return path


def spec(**rows: str) -> Spec:
    asked = {"file.wrapper": "mp4", "picture.codec": "h264", "sound.codec": "aac"} | rows
    head = {"id": "viewed", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in asked.items()]}
    )


def planned(master: Path, span: Span | None, rows: dict[str, str], **chosen: str) -> Plan:
    route = plan_route(facts_of(master), spec(**rows), chosen, master.name, Item(span))
    assert route.plan is not None
    return route.plan


def viewed(master: Path, folder: Path, span: Span | None = None, **rows: str) -> tuple[Any, Path]:
    plan = planned(master, span, rows)
    file = ops.render([master], folder / "made", plan, 10**7).path
    out = folder / "viewed.mp4"
    return looks.viewing(file, [master], plan, out), out


def pictures(out: Path) -> np.ndarray:
    """The means of both pictures of every frame."""
    with av.open(str(out)) as film:
        frames = [frame.to_ndarray(format="gray") for frame in film.decode(video=0)]
    half = len(frames[0]) // 2
    return np.array([(frame[:half].mean(), frame[half:].mean()) for frame in frames])


def loud(out: Path) -> np.ndarray:
    """The level of each of four channels during every frame."""
    with av.open(str(out)) as film:
        track = film.streams.audio[0]
        even = av.AudioResampler(format="fltp", layout="4.0", rate=RATE)
        sound = np.concatenate(
            [made.to_ndarray() for frame in film.decode(track) for made in even.resample(frame)],
            axis=1,
        )
    each = RATE // 25
    whole = sound[:, : sound.shape[1] // each * each].reshape(4, -1, each)
    return np.abs(whole).mean(axis=2)


def places(values: np.ndarray, above: float) -> list[int]:
    return [int(n) for n in np.flatnonzero(values > above)]


def test_both_are_in_step_and_so_is_their_sound(master: Path, tmp_path: Path) -> None:
    told, out = viewed(master, tmp_path, **{"picture.size": "160x90"})
    assert (told["frames"], told["first"], told["sides"]) == (FRAMES, 0, True)
    assert (told["width"], told["height"]) == (156, 88)
    seen = pictures(out)
    white = [10, 35, 60]
    assert places(seen[:, 0], 200) == places(seen[:, 1], 200) == white
    heard = loud(out)
    # Left of what goes in, left of what came; either right is silent.
    for left in (0, 2):
        assert sorted(np.argsort(heard[left])[-3:]) == white
        assert heard[left][white].min() > 8 * heard[left + 1].max()


def test_of_a_range_both_begin_with_it(master: Path, tmp_path: Path) -> None:
    told, out = viewed(master, tmp_path, Span(first=20, frames=40), **{"picture.size": "160x90"})
    assert told["frames"] == 40
    seen, heard = pictures(out), loud(out)
    assert places(seen[:, 0], 200) == places(seen[:, 1], 200) == [15]
    for left in (0, 2):
        assert int(np.argmax(heard[left])) == 15


def test_sound_that_is_copied_is_the_same_on_either_side(master: Path, tmp_path: Path) -> None:
    told, out = viewed(
        master,
        tmp_path,
        **{"file.wrapper": "mov", "sound.codec": "pcm_s16le", "picture.size": "160x90"},
    )
    assert told["sound"] and not told["sides"]
    heard = loud(out)
    assert np.allclose(heard[0], heard[2], atol=0.005) and heard[0][35] > 0.1


SMALL = {"picture.size": "160x90"}


def test_what_stands_before_a_programme_is_silent_on_the_way_there(
    master: Path, tmp_path: Path
) -> None:
    plan = planned(master, None, SMALL, leader="black 1 s")
    file = ops.render([master], tmp_path / "made", plan, 10**7).path
    out = tmp_path / "viewed.mp4"
    assert looks.viewing(file, [master], plan, out)["frames"] == FRAMES + 25
    seen, heard = pictures(out), loud(out)
    white = [35, 60, 85]
    assert places(seen[:, 0], 200) == places(seen[:, 1], 200) == white
    for left in (0, 2):
        assert sorted(np.argsort(heard[left])[-3:]) == white


def test_a_file_that_begins_later_than_its_route_is_laid_where_it_belongs(
    master: Path, tmp_path: Path
) -> None:
    """One made of a range that begins six frames earlier, held against the later one."""
    earlier = planned(master, Span(first=14, frames=50), SMALL)
    file = ops.render([master], tmp_path / "made", earlier, 10**7).path
    out = tmp_path / "viewed.mp4"
    told = looks.viewing(file, [master], planned(master, Span(first=20, frames=50), SMALL), out)
    assert (told["first"], told["frames"]) == (6, 44)
    seen, heard = pictures(out), loud(out)
    assert places(seen[:, 0], 200) == places(seen[:, 1], 200) == [15, 40]
    for left in (0, 2):
        assert sorted(np.argsort(heard[left])[-2:]) == [15, 40]
