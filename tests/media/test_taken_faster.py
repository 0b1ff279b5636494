"""A film taken faster or slower: every frame once, sound, captions and chapters with it."""

from __future__ import annotations

import itertools
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from ample_crate.core.facts.span import Span
from ample_crate.core.planning.beside import Beside
from ample_crate.core.planning.places import source_of
from ample_crate.core.planning.request import Item
from ample_crate.core.specs.spec import Spec
from ample_crate.media import planned, reference
from captioned import captioned
from clips import Clip, moving_bar
from conformance import facts_of, made, measured_here, plan_of
from counting import fields, numbered, numbers
from tones import sine

FILM, PAL, NTSC = Fraction(24000, 1001), Fraction(25), Fraction(30000, 1001)
RATE = 48000
CLICK = 2.0  # s, of the master
HALF_A_FRAME = 0.02  # s; what sound may lie beside its picture (EBU R 37 allows 40 and 60 ms)


def spec(rate: Fraction, scan: str = "progressive", **asked: str) -> Spec:
    rows = {
        "picture.codec": "ffv1",
        "motion.rate": str(rate),
        "motion.scan": scan,
        "sound.codec": "pcm_s24le",
        "file.wrapper": "mkv",
    }
    rows |= {key.replace("_", ".", 1): value for key, value in asked.items()}
    head = {"id": "faster", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Five seconds at 23.976 with a tone on the left, and a click after two on the right."""
    click = np.zeros(RATE * 5)
    click[round(CLICK * RATE) :][:240] = 0.5
    sound = np.stack([sine(-20, 5.0), click]).astype(np.float32)
    clip = Clip(draw=numbered(FILM), rate=FILM, frames=120, sound=sound, sound_codec="pcm_s24le")
    return clip.write(tmp_path_factory.mktemp("film") / "film.mov")


def heard(path: Path) -> np.ndarray:
    with av.open(str(path)) as container:
        assert container.streams.audio[0].rate == RATE
        resampler = av.AudioResampler(format="fltp", layout="stereo")
        frames = [
            out.to_ndarray()
            for frame in container.decode(audio=0)
            for out in resampler.resample(frame)
        ]
    return np.concatenate(frames, axis=1)


def pitch(samples: np.ndarray) -> float:
    """The frequency of a tone, by its strongest line and the two beside it."""
    count = len(samples)
    lines = np.log(np.abs(np.fft.rfft(samples * np.hanning(count))) + 1e-12)
    at = int(np.argmax(lines))
    below, here, above = lines[at - 1 : at + 2]
    return float((at + (below - above) / (2 * (below - 2 * here + above))) * RATE / count)


def cents(one: float, other: float) -> float:
    return float(1200 * np.log2(one / other))


@pytest.mark.parametrize(("taken", "asked"), [("25", PAL), ("24", Fraction(24)), ("25", 2 * PAL)])
@pytest.mark.parametrize("way", ["kept", "follows"])
def test_every_frame_once_and_sound_with_it(
    film: Path, taken: str, asked: Fraction, way: str, tmp_path: Path
) -> None:
    plan = plan_of(film, spec(asked), speed=taken, pitch=way)
    times, each = Fraction(taken) / FILM, int(asked / Fraction(taken))
    file = made(plan, film, tmp_path)
    assert numbers(file) == [number for number in range(120) for _ in range(each)]
    facts = measured_here(file)
    assert facts.value("motion.frames") == 120 * each and plan.seconds == Fraction(120) / Fraction(
        taken
    )
    assert abs(facts.fraction("sound.length_difference") or 0) < Fraction(1, 1000)
    left, right = heard(file)
    wanted = 1000 * (1 if way == "kept" else float(times))
    assert abs(cents(pitch(left[RATE // 2 : -RATE // 2]), wanted)) < 5
    came = np.flatnonzero(np.abs(right) > 0.2)
    assert abs(came[0] / RATE - CLICK / float(times)) < (HALF_A_FRAME if way == "kept" else 0.001)


def test_a_range_is_taken_faster_with_its_own_sound(film: Path, tmp_path: Path) -> None:
    span = Span(name="part", first=24, frames=60)
    plan = plan_of(film, spec(PAL), Item(span=span), speed="25", pitch="follows")
    file = made(plan, film, tmp_path)
    assert numbers(file) == list(range(24, 84))
    right = heard(file)[1]
    times = PAL / FILM
    came = np.flatnonzero(np.abs(right) > 0.2)
    assert abs(came[0] / RATE - (CLICK - 24 / float(FILM)) / float(times)) < 0.001
    assert [source_of(plan, place) for place in (0, 1, 59)] == [24, 25, 83]


def told(path: Path) -> list[float]:
    """When chapters and captions begin, in milliseconds."""
    with av.open(str(path)) as container:
        times = [float(c["start"] * c["time_base"]) for c in container.chapters()]
        base = container.streams.subtitles[0].time_base
        times += [float(p.pts * base) for p in container.demux(subtitles=0) if p.pts is not None]
    return [1000 * time for time in times]


def test_captions_and_chapters_keep_to_their_pictures(tmp_path: Path) -> None:
    master = captioned(tmp_path)
    as_it_is = plan_of(master, spec(PAL), tracks="1", picture="encoded", sound="encoded")
    slower = plan_of(master, spec(Fraction(24)), speed="24", tracks="1")
    before = told(made(as_it_is, master, tmp_path / "as it is"))
    after = told(made(slower, master, tmp_path / "slower"))
    assert len(before) == 5 and before[-1] > 1500
    assert after == pytest.approx([time * 25 / 24 for time in before], abs=1.1)


@pytest.mark.parametrize("asked", [PAL, NTSC])
def test_the_frame_shown_is_that_of_the_film_so_taken(film: Path, asked: Fraction) -> None:
    span = Span(name="part", first=13, frames=70)
    plan = plan_of(film, spec(asked), Item(span=span), speed="25")
    assert plan.picture is not None
    whole = list(reference.frames(plan.picture, plan, [str(film)]))
    for place in (0, 1, 2, 17, len(whole) - 1):
        one = planned.frame_of([str(film)], plan, place)
        assert np.array_equal(one.to_ndarray(), whole[place].to_ndarray()), place


@pytest.mark.parametrize("rate", [PAL, 2 * PAL, NTSC, Fraction(15)])
@pytest.mark.parametrize("first", [0, 13])
def test_what_is_shown_where_is_known(
    film: Path, rate: Fraction, first: int, tmp_path: Path
) -> None:
    plan = plan_of(film, spec(rate), Item(span=Span(name="part", first=first, frames=80)))
    shown = numbers(made(plan, film, tmp_path))
    assert [source_of(plan, place) for place in range(len(shown))] == shown


def test_film_in_fields_is_two_and_three_in_turn(film: Path, tmp_path: Path) -> None:
    """2:3 pulldown: of ten fields the frames A, B, C and D have two and three in turn."""
    asked = spec(NTSC, "interlaced", motion_field_order="upper first")
    plan = plan_of(film, asked)
    shown = [number for pair in fields(made(plan, film, tmp_path)) for number in pair]
    assert shown[::2] == [source_of(plan, place) for place in range(len(shown) // 2)]
    runs = [shown.count(number) for number in range(1, 100)]
    assert set(runs) == {2, 3} and all(a + b == 5 for a, b in itertools.pairwise(runs))
    assert shown == sorted(shown)


def test_film_in_fields_of_another_rate_keeps_time(film: Path, tmp_path: Path) -> None:
    asked = spec(PAL, "interlaced", motion_field_order="upper first")
    plan = plan_of(film, asked)
    shown = [number for pair in fields(made(plan, film, tmp_path)) for number in pair]
    assert shown == sorted(shown) and {shown.count(n) for n in range(1, 100)} == {2, 3}
    # No field lies further from its moment than half a field.
    late = [abs(n / FILM - Fraction(place, 50)) for place, n in enumerate(shown)]
    assert max(late[2:-2]) <= 1 / FILM


def test_sound_from_another_file_is_taken_as_it_is(film: Path, tmp_path: Path) -> None:
    other = Beside("mix.wav", facts_of(film))
    plan = plan_of(film, spec(PAL), Item(sound=other), speed="25")
    kinds = [step.kind for sound in plan.sounds for step in sound.steps]  # type: ignore[union-attr]
    assert "faster" not in kinds and plan.inputs[0].speed != 1 and plan.inputs[1].speed == 1


def test_moving_pictures_are_never_woven_of_two_moments(tmp_path: Path) -> None:
    master = Clip(draw=moving_bar(), rate=Fraction(24), frames=48).write(tmp_path / "film.mov")
    plan = plan_of(master, spec(PAL), speed="25")
    assert plan.frames == 48 and plan.picture is not None
    assert "retime" not in [step.kind for step in plan.picture.steps]  # type: ignore[union-attr]
