"""Facts measured from files whose truth is known."""

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from av.audio.frame import AudioFrame

from ample_crate.core.units.values import Size
from ample_crate.media import ops
from ample_crate.media.ops import Measured
from clips import moving_bar

Make = Callable[..., Path]
Look = Callable[[Path], Measured]
SD = {
    "draw": moving_bar((720, 576), 300),
    "codec": "mpeg2video",
    "pixels": "yuv422p",
    "sound_codec": "mp2",
    "aspect": Fraction(64, 45),
}
RATE = {"b": "15000000", "maxrate": "20000000", "bufsize": "4000000", "profile": "0", "g": "1"}


@pytest.mark.parametrize("order", ["upper first", "lower first"])
@pytest.mark.parametrize("flagged", ["upper first", "lower first"])
def test_field_order_is_what_the_lines_show(
    order: str, flagged: str, clip: Make, measured: Look
) -> None:
    name = f"fields_{order[0]}_{flagged[0]}.mpg"
    facts = measured(clip(name, **SD, options=RATE, fields=order, flagged=flagged, frames=40)).facts
    assert facts.fact("motion.field_order").declared == flagged
    assert facts.fact("motion.field_order").measured == order
    assert facts.value("motion.scan") == "interlaced"
    assert ("motion.field_order" in facts.contradictions()) == (order != flagged)


def test_fields_in_a_stream_that_says_progressive(clip: Make, measured: Look) -> None:
    facts = measured(
        clip(
            "hidden_fields.mpg", **SD, options=RATE, fields="upper first", flagged="none", frames=40
        )
    ).facts
    assert facts.fact("motion.scan").measured == "interlaced"
    assert facts.value("motion.field_order") == "upper first"


def test_whole_frames_carried_as_fields(clip: Make, measured: Look) -> None:
    facts = measured(
        clip("segmented.mpg", **SD, options=RATE, flagged="upper first", frames=40)
    ).facts
    assert facts.value("motion.lines") == "whole frames"
    assert (
        facts.value("motion.scan") == "interlaced"
        and facts.value("motion.field_order") == "upper first"
    )


def test_plain_facts_of_a_plain_clip(clip: Make, measured: Look) -> None:
    found = measured(clip("plain.mp4"))
    facts = found.facts
    assert found.notes == []
    assert facts.value("picture.size") == Size(320, 180)
    assert (
        facts.value("motion.frames") == 25
        and facts.value("motion.rate") == 25
        and facts.value("motion.steady") is True
    )
    assert facts.value("file.duration") == 1
    assert facts.value("sound.tracks") == 1 and facts.value("sound.layout") == "stereo"
    assert facts.value("file.wrapper") == "mp4" and facts.value("file.index_in_front") is False
    assert facts.value("motion.scan") == "progressive" and facts.value("motion.intra_only") is False


@pytest.mark.parametrize(
    "rate", [Fraction(24000, 1001), Fraction(24), Fraction(30000, 1001), Fraction(50)]
)
def test_rates_are_told_apart(rate: Fraction, clip: Make, measured: Look) -> None:
    made = clip(f"rate_{rate.numerator}_{rate.denominator}.mp4", rate=rate, frames=60)
    assert measured(made).facts.value("motion.rate") == rate


def test_an_uneven_clock_is_found(clip: Make, measured: Look) -> None:
    stamps = [n + (n > 10) * 3 + (n > 20) for n in range(30)]
    facts = measured(clip("uneven.mkv", frames=30, stamps=stamps, tones=None)).facts
    assert facts.value("motion.steady") is False and facts.value("sound.tracks") == 0


def test_every_frame_a_key_frame(clip: Make, measured: Look) -> None:
    facts = measured(clip("intra.mp4", options={"preset": "ultrafast", "g": "1"})).facts
    assert facts.value("motion.intra_only") is True and facts.value("motion.longest_gop") == 1


def test_the_shape_in_the_header(clip: Make, measured: Look) -> None:
    facts = measured(clip("wide.mp4", draw=moving_bar((720, 576)), aspect=Fraction(16, 11))).facts
    assert facts.value("picture.pixel_aspect") == Fraction(16, 11)
    assert facts.value("picture.display_aspect") == Fraction(20, 11)


def test_sound_longer_than_picture_is_measured(clip: Make, measured: Look) -> None:
    import numpy as np

    made = clip("long_sound.mov", sound=np.zeros((2, 72000), np.float32), sound_codec="pcm_s16le")
    assert measured(made).facts.value("sound.length_difference") == Fraction(1, 2)


def test_eight_channels_in_planes_of_their_own_are_measured(tmp_path: Path, measured: Look) -> None:
    """The codec library's wrapper shows a ninth plane of such frames, which is no memory."""
    path = tmp_path / "eight.ogg"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libopus", rate=48000, layout="7.1")
        stream.codec_context.format = "flt"
        sound = np.zeros((1, 8 * 48000), np.float32)
        sound[0, 5::8] = 0.5 * np.sin(np.arange(48000) * 0.1)
        frame = AudioFrame.from_ndarray(sound, format="flt", layout="7.1")
        frame.sample_rate, frame.pts = 48000, 0
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    facts = ops.measure(path, depth="everything").facts
    assert facts.value("sound.channels") == 8
    assert -7 < (facts.fraction("sound.true_peak") or 0) < -5
