"""HDR brought to standard range: the equations held against another library's, and files held
against the equations.

ITU-R BT.2100-2 and BT.2020-2 by `colour-science`; BT.2446-1 method A by its own properties, since
no library here has it.
"""

from __future__ import annotations

from base64 import b64decode
from fractions import Fraction
from io import BytesIO
from pathlib import Path

import av
import colour
import numpy as np
import pytest
from av.video.frame import VideoFrame
from PIL import Image

from ample_crate.core.ledger import ledger
from ample_crate.core.planning.route import plan_route
from ample_crate.core.units import tone_mapping
from ample_crate.media import planned
from ample_crate.store.library import find
from clips import Clip, moving_bar
from conformance import SIZE, Case, cases, facts_of, made_from, odd_ones, spec_for

CODES = np.linspace(0, 1, 33)
COLOURS = np.random.default_rng(7).random((64, 3))


def test_pq_is_that_of_the_other_library() -> None:
    theirs = colour.models.eotf_BT2100_PQ(CODES)
    assert np.allclose(tone_mapping.pq_light(CODES), theirs, rtol=1e-6, atol=1e-6)


def test_hlg_is_that_of_the_other_library() -> None:
    theirs = colour.models.eotf_BT2100_HLG(COLOURS, L_W=1000, L_B=0)
    assert np.allclose(tone_mapping.hlg_light(COLOURS), theirs, rtol=1e-4, atol=1e-3)


@pytest.mark.parametrize("peak", [200.0, 1000.0, 4000.0])
def test_method_a_rises_without_a_step_from_black_to_white(peak: float) -> None:
    luma = np.linspace(0, 1, 20_001)
    made = tone_mapping.mapped_luma(luma, peak)
    assert made[0] == 0 and made[-1] == pytest.approx(1)
    rises = np.diff(made)
    assert np.all(rises > 0)
    # Its published figures are rounded: where two pieces meet they leave less than a code value.
    assert np.max(np.abs(np.diff(tone_mapping.knee(luma)))) < 1 / 876


def test_grey_stays_grey_and_out_of_reach_is_cut() -> None:
    greys = np.repeat(CODES[:, None], 3, axis=1)
    for transfer in ("PQ", "HLG"):
        made = tone_mapping.standard(greys, transfer, 1000.0)
        assert np.max(np.ptp(made, axis=1)) < 2e-4
        every = tone_mapping.standard(COLOURS, transfer, 1000.0)
        assert every.min() >= 0 and every.max() <= 1


def flat(code: tuple[int, int, int], transfer: str, path: Path) -> Path:
    """Write two frames of one colour of 10 bit, in R'G'B' that says what it is."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv444p10le"
        stream.options = {
            "colorspace": "bt2020nc",
            "color_primaries": "bt2020",
            "color_trc": {"PQ": "smpte2084", "HLG": "arib-std-b67"}[transfer],
            "color_range": "tv",
        }
        for number in range(2):
            frame = VideoFrame(*SIZE, "yuv444p10le")
            for plane, value in zip(frame.planes, code, strict=True):
                plane.update(np.full(plane.buffer_size // 2, value, np.uint16).tobytes())
            frame.pts = number
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def in_709(codes: np.ndarray) -> np.ndarray:
    """Give the other library's word for R'G'B' of BT.2020 in BT.709's primaries (ITU-R BT.2407)."""
    wide, narrow = (colour.RGB_COLOURSPACES[f"ITU-R BT.{n}"] for n in (2020, 709))
    linear = colour.RGB_to_RGB(codes, wide, narrow, apply_cctf_decoding=True)
    return np.asarray(narrow.cctf_encoding(np.clip(linear, 0, 1)))


def ycbcr(codes: np.ndarray, luminance: tuple[float, float]) -> list[float]:
    """Give 10-bit code values of R'G'B' in limited range, by a matrix's shares of red and blue."""
    red, blue = luminance
    r, g, b = codes
    luma = red * r + (1 - red - blue) * g + blue * b
    chroma = [(b - luma) / (2 - 2 * blue), (r - luma) / (2 - 2 * red)]
    return [64 + 876 * luma, *(512 + 896 * c for c in chroma)]


