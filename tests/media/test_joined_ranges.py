"""Several ranges of a master joined: each frame, sample, caption and chapter, and no more."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from ample_crate.core.facts.span import Piece, Span, joined
from ample_crate.core.planning import segments
from ample_crate.core.planning.beside import Beside
from ample_crate.core.planning.places import source_of
from ample_crate.core.planning.request import Item, delivered
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops
from ample_crate.work.deliver import run_route
from captioned import captioned
from clips import Clip, moving_bar
from conformance import facts_of, make, measured_here, plan_of
from conformance import made as made_here
from counting import numbered, numbers
from tones import write

RATE = 48000
PIECES = ((10, 15), (40, 7), (120, 38))
SHOWN = [n for first, frames in PIECES for n in range(first, first + frames)]
NTSC = Fraction(30000, 1001)


def span(*pieces: tuple[int, int]) -> Span:
    return joined([Piece(first=first, frames=frames) for first, frames in pieces or PIECES])


def spec(**asked: Any) -> Spec:
    rows = {"picture.codec": "ffv1", "sound.codec": "pcm_s24le", "file.wrapper": "mkv"}
    rows |= {key.replace("_", ".", 1): value for key, value in asked.items()}
    head = {"id": "joined", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


def noise(seconds: float, seed: int = 3) -> np.ndarray:
    """Sound of which no sample is like another."""
    rng = np.random.default_rng(seed)
    return rng.integers(-(2**20), 2**20, (2, round(seconds * RATE))).astype(np.int32)


def film(path: Path, rate: Fraction, codec: str = "pcm_s24le", **more: Any) -> Path:
    """Seven seconds of numbered frames, and noise."""
    frames = round(7 * rate)
    sound = (noise(float(frames / rate)) / 2**23).astype(np.float32)
    clip = Clip(
        draw=numbered(rate), rate=rate, frames=frames, sound=sound, sound_codec=codec, **more
    )
    return clip.write(path)


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return film(tmp_path_factory.mktemp("joined") / "film.mov", Fraction(25))


def heard(path: Path) -> np.ndarray:
    with av.open(str(path)) as container:
        taken = [f.to_ndarray().reshape(-1, 2).T for f in container.decode(audio=0)]
    return np.concatenate(taken, axis=1)


def kept(samples: np.ndarray, rate: Fraction) -> np.ndarray:
    """What is kept of a whole film's samples."""
    edges = [(a / rate * RATE, (a + n) / rate * RATE) for a, n in PIECES]
    return np.concatenate([samples[:, round(a) : round(b)] for a, b in edges], axis=1)


def test_every_frame_and_sample_of_them_and_no_more(master: Path, tmp_path: Path) -> None:
    plan = plan_of(master, spec(), Item(span()))
    file = made_here(plan, master, tmp_path)
    assert numbers(file) == SHOWN
    assert np.array_equal(heard(file), kept(heard(master), Fraction(25)))
    assert [source_of(plan, place) for place in range(plan.frames)] == SHOWN
    assert [plan.place_of(n) for n in SHOWN] == list(range(60))
    facts = measured_here(file)
    assert facts.value("motion.frames") == 60 and facts.value("file.duration") == Fraction(60, 25)


@pytest.mark.parametrize("codec", ["aac", "mp2"])
def test_where_frames_do_not_begin_with_a_sample(codec: str, tmp_path: Path) -> None:
    path = film(tmp_path / "film.mkv", NTSC, codec)
    whole, file = (
        made_here(plan_of(path, spec(), item), path, tmp_path / name)
        for name, item in (("whole", Item()), ("part", Item(span())))
    )
    assert numbers(file) == SHOWN
    mine, wanted = heard(file) >> 8, kept(heard(whole) >> 8, NTSC)
    # Stamps in milliseconds may move all of it, and what lasts no whole number of samples by one at
    # each seam.
    lags = []
    for at in range(2000, 58 * 1600, 9000):
        block = wanted[:, at : at + 800]
        near = [np.abs(mine[:, at + d :][:, :800] - block).mean() for d in range(-30, 31)]
        assert min(near) < 2**10
        lags.append(int(np.argmin(near)) - 30)
    assert max(lags) - min(lags) <= len(PIECES) - 1


def test_taken_faster(tmp_path: Path) -> None:
    rate = Fraction(24)
    path = film(tmp_path / "film.mov", rate)
    plan = plan_of(path, spec(motion_rate="25"), Item(span()), speed="25", pitch="follows")
    file = made_here(plan, path, tmp_path / "out")
    assert numbers(file) == SHOWN
    found = measured_here(file)
    assert abs(found.value("sound.length_difference")) < Fraction(1, 1000)
    assert [source_of(plan, place) for place in (0, 14, 15, 22, 59)] == [10, 24, 40, 120, 157]


