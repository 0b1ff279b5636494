"""Transfers that no matrix turns into standard range: they go on as they are, and the file says so.

Numbers of transfers are ISO/IEC 23091-2's; figures of displays SMPTE ST 2086's and CTA-861.3's.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame
from pymediainfo import MediaInfo

from ample_crate.core.facts import Facts
from ample_crate.core.facts.sequences import gather
from ample_crate.core.formats.mastering import KNOWN, Mastering, levels_read, light_level
from ample_crate.core.ledger import ledger
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.streams import MadePicture
from ample_crate.core.units.values import Size
from ample_crate.media.sequence import lay_out
from ample_crate.store.library import find
from clips import Clip, moving_bar
from conformance import SIZE, Case, cases, facts_of, made_from, odd_ones, planned_from, spec_for

CURVES = {
    "PQ": ("smpte2084", "bt2020nc"),
    "HLG": ("arib-std-b67", "bt2020nc"),
    "log": ("log100", "bt709"),
    "linear": ("linear", "bt709"),
}
SAID = {"picture.transfer", "picture.matrix", "picture.primaries"}


def graded(folder: Path, transfer: str, **more: object) -> Path:
    curve, matrix = CURVES[transfer]
    clip = Clip(
        draw=moving_bar(SIZE),
        frames=3,
        codec="ffv1",
        pixels="yuv444p10le",
        options={},
        matrix=matrix,
        transfer=curve,
        tones=None,
        **more,  # type: ignore[arg-type]
    )
    return clip.write(folder / f"{transfer}.mkv")


def one_of_each() -> Iterator[Case]:
    """Give a small case for every codec and wrapper."""
    done = set()
    for case in cases():
        # Motion JPEG is decoded by one matrix, whatever it was made by; OpenEXR has one transfer.
        small = case.size == SIZE and not case.fields and case.codec not in {"mjpeg", "exr"}
        if small and (case.codec, case.wrapper) not in done:
            done.add((case.codec, case.wrapper))
            yield case


@pytest.mark.parametrize("transfer", CURVES)
def test_a_transfer_is_kept_and_said(transfer: str, tmp_path: Path) -> None:
    master = graded(tmp_path, transfer)
    wrong = {}
    for case in one_of_each():
        spec = spec_for(case, **{"picture.transfer": transfer})
        folder = tmp_path / f"{case.codec} {case.wrapper}"
        _, predicted, _, measured = made_from(master, spec, folder)
        odd = odd_ones(predicted, measured)
        wrong |= {(str(case), key): odd[key] for key in SAID & odd.keys()}
    assert not wrong


def test_code_values_of_a_kept_transfer_do_not_change(tmp_path: Path) -> None:
    master = graded(tmp_path, "PQ")
    case = next(c for c in cases() if c.codec == "ffv1" and c.pixels.chroma == "4:4:4")
    case = case._replace(pixels=case.pixels._replace(depth=10, alpha=False))
    spec = spec_for(case, **{"picture.transfer": "PQ"})
    _, _, path, _ = made_from(master, spec, tmp_path / "made")

    def samples(file: Path) -> list[np.ndarray]:
        with av.open(str(file)) as container:
            frames = list(container.decode(video=0))
        return [np.frombuffer(bytes(p), np.uint16) for f in frames for p in f.planes]

    for mine, theirs in zip(samples(path), samples(master), strict=True):
        assert np.array_equal(mine, theirs)


@pytest.mark.parametrize(("asked", "have"), [("HLG", "PQ"), ("BT.709", "log"), ("PQ", "linear")])
def test_another_transfer_than_the_masters_is_refused(
    asked: str, have: str, tmp_path: Path
) -> None:
    spec = spec_for(next(one_of_each()), **{"picture.transfer": asked})
    route = plan_route(facts_of(graded(tmp_path, have)), spec, {}, "a.mkv")
    assert route.plan is None
    assert any(c.row == "picture.transfer" and c.blocks and c.way_out for c in route.cautions)


def test_standard_range_is_not_called_hdr(tmp_path: Path) -> None:
    spec = spec_for(next(one_of_each()), **{"picture.transfer": "PQ"})
    plain = Clip(draw=moving_bar(SIZE), frames=3, tones=None).write(tmp_path / "a.mov")
    route = plan_route(facts_of(plain), spec, {}, "a.mov")
    assert route.plan is None
    assert any("PQ is asked for" in c.what for c in route.cautions)


def test_eight_bit_hdr_is_cautioned(tmp_path: Path) -> None:
    eight = next(c for c in one_of_each() if c.codec == "h264" and c.pixels.depth == 8)
    spec = spec_for(eight, **{"picture.transfer": "HLG"})
    route = plan_route(facts_of(graded(tmp_path, "HLG")), spec, {}, "a.mkv")
    assert route.plan is not None
    assert any("with 8 bit" in c.what for c in route.cautions)


PARAMETERS = (
    "log-level=none:max-cll=1000,400:master-display="
    "G(13250,34500)B(7500,3000)R(34000,16000)WP(15635,16450)L(10000000,50)"
)


@pytest.fixture(scope="module")
def mastered(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """HDR that says what it was graded on."""
    clip = Clip(
        draw=moving_bar(SIZE),
        frames=4,
        codec="libx265",
        pixels="yuv420p10le",
        options={"x265-params": PARAMETERS, "preset": "ultrafast"},
        matrix="bt2020nc",
        transfer="smpte2084",
        tones=None,
    )
    return clip.write(tmp_path_factory.mktemp("mastered") / "a.mp4")


@pytest.mark.parametrize("codec", ["hevc", "av1"])
def test_the_mastering_display_goes_along(codec: str, mastered: Path, tmp_path: Path) -> None:
    case = next(c for c in cases() if c.codec == codec and c.wrapper == "mp4" and c.depth == 10)
    spec = spec_for(case, **{"picture.transfer": "PQ"})
    _, predicted, path, measured = made_from(mastered, spec, tmp_path)
    assert measured.value("picture.mastering") == "0.005 to 1000 cd/m2, P3-D65"
    assert levels_read(measured.value("picture.light_level")) == (1000, 400)
    assert not {"picture.mastering", "picture.light_level"} & odd_ones(predicted, measured).keys()
    told = MediaInfo.parse(str(path)).video_tracks[0]
    assert told.mastering_display_color_primaries == "Display P3"
    assert told.maximum_content_light_level == "1000 cd/m2"


def test_a_codec_without_a_place_for_the_display_says_so(mastered: Path) -> None:
    ten = next(c for c in one_of_each() if c.codec == "prores")
    spec = spec_for(ten, **{"picture.transfer": "PQ"})
    route = plan_route(facts_of(mastered), spec, {}, "a.mp4")
    assert route.plan is not None
    assert any("mastering display is left out" in c.what for c in route.cautions)


def test_displays_are_read_as_they_are_said() -> None:
    for points in [*KNOWN.values(), ((Fraction("0.68"), Fraction("0.32")),) * 4]:
        display = Mastering(points, Fraction("0.0001"), Fraction(4000))
        assert Mastering.read(display.words()) == display
    assert Mastering.read("0.005 to 1000 cd/m2") is None
    assert levels_read(light_level(10000, 3)) == (10000, 3)


def test_a_logarithmic_scan_goes_to_the_cutting_room_as_it_is(tmp_path: Path) -> None:
    images = tmp_path / "roll"
    images.mkdir()
    frame = VideoFrame.from_ndarray(moving_bar(SIZE)(0), format="rgb24")
    for number in range(3):
        path = images / f"roll_{number:07d}.dpx"
        with av.open(str(path), "w", format="image2", options={"update": "1"}) as container:
            video = container.add_stream("dpx", rate=24)
            video.width, video.height, video.pix_fmt = *SIZE, "gbrp10le"
            container.mux(video.encode(frame.reformat(format="gbrp10le")))
            container.mux(video.encode(None))
        head = bytearray(path.read_bytes())
        head[801] = 3  # SMPTE ST 268-1: logarithmic
        path.write_bytes(bytes(head))
    names = sorted(p.name for p in images.iterdir())
    (found,), _ = gather(names)
    laid = lay_out(tmp_path / "laid", [images / n for n in names], found, Fraction(24))
    master: Facts = facts_of(laid)
    assert master.value("picture.transfer") == "log"
    spec = find("brackwater-scan")
    _, predicted, _, measured = planned_from(laid, spec, tmp_path / "made")
    assert not odd_ones(predicted, measured)
    assert measured.value("picture.transfer") == "log"
    assert measured.value("picture.size") == Size(*SIZE)
    verdicts = {f.property: f.verdict for f in ledger(measured, spec, master)}
    assert set(verdicts.values()) - {"advice"} == {"meets"}, verdicts


def test_hdr_is_not_copied_for_those_who_mean_standard_range(mastered: Path) -> None:
    hdr = facts_of(mastered)
    asked = {"picture.codec": "hevc", "picture.profile": "main 10", "file.wrapper": "mp4"}
    silent = spec_for(next(c for c in cases() if c.codec == "hevc"), **asked)
    open_one = silent.model_copy(
        update={"requirements": [r for r in silent.requirements if r.property in asked]}
    )
    mapped = plan_route(hdr, open_one, {}, "a.mp4")
    assert mapped.plan is not None and isinstance(mapped.plan.picture, MadePicture)
    assert mapped.facts.value("picture.transfer") != "PQ"
    insisted = plan_route(hdr, open_one, {"picture": "copied"}, "a.mp4")
    assert insisted.facts.value("picture.transfer") == "PQ"
