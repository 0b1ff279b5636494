"""Sound of another file laid to a picture, to the very sample."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import NamedTuple

import av
import numpy as np
import pytest

from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.beside import Beside
from ample_crate.core.planning.request import Item, delivered
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops
from ample_crate.work.deliver import Delivered, run_route
from clips import Clip, moving_bar
from conformance import SIZE, facts_of
from tones import RATE, silence, write

CLICKS = (4800, 33_333, 90_001)  # samples from the file's first
SECONDS = 2


class Known(NamedTuple):
    path: Path
    facts: Facts


def spec_of(codec: str, wrapper: str, sound: str = "pcm_s16le", **more: str) -> Spec:
    asked = {"picture.codec": codec, "file.wrapper": wrapper, "sound.codec": sound} | more
    rows = [
        {"property": key, "rule": {"is": value}, "source": str(n)}
        for n, (key, value) in enumerate(asked.items(), 1)
    ]
    head = {"id": "with-sound", "version": 1, "title": "With sound", "recipient": "Test Hall"}
    return Spec.model_validate(head | {"requirements": rows})


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("beside")


def clicks() -> np.ndarray:
    data = silence(SECONDS)
    data[list(CLICKS)] = 0.5
    return data


@pytest.fixture(scope="module")
def film(folder: Path) -> Known:
    """Two seconds without sound, whose timecode begins at 10:00:00:00."""
    clip = Clip(draw=moving_bar(SIZE), frames=50, tones=None, about={"timecode": "10:00:00:00"})
    path = clip.write(folder / "film.mov")
    return Known(path, facts_of(path))


@pytest.fixture(scope="module")
def mix(folder: Path) -> Known:
    path = write(folder / "mix.wav", [clicks(), clicks() / 2], codec="pcm_s16le")
    return Known(path, facts_of(path))


@pytest.fixture(scope="module")
def stamped(folder: Path) -> Callable[[str], Known]:
    """The same sound in a film of its own, by the timecode that begins it."""
    sound = np.stack([clicks(), clicks() / 2]).astype(np.float32)

    def make(timecode: str) -> Known:
        path = folder / f"heard_{timecode.replace(':', '')}.mov"
        if not path.exists():
            Clip(
                draw=moving_bar(SIZE),
                frames=50,
                sound=sound,
                sound_codec="pcm_s16le",
                about={"timecode": timecode},
            ).write(path)
        return Known(path, facts_of(path))

    return make


def made(
    film: Known, mix: Known, spec: Spec, out: Path, span: Span | None = None, **choices: str
) -> Delivered:
    item = Item(span=span, sound=Beside(mix.path.name, mix.facts))
    route = plan_route(film.facts, spec, choices, film.path.name, item)
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    seen = delivered(film.facts, item, choices)
    return run_route([film.path, mix.path], seen, spec, route, out)


def heard(path: Path) -> np.ndarray:
    with av.open(str(path)) as container:
        frames = list(container.decode(audio=0))
    parts = [(f.to_ndarray(), f.format.is_planar, f.layout.nb_channels) for f in frames]
    return np.concatenate([p.T if flat else p.reshape(-1, n) for p, flat, n in parts])


def found(path: Path) -> list[int]:
    return np.flatnonzero(np.abs(heard(path)[:, 0].astype(int)) > 8000).tolist()


PRORES = spec_of("prores", "mov")


def test_it_is_laid_to_the_very_sample(film: Known, mix: Known, tmp_path: Path) -> None:
    done = made(film, mix, PRORES, tmp_path)
    assert done.verdict == "meets" and found(done.path) == list(CLICKS)
    assert len(heard(done.path)) == SECONDS * RATE
    assert done.facts.value("sound.length_difference") == 0


@pytest.mark.parametrize(
    ("timecode", "frames"), [("10:00:00:10", 10), ("09:59:59:15", -10), ("10:00:00:00", 0)]
)
def test_timecode_lays_it(
    film: Known, stamped: Callable[[str], Known], tmp_path: Path, timecode: str, frames: int
) -> None:
    sound = stamped(timecode)
    shift = frames * RATE // 25
    there = [at + shift for at in CLICKS if 0 <= at + shift < SECONDS * RATE]
    assert found(made(film, sound, PRORES, tmp_path / "a").path) == there
    by_start = made(film, sound, PRORES, tmp_path / "b", laid="start")
    assert found(by_start.path) == list(CLICKS)


def test_a_range_has_its_own_part(
    film: Known, stamped: Callable[[str], Known], tmp_path: Path
) -> None:
    span = Span(name="end", first=20, frames=25)
    done = made(film, stamped("10:00:00:10"), PRORES, tmp_path, span)
    begins = (20 - 10) * RATE // 25
    assert found(done.path) == [at - begins for at in CLICKS if 0 <= at - begins < RATE]


def test_a_coder_that_starts_early_is_accounted_for(
    film: Known, mix: Known, tmp_path: Path
) -> None:
    done = made(film, mix, spec_of("h264", "mp4", "aac"), tmp_path)
    loud = np.abs(heard(done.path)[:, 0])
    around = [int(np.argmax(loud[at - 600 : at + 600])) - 600 for at in CLICKS]
    assert max(map(abs, around)) <= 1


def test_it_is_copied_where_it_fits(film: Known, mix: Known, tmp_path: Path) -> None:
    spec = spec_of("h264", "mov")
    done = made(film, mix, spec, tmp_path, picture="copied", sound="copied")
    plan = done.route.plan
    assert plan is not None and [s.kind for s in plan.streams] == ["copied picture", "copied sound"]
    assert [s.input for s in plan.streams] == [0, 1]
    assert found(done.path) == list(CLICKS)


def test_it_is_brought_to_a_loudness(film: Known, folder: Path, tmp_path: Path) -> None:
    time = np.arange(SECONDS * RATE) / RATE
    tone = 0.01 * np.sin(2 * np.pi * 997 * time)
    path = write(folder / "tone.wav", [tone, tone])
    spec = spec_of("prores", "mov", **{"sound.loudness": "-23 LUFS"})
    done = made(film, Known(path, facts_of(path)), spec, tmp_path)
    assert abs(done.facts.value("sound.loudness") + 23) <= Fraction(1, 5)


def test_a_picture_stream_and_a_sound_file_become_one_film(
    folder: Path, mix: Known, tmp_path: Path
) -> None:
    clip = Clip(draw=moving_bar(SIZE), frames=50, tones=None, codec="mpeg2video", options={})
    bare = clip.write(folder / "bare.m2v", "mpeg2video")
    spec = spec_of("mpeg2", "mpegps", "mp2", **{"picture.size": f"{SIZE[0]}x{SIZE[1]}"})
    film = Known(bare, facts_of(bare))
    done = made(film, mix, spec, tmp_path)
    assert done.verdict == "meets", [f.why for f in done.findings if f.verdict != "meets"]
    assert done.facts.value("sound.tracks") == 1
    # What the coder begins with lies before the first frame of the picture.
    before = round(-done.facts.value("sound.start_offset") * RATE)
    loud = np.abs(heard(done.path)[before:, 0].astype(float))
    late = [int(np.argmax(loud[at - 900 : at + 900])) - 900 for at in CLICKS]
    assert before == 481 and max(map(abs, late)) <= 1
    copied = done.route.plan
    assert copied is not None and copied.streams[0].kind == "copied picture"


def test_images_take_a_mix(folder: Path, mix: Known, tmp_path: Path) -> None:
    film = Clip(draw=moving_bar(SIZE), frames=50, tones=None).write(folder / "for_images.mov")
    facts = facts_of(film)
    images = run_route(
        [film], facts, spec := spec_of("png", "image sequence"), plan_route(facts, spec), tmp_path
    )
    again = Known(images.path, ops.measure(images.path).facts)
    done = made(again, mix, PRORES, tmp_path / "again")
    assert done.facts.value("motion.frames") == 50 and found(done.path) == list(CLICKS)
