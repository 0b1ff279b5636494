"""H.265, by x265."""

from __future__ import annotations

from ...core.formats.hevc import LEVELS
from ...core.formats.mastering import CHROMATICITY, LUMINANCE, Mastering, levels_read
from ...core.planning.encoding import RatedPicture
from ...core.planning.steps import PictureFormat
from .setup import Options, Pass, PictureSetup, rated

PRESETS = {"usual": "medium", "faster": "superfast"}


def setup(e: RatedPicture, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options."""
    params = {
        "log-level": "error",
        "open-gop": "0",
        "min-keyint": "1" if e.gop == 1 else str(min(e.gop, 2)),
        "scenecut": "40" if e.gop > 1 else "0",
        "ref": str(e.reference_frames),
        "info": "0",
    }
    if e.level is not None:
        level = LEVELS.by_name(e.level, e.profile)
        high = level is not None and level.main_tier is not None and e.max_rate > level.main_tier
        params |= {"level-idc": e.level, "high-tier": str(int(high))}
    if e.named or e.constant:
        params["hrd"] = "1"
    if e.constant:
        params["strict-cbr"] = "1"
    display, light = Mastering.read(e.mastering), levels_read(e.light)
    if display is not None:
        params["master-display"] = _display(display)
    if light is not None:
        params["max-cll"] = f"{light[0]},{light[1]}"
    options = rated(e, f) | {
        "preset": PRESETS[e.pace],
        "a53cc": str(int(e.captions)),
        "x265-params": _joined(params),
    }
    if e.quantiser is not None:
        options["crf"] = str(e.quantiser)
    return PictureSetup(
        "libx265",
        options,
        frame_threads=True,
        bit_rate=e.kept_to,
        tag="hvc1",
        passing=_passing,
    )


def _display(display: Mastering) -> str:
    """Write a display in whole steps: of 0.00002, and of 0.0001 cd/m2."""
    red, green, blue, white = (
        f"({round(x * CHROMATICITY)},{round(y * CHROMATICITY)})" for x, y in display.points
    )
    most, least = (round(light * LUMINANCE) for light in (display.most, display.least))
    return f"G{green}B{blue}R{red}WP{white}L({most},{least})"


def _joined(params: dict[str, str]) -> str:
    return ":".join(f"{key}={value}" for key, value in params.items())


def _passing(options: Options, turn: Pass) -> Options:
    """It takes the passes among its own parameters."""
    more = _joined({"pass": str(turn.number), "stats": turn.stats})
    return {"x265-params": f"{options['x265-params']}:{more}"}


PICTURE = {"hevc": setup}
