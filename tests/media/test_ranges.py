"""Ranges of a master, and masters whose clock is not what their headers say, delivered to the very
frame.
"""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from ample_crate.core.facts import Facts, corrections
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.media import ops
from ample_crate.media.viewer import Viewer
from ample_crate.store.library import find
from ample_crate.store.models import Crate, Deliverable
from ample_crate.work import crates
from ample_crate.work.deliver import run_route
from clips import Clip
from counting import number_in, numbered, numbers


def deliver(master: Path, facts: Facts, out: Path, span: Span | None = None) -> Path:
    spec = find("pinfold-720p")
    route = plan_route(facts, spec, {}, master.name, Item(span))
    assert route.plan is not None, route.cautions
    return run_route([master], facts, spec, route, out).path


@pytest.fixture(scope="module")
def long(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """300 numbered frames; the sound bursts in at frame 230."""
    sound = np.zeros((2, 12 * 48000), np.float32)
    at = round(230 / 25 * 48000)
    sound[:, at:] = 0.3 * np.sin(np.arange(sound.shape[1] - at) * 0.2)
    return Clip(
        draw=numbered(),
        frames=300,
        sound=sound,
        options={"preset": "ultrafast", "g": "48", "bf": "2"},
    ).write(tmp_path_factory.mktemp("long") / "long.mp4")


@pytest.mark.parametrize(("first", "frames"), [(0, 10), (13, 20), (221, 40), (290, 10)])
def test_a_range_is_delivered_from_its_first_frame_to_its_last(
    long: Path, first: int, frames: int, tmp_path: Path
) -> None:
    made = deliver(
        long, ops.measure(long).facts, tmp_path, Span(name="part", first=first, frames=frames)
    )
    assert numbers(made) == list(range(first, first + frames))
    facts = ops.measure(made).facts
    assert facts.value("motion.frames") == frames and abs(
        facts.value("sound.length_difference")
    ) < Fraction(1, 20)


def test_the_sound_of_a_range_is_its_own(long: Path, tmp_path: Path) -> None:
    made = deliver(long, ops.measure(long).facts, tmp_path, Span(name="part", first=220, frames=40))
    with av.open(str(made)) as container:
        heard = np.concatenate([f.to_ndarray()[0] for f in container.decode(audio=0)])
    assert int(np.argmax(np.abs(heard) > 0.05)) == pytest.approx(0.4 * 48000, abs=0.01 * 48000)


def test_a_range_of_a_stream_without_time_stamps(tmp_path: Path) -> None:
    path = Clip(draw=numbered(), frames=60, tones=None).write(tmp_path / "bare.264", "h264")
    made = deliver(
        path, ops.measure(path).facts, tmp_path / "out", Span(name="part", first=20, frames=15)
    )
    assert numbers(made) == list(range(20, 35))


def test_frames_that_do_not_last_equally_long_all_come_through(tmp_path: Path) -> None:
    stamps = [n if n < 30 else n * 2 - 30 for n in range(60)]  # the second half at half the rate
    path = Clip(draw=numbered(), frames=60, stamps=stamps, tones=None).write(
        tmp_path / "uneven.mp4"
    )
    facts = ops.measure(path).facts
    assert facts.value("motion.steady") is False
    shown = numbers(deliver(path, facts, tmp_path / "out"))
    assert shown == sorted(shown) and shown[0] == 0 and shown[-1] >= 58
    viewer = Viewer()
    try:
        import io

        from PIL import Image

        for wanted in (5, 31, 45, 59):
            row = np.asarray(
                Image.open(io.BytesIO(viewer.picture(path, wanted, 320, {"even": False}))).convert(
                    "L"
                )
            )[90]
            assert number_in(row) == wanted
    finally:
        viewer.close()


def test_a_corrected_rate_keeps_every_frame_and_gives_it_a_new_time(tmp_path: Path) -> None:
    path = Clip(draw=numbered(), frames=50, tones=None).write(tmp_path / "a.mp4")
    facts = corrections.apply(ops.measure(path).facts, {"motion.rate": "24/1"})
    made = deliver(path, facts, tmp_path / "out")
    found = ops.measure(made).facts
    assert (
        numbers(made) == list(range(50))
        and found.value("motion.rate") == 24
        and found.value("file.duration") == Fraction(50, 24)
    )


def test_a_new_revision_keeps_the_range() -> None:
    span = {"name": "walk", "first": 5, "frames": 9}
    crate = Crate(
        number=1,
        revision=1,
        title="t",
        recipient_key="r",
        spec_id="s",
        spec_version=1,
        state="sealed",
    )
    crate.deliverables = [
        Deliverable(master_id=1, span=span, position=0, choices={}, exceptions=[])
    ]
    assert crates.revise(crate).deliverables[0].span == span


BARE = {"m2v": ("mpeg2video", "mpeg2video"), "264": ("libx264", "h264")}


@pytest.mark.parametrize("ending", list(BARE))
def test_a_bare_stream_is_delivered_to_the_very_frame(ending: str, tmp_path: Path) -> None:
    codec, wrapper = BARE[ending]
    # Of MPEG-2 the library counts the first frame's time from the second one's.
    clip = Clip(draw=numbered(), frames=50, tones=None, codec=codec, options={})
    bare = clip.write(tmp_path / f"bare.{ending}", wrapper)
    facts = ops.measure(bare).facts
    whole, part = (
        deliver(bare, facts, tmp_path / name, span)
        for name, span in (("whole", None), ("part", Span(name="walk", first=20, frames=5)))
    )
    assert numbers(whole) == list(range(50))
    assert numbers(part) == list(range(20, 25))
