"""Known streams, measured: transparency, rates, pixel aspect, groups of pictures, coding costs."""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from known import SMALL, everything

from ample_crate.media import ops
from clips import Clip, moving_bar, plain


@pytest.mark.parametrize(
    ("use", "told"), [("used", "used"), ("opaque", "wholly opaque"), ("clear", "wholly clear")]
)
def test_whether_alpha_is_used(use: str, told: str, tmp_path: Path) -> None:
    path = tmp_path / "a.mov"
    with av.open(str(path), "w") as out:
        video = out.add_stream("prores_ks", rate=25)
        video.width, video.height, video.pix_fmt, video.options = (
            320,
            192,
            "yuva444p10le",
            {"profile": "4", "alpha_bits": "16"},
        )
        for number in range(4):
            picture = np.dstack(
                [
                    moving_bar(SMALL)(number / 25),
                    np.full((192, 320), 0 if use == "clear" else 255, np.uint8),
                ]
            )
            if use == "used":
                picture[50:90, 50:90, 3] = 128
            frame = av.VideoFrame.from_ndarray(picture, format="rgba").reformat(
                format="yuva444p10le"
            )
            frame.pts = number
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    facts = everything(path).facts
    assert facts.value("picture.alpha") is True and facts.value("picture.alpha_use") == told


def test_alpha_beside_a_vp9_stream(tmp_path: Path) -> None:
    path = tmp_path / "a.webm"
    with av.open(str(path), "w") as out:
        video = out.add_stream("libvpx-vp9", rate=25)
        video.width, video.height, video.pix_fmt, video.options = (
            320,
            192,
            "yuva420p",
            {"deadline": "realtime", "b": "500000"},
        )
        video.metadata["alpha_mode"] = "1"
        for number in range(5):
            picture = np.dstack(
                [moving_bar(SMALL)(number / 25), np.full((192, 320), 255, np.uint8)]
            )
            picture[:, :160, 3] = 0
            frame = av.VideoFrame.from_ndarray(picture, format="rgba").reformat(format="yuva420p")
            frame.pts = number
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    facts = everything(path).facts
    assert facts.value("picture.alpha") is True and facts.value("picture.alpha_use") == "used"


@pytest.mark.parametrize("rate", [Fraction(24000, 1001), Fraction(24)])
def test_23_976_is_not_24(rate: Fraction, tmp_path: Path) -> None:
    facts = ops.measure(Clip(rate=rate, frames=48, tones=None).write(tmp_path / "a.mov")).facts
    assert facts.fact("motion.rate").measured == rate and facts.value("motion.steady") is True
    assert facts.value("file.duration") == 48 / rate


def test_pixel_aspect_wrong_in_the_wrapper_and_right_in_the_stream(tmp_path: Path) -> None:
    right = Clip(draw=moving_bar((720, 576)), aspect=Fraction(64, 45), tones=None, frames=10).write(
        tmp_path / "right.mp4"
    )
    data = right.read_bytes()
    at = data.index(b"pasp")
    wrong = tmp_path / "wrong.mp4"
    wrong.write_bytes(
        data[: at + 4] + (16).to_bytes(4, "big") + (15).to_bytes(4, "big") + data[at + 12 :]
    )
    fact = ops.measure(wrong).facts.fact("picture.pixel_aspect")
    assert fact.declared == Fraction(16, 15) and fact.measured == Fraction(64, 45)
    assert "picture.pixel_aspect" in ops.measure(wrong).facts.contradictions()
    assert "picture.pixel_aspect" not in ops.measure(right).facts.contradictions()


def test_gop_structure(tmp_path: Path) -> None:
    options = {
        "preset": "veryfast",
        "crf": "23",
        "x264-params": "keyint=12:min-keyint=6:scenecut=0:bframes=2:b-adapt=0:open-gop=0",
    }
    closed = ops.measure(
        Clip(frames=40, tones=None, options=options).write(tmp_path / "closed.mp4")
    ).facts
    assert (
        closed.value("motion.longest_gop") == 12
        and closed.value("motion.b_frames") == 2
        and closed.value("motion.open_gop") is False
    )
    options["x264-params"] = options["x264-params"].replace("open-gop=0", "open-gop=1")
    assert (
        ops.measure(
            Clip(frames=40, tones=None, options=options).write(tmp_path / "open.mp4")
        ).facts.value("motion.open_gop")
        is True
    )


def test_spatial_and_temporal_information_of_known_pictures(tmp_path: Path) -> None:
    """ITU-T P.910: a plain picture has neither; of two plain pictures in turn the temporal
    information is nought too.
    """
    still = everything(
        Clip(draw=plain((90, 90, 90), SMALL), frames=30, tones=None).write(tmp_path / "a.mp4")
    ).facts
    assert float(still.value("picture.spatial")) < 1 and float(still.value("picture.temporal")) < 1


def test_costs_tell_intra_from_long_gop(tmp_path: Path) -> None:
    long = Clip(
        draw=moving_bar((640, 360)),
        frames=100,
        tones=None,
        options={"preset": "ultrafast", "g": "100"},
    ).write(tmp_path / "a.mp4")
    intra = Clip(
        draw=moving_bar((640, 360)),
        frames=100,
        tones=None,
        options={"preset": "ultrafast", "g": "1"},
    ).write(tmp_path / "b.mp4")

    def backwards(path: Path) -> Fraction:
        # A process that has to wait for its turn makes a time longer, never shorter: the least of
        # several is the true one.
        tries = [everything(path).facts for _ in range(5)]
        least = {
            key: min(Fraction(f.value(key)) for f in tries)
            for key in ("motion.cost_backwards", "motion.cost_forwards")
        }
        return least["motion.cost_backwards"] / least["motion.cost_forwards"]

    assert backwards(long) > 2 * backwards(intra)
