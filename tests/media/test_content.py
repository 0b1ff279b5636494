"""What leaves shows and sounds what the master shows and sounds: turned, folded, chosen, on an even
clock.
"""

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from av.audio.layout import AudioLayout

from ample_crate.core.units import loudspeakers
from ample_crate.media import ops
from ample_crate.store.library import find
from ample_crate.work.deliver import Delivered
from clips import Draw, luma_frames
from support import deliver
from tones import sine

Make = Callable[..., Path]
Look = Callable[[Path], ops.Measured]


def test_layouts_have_the_librarys_loudspeakers() -> None:
    """The channel layouts of the libav libraries, as PyAV gives them."""
    for name, speakers in loudspeakers.LAYOUTS.items():
        assert tuple(c.name for c in AudioLayout(name).channels) == speakers, name


def corner(size: tuple[int, int]) -> Draw:
    """White in the upper left of the picture as it lies in the file, black elsewhere."""
    picture = np.zeros((size[1], size[0], 3), np.uint8)
    picture[: size[1] // 2, : size[0] // 2] = 235
    return lambda time: picture


@pytest.mark.parametrize(
    ("degrees", "where"),
    [(90, ("lower", "left")), (180, ("lower", "right")), (270, ("upper", "right"))],
)
def test_a_phone_clip_stands_upright(
    degrees: int, where: tuple[str, str], clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = clip(f"turned {degrees}.mov", draw=corner((640, 360)), frames=6, rotation=degrees)
    facts = measured(master).facts
    assert facts.value("picture.rotation") == degrees
    made = deliver(master, find("pinfold-720p"), tmp_path, facts)
    assert made.facts.value("picture.rotation") == 0
    row = next(f for f in made.findings if f.property == "picture.rotation")
    assert row.verdict == "meets" and row.provenance == "measured"
    picture = luma_frames(made.path)[2]
    # Of 1280x720 a clip that stands takes the middle 406 samples.
    seen = picture if degrees == 180 else picture[:, 437:843]
    high, wide = seen.shape[0] // 2, seen.shape[1] // 2
    quarters = {
        ("upper", "left"): seen[:high, :wide],
        ("upper", "right"): seen[:high, wide:],
        ("lower", "left"): seen[high:, :wide],
        ("lower", "right"): seen[high:, wide:],
    }
    bright = {place: part.mean() > 120 for place, part in quarters.items()}
    assert [place for place, lit in bright.items() if lit] == [where]


def levels(made: Delivered, *hertz: float) -> np.ndarray:
    """Level of each pitch in each channel, linear, from a second of sound: rows by pitch, columns
    by channel.
    """
    with av.open(str(made.path)) as container:
        parts = [f.to_ndarray() for f in container.decode(audio=0)]
        rate = container.streams.audio[0].sample_rate
        channels = container.streams.audio[0].channels
    flat = np.concatenate(parts, axis=1)
    heard = flat if flat.shape[0] == channels else flat.reshape(-1, channels).T
    heard = heard[:, rate // 8 : rate * 7 // 8].astype(np.float64) / (
        32768 if flat.dtype == np.int16 else 1
    )
    time = np.arange(heard.shape[1]) / rate
    waves = [np.exp(-2j * np.pi * hz * time) for hz in hertz]
    return np.array([np.abs(heard @ wave) * 2 / heard.shape[1] for wave in waves])


PITCHES = (400.0, 560.0, 720.0, 80.0, 1040.0, 1200.0)
LESS = 2**-0.5


@pytest.mark.parametrize("layout", ["5.1", "5.1(side)"])
def test_surrounds_are_heard_in_the_fold_wherever_they_stand(
    layout: str, clip: Make, tmp_path: Path, measured: Look
) -> None:
    sound = np.stack([sine(-20, 1, hz) for hz in PITCHES]).astype(np.float32)
    master = clip(
        f"fold {layout}.mov", frames=25, sound=sound, layout=layout, sound_codec="pcm_s24le"
    )
    facts = measured(master).facts
    assert facts.value("sound.layout") == "5.1"
    made = deliver(master, find("tannery-list"), tmp_path, facts, **{"sound.codec": "pcm_s16le"})
    heard = levels(made, *PITCHES) / 0.1
    want = [[1, 0], [0, 1], [LESS, LESS], [0, 0], [LESS, 0], [0, LESS]]
    assert heard == pytest.approx(np.array(want), abs=0.01)


def four_tracks(clip: Make) -> Path:
    mono = [("mono", sine(-20, 1, hz)[None].astype(np.float32)) for hz in PITCHES[:4]]
    return clip("four tracks.mov", frames=25, tracks=mono, sound_codec="pcm_s24le")


@pytest.mark.parametrize(
    ("choice", "want"),
    [("3", {2: [1, 1]}), ("1+2", {0: [1, 0], 1: [0, 1]}), ("3+4", {2: [1, 0], 3: [0, 1]})],
)
def test_the_tracks_that_were_chosen_are_heard_and_no_others(
    choice: str, want: dict[int, list[float]], clip: Make, tmp_path: Path, measured: Look
) -> None:
    master = four_tracks(clip)
    facts = measured(master).facts
    assert facts.value("sound.tracks") == 4
    made = deliver(
        master,
        find("tannery-list"),
        tmp_path,
        facts,
        **{"tracks": choice, "sound.codec": "pcm_s16le"},
    )
    heard = levels(made, *PITCHES[:4]) / 0.1
    assert heard == pytest.approx(np.array([want.get(n, [0, 0]) for n in range(4)]), abs=0.01)
    assert made.facts.value("sound.length_difference") == 0


def test_an_uneven_clip_keeps_its_time_on_an_even_clock(
    clip: Make, tmp_path: Path, measured: Look
) -> None:
    # A camera at 30 fps that left out every fifth frame of the second half; each frame a grey of
    # its own.
    stamps = [n for n in range(60) if n < 30 or n % 5]
    greys = {n / 30: 30 + 3 * stamp for n, stamp in enumerate(stamps)}

    def draw(time: float) -> np.ndarray:
        return np.full((180, 320, 3), greys[time], np.uint8)

    master = clip(
        "phone.mp4", draw=draw, frames=len(stamps), stamps=stamps, rate=Fraction(30), tones=None
    )
    facts = measured(master).facts
    assert facts.value("motion.steady") is False and facts.value("motion.rate") != 30
    made = deliver(master, find("pinfold-720p"), tmp_path, facts)
    assert made.facts.value("motion.rate") == 30 and made.facts.value("motion.steady") is True
    seen = [float(f.mean()) for f in luma_frames(made.path)]
    shown = dict(zip(stamps, (float(f.mean()) for f in luma_frames(master)), strict=True))
    for number in (10, 29, 31, 44, 52, 58):
        there = {shown[s] for s in stamps if abs(s - number) <= 1}
        assert min(abs(seen[number] - grey) for grey in there) < 2, number