@pytest.mark.parametrize("pieces", [PIECES, PIECES[:1]])
def test_they_are_brought_to_a_loudness(
    pieces: tuple[tuple[int, int], ...], master: Path, tmp_path: Path
) -> None:
    """Sound goes on in the master when all that is wanted has come."""
    asked = spec(sound_loudness="-23 LUFS")
    plan = plan_of(master, asked, Item(span(*pieces)))
    file = made_here(plan, master, tmp_path)
    count = sum(frames for _, frames in pieces)
    assert heard(file).shape[1] == count * RATE // 25
    assert abs(measured_here(file).value("sound.loudness") + 23) < 0.2


def test_sound_of_another_file_leaves_the_same_out(tmp_path: Path) -> None:
    silent = Clip(draw=numbered(), frames=175, tones=None).write(tmp_path / "silent.mov")
    mix = write(tmp_path / "mix.wav", list(noise(7.0) / 2**23), codec="pcm_s24le")
    item = Item(span(), sound=Beside("mix.wav", facts_of(mix)))
    facts, asked = facts_of(silent), spec()
    route = plan_route(facts, asked, {}, "silent.mov", item)
    done = run_route([silent, mix], delivered(facts, item, {}), asked, route, tmp_path / "out")
    assert numbers(done.path) == SHOWN
    assert np.array_equal(heard(done.path), kept(heard(mix), Fraction(25)))


def test_captions_and_chapters_stay_with_their_pictures(tmp_path: Path) -> None:
    """0.4 to 1 s are left out: of the first line 0.1 s is left, and all of the second."""
    path = captioned(tmp_path)
    asked = spec(picture_codec="h264", sound_codec="aac", file_wrapper="mov")
    route = plan_route(
        facts_of(path), asked, {"tracks": "1"}, "film.mkv", Item(span((0, 10), (25, 25)))
    )
    assert route.plan is not None
    file = ops.render([path], tmp_path / "out", route.plan, route.size).path
    with av.open(str(file)) as container:
        chapters = [(c["metadata"]["title"], c["start"], c["end"]) for c in container.chapters()]
        base = container.streams.subtitles[0].time_base
        lines = [p for p in container.demux(subtitles=0) if p.size > 2]
    times = [(float(p.pts * base), float(p.duration * base)) for p in lines]
    assert [t for pair in times for t in pair] == pytest.approx(
        [0.3, 0.1, 0.6, 0.5, 1.3, 0.1], abs=0.03
    )
    assert [title for title, *_ in chapters] == ["Opening", "Rain"]
    assert [n for _, *t in chapters for n in t] == pytest.approx([0, 400, 400, 1400], abs=30)


def test_in_segments_it_is_what_one_encoder_makes(master: Path, tmp_path: Path) -> None:
    plan = plan_of(master, spec(picture_codec="prores", file_wrapper="mov"), Item(span()))
    assert segments.can_be_parted(plan)
    whole = made_here(plan, master, tmp_path)
    parts = []
    for one in segments.parted(plan, 4):
        parts.append(tmp_path / one.files[0].name)
        make(master, parts[-1], one)
    file = tmp_path / "again.mov"
    make(master, file, plan, segments=parts)
    assert numbers(whole) == SHOWN and whole.read_bytes() == file.read_bytes()


def test_far_into_a_film_that_leans_on_its_neighbours(tmp_path: Path) -> None:
    options = {"preset": "ultrafast", "g": "48", "bf": "2"}
    path = Clip(draw=numbered(), frames=400, options=options).write(tmp_path / "film.mp4")
    pieces = ((230, 10), (300, 5), (380, 20))
    file = made_here(plan_of(path, spec(), Item(span(*pieces))), path, tmp_path / "out")
    assert numbers(file) == [n for first, count in pieces for n in range(first, first + count)]
    assert abs(measured_here(file).value("sound.length_difference")) < Fraction(1, 40)


def test_where_frames_do_not_last_equally_long_they_are_not_joined(tmp_path: Path) -> None:
    stamps = [n + n // 20 for n in range(60)]
    path = Clip(draw=moving_bar(), frames=60, stamps=stamps).write(tmp_path / "uneven.mp4")
    route = plan_route(facts_of(path), spec(), {}, path.name, Item(span((0, 10), (30, 10))))
    assert route.plan is None
    (told,) = [one for one in route.cautions if one.blocks]
    assert told.what == "Its ranges cannot be joined." and told.figures == "2 ranges"


def test_no_copy_is_made_of_them(master: Path) -> None:
    asked = spec(picture_codec="h264", file_wrapper="mov")
    every = plan_route(facts_of(master), asked, {}, master.name, Item())
    assert "picture" in every.choices
    route = plan_route(facts_of(master), asked, {}, master.name, Item(span()))
    assert any("joined of 3" in one.title for one in route.steps)
    picture = route.plan.picture if route.plan is not None else None
    assert type(picture).__name__ == "MadePicture"