@pytest.mark.parametrize("transfer", ["PQ", "HLG"])
@pytest.mark.parametrize(
    "codes", [(0.58, 0.58, 0.58), (0.5, 0.3, 0.25), (0.4, 0.45, 0.38), (0.75, 0.75, 0.7)], ids=str
)
def test_a_file_has_the_colours_of_the_equations(
    codes: tuple[float, ...], transfer: str, tmp_path: Path
) -> None:
    stored = [round(value) for value in ycbcr(np.array(codes), (0.2627, 0.0593))]
    luma, blue, red = stored
    master = flat((luma, blue, red), transfer, tmp_path / "master.mkv")
    case = Case("prores", "4444", next(_layouts("prores", "4444")), "mov")
    spec = spec_for(case, **{"picture.transfer": "BT.709", "picture.matrix": "BT.709"})
    _, predicted, path, measured = made_from(master, spec, tmp_path / "made")
    assert not odd_ones(predicted, measured)
    made = in_709(tone_mapping.standard(np.array(codes), transfer, 1000.0))
    with av.open(str(path)) as container:
        frame = next(container.decode(video=0))
    for plane, wanted in zip(frame.planes, ycbcr(made, (0.2126, 0.0722)), strict=False):
        found = np.frombuffer(bytes(plane), np.uint16)
        # Twelve bits are read of what has ten.
        scale = 4 if "12" in frame.format.name else 1
        # Two code values of eight bit.
        assert abs(float(found.mean()) / scale - wanted) < 8


def _layouts(codec: str, profile: str):  # type: ignore[no-untyped-def]
    return (c.pixels for c in cases() if (c.codec, c.profile) == (codec, profile))


def test_the_route_says_what_it_does_to_hdr(tmp_path: Path) -> None:
    clip = Clip(
        draw=moving_bar((1920, 1080)),
        frames=2,
        codec="ffv1",
        pixels="yuv420p10le",
        options={},
        matrix="bt2020nc",
        transfer="smpte2084",
        rate=Fraction(25),
    )
    master = facts_of(clip.write(tmp_path / "a.mkv"))
    spec = find("tannery-list")
    route = plan_route(master, spec, {}, "a.mkv")
    assert route.plan is not None
    said = next(c for c in route.cautions if c.row == "picture.transfer")
    assert said.figures == "1000 to 100 cd/m2" and "does not say how bright" in said.what
    assert any("BT.2446" in s.reason for s in route.steps)
    assert route.facts.value("picture.transfer") in {"BT.709", None}
    assert "breaks" not in {f.verdict for f in ledger(route.facts, spec, master)}


def test_other_primaries_than_hdrs_are_refused(tmp_path: Path) -> None:
    master = facts_of(flat((500, 512, 512), "PQ", tmp_path / "a.mkv"))
    odd = master.with_values("declared", {"picture.primaries": "P3-D65"})
    route = plan_route(odd, find("tannery-list"), {}, "a.mkv")
    assert route.plan is None
    assert any("P3-D65" in c.why for c in route.cautions if c.blocks)


def test_the_preview_shows_what_is_made(tmp_path: Path) -> None:
    codes = np.array((0.58, 0.58, 0.58))
    luma, blue, red = (round(value) for value in ycbcr(codes, (0.2627, 0.0593)))
    master = flat((luma, blue, red), "PQ", tmp_path / "a.mkv")
    case = Case("prores", "4444", next(_layouts("prores", "4444")), "mov")
    route = plan_route(facts_of(master), spec_for(case), {}, "a.mkv")
    assert route.plan is not None
    plan = route.plan.model_dump(mode="json")
    shown = planned.handle(lambda _: None, [str(master)], plan, 0, {"width": 64})
    picture = np.asarray(Image.open(BytesIO(b64decode(shown["jpeg"]))).convert("RGB"))
    wanted = in_709(tone_mapping.standard(codes, "PQ", 1000.0)) * 255
    assert np.abs(picture.mean(axis=(0, 1)) - wanted).max() <= 2
