"""Transparency laid over a background, divided out, kept or refused; held against arithmetic."""

from __future__ import annotations

from base64 import b64decode
from io import BytesIO
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import corrections
from ample_crate.core.formats.pixels import Pixels
from ample_crate.core.planning.plan import Plan, Route
from ample_crate.core.planning.route import plan_route
from ample_crate.media import planned
from clear import ALPHAS, LEFT, RIGHT, SIZE, halves
from conformance import Case, facts_of, ignored, make, measured_here, odd_ones, spec_for

FLAT = Case("prores", "4444", Pixels("4:4:4", 10), "mov", size=SIZE)
CLEAR = Case("prores", "4444", Pixels("4:4:4", 10, alpha=True), "mov", size=SIZE)


def routed(master: Path, case: Case, mode: str = "", **choices: str) -> Route:
    facts = facts_of(master)
    if mode:
        facts = corrections.apply(facts, {"picture.alpha_mode": mode})
    return plan_route(facts, spec_for(case), choices, master.name)


def shown(master: Path, route: Route, folder: Path) -> np.ndarray:
    """Make the file, see that it is as predicted, and give its first frame in R'G'B'."""
    assert route.plan is not None
    folder.mkdir(exist_ok=True)
    file = folder / route.plan.files[0].name
    make(master, file, route.plan)
    assert not odd_ones(route.facts, measured_here(file))
    with av.open(str(file)) as container:
        frame = next(container.decode(video=0))
    wanted = "rgba" if route.facts.value("picture.alpha") else "rgb24"
    plain = frame.reformat(format=wanted, src_colorspace="ITU601")
    return plain.to_ndarray().astype(float)


def mixed(colour: tuple[int, ...], under: tuple[int, ...]) -> np.ndarray:
    share = ALPHAS[0] / 255
    return share * np.array(colour) + (1 - share) * np.array(under)


@pytest.mark.parametrize(
    ("background", "under"),
    [
        ("black", (0, 0, 0)),
        ("white", (255, 255, 255)),
        ("#204060", (0x20, 0x40, 0x60)),
        ("#FF8000", (255, 128, 0)),
    ],
)
def test_what_is_clear_shows_the_background(
    background: str, under: tuple[int, ...], tmp_path: Path
) -> None:
    master = halves(tmp_path / "a.mov")
    route = routed(master, FLAT, background=background)
    picture = shown(master, route, tmp_path / "made")
    assert np.abs(picture[32, 20] - mixed(LEFT, under)).max() <= 3
    assert np.abs(picture[32, 100] - RIGHT).max() <= 3
    assert any(c.row == "picture.alpha" and background in c.what for c in route.cautions)


def test_a_checker_is_seen_through_it(tmp_path: Path) -> None:
    master = halves(tmp_path / "a.mov")
    picture = shown(master, routed(master, FLAT, background="checker"), tmp_path / "made")
    for column, grey in ((4, 0x99), (20, 0x66)):
        assert np.abs(picture[8, column] - mixed(LEFT, (grey,) * 3)).max() <= 3


def test_black_is_taken_where_nobody_says(tmp_path: Path) -> None:
    master = halves(tmp_path / "a.mov")
    route = routed(master, FLAT)
    assert route.choices["background"] == "black"
    assert np.abs(shown(master, route, tmp_path)[32, 20] - mixed(LEFT, (0, 0, 0))).max() <= 3


def test_it_is_only_dropped_where_that_is_chosen(tmp_path: Path) -> None:
    master = halves(tmp_path / "a.mov")
    route = routed(master, FLAT, background="none")
    assert any("is dropped" in c.what for c in route.cautions)
    assert np.abs(shown(master, route, tmp_path)[32, 20] - LEFT).max() <= 3


def test_it_is_refused_where_the_spec_leaves_it_to_a_person(tmp_path: Path) -> None:
    spec = spec_for(FLAT)
    spec = spec.model_copy(
        update={"coding": spec.coding.model_copy(update={"background": "refused"})}
    )
    facts = facts_of(halves(tmp_path / "a.mov"))
    refused = plan_route(facts, spec, {}, "a.mov")
    assert refused.plan is None
    assert any("laid over" in c.way_out for c in refused.cautions if c.blocks)
    assert plan_route(facts, spec, {"background": "white"}, "a.mov").plan is not None


def test_premultiplied_colour_is_divided_where_it_is_kept(tmp_path: Path) -> None:
    multiplied = tuple(round(value * ALPHAS[0] / 255) for value in LEFT)
    master = halves(tmp_path / "a.mov", multiplied)
    route = routed(master, CLEAR, "premultiplied")
    picture = shown(master, route, tmp_path / "made")
    assert np.abs(picture[32, 20, :3] - LEFT).max() <= 4
    assert abs(picture[32, 20, 3] - ALPHAS[0]) <= 1
    assert any("Straight alpha" in s.title for s in route.steps)


def test_premultiplied_colour_is_not_multiplied_again_over_a_background(tmp_path: Path) -> None:
    multiplied = tuple(round(value * ALPHAS[0] / 255) for value in LEFT)
    master = halves(tmp_path / "a.mov", multiplied)
    route = routed(master, FLAT, "premultiplied", background="white")
    picture = shown(master, route, tmp_path / "made")
    assert np.abs(picture[32, 20] - mixed(LEFT, (255, 255, 255))).max() <= 4


def test_what_is_opaque_all_over_is_laid_over_nothing(tmp_path: Path) -> None:
    facts = facts_of(halves(tmp_path / "a.mov"))
    opaque = facts.with_values("measured", {"picture.alpha_use": "wholly opaque"})
    route = plan_route(opaque, spec_for(FLAT), {}, "a.mov")
    assert any("opaque all over" in s.reason for s in route.steps)
    assert not any(c.row == "picture.alpha" for c in route.cautions)


@pytest.mark.parametrize("background", ["blue", "#12345", "transparent", ""])
def test_what_is_no_background_is_said(background: str, tmp_path: Path) -> None:
    with pytest.raises(BadValue, match="laid over"):
        routed(halves(tmp_path / "a.mov"), FLAT, background=background)


def test_the_encoder_of_hevc_lists_transparency_and_refuses_it(tmp_path: Path) -> None:
    """Where it opens one day, that is to be made."""
    assert "yuva420p" in {f.name for f in av.codec.Codec("libx265", "w").video_formats or ()}
    with av.open(str(tmp_path / "a.mov"), "w") as container:
        stream = container.add_stream("libx265", rate=25)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuva420p"
        with pytest.raises(OSError, match="not supported"):
            stream.codec_context.open()
        stream.pix_fmt = "yuv420p"


def test_what_is_not_made_is_said_of_hevc(tmp_path: Path) -> None:
    case = Case("hevc", "main", Pixels("4:2:0", 8), "mov", size=SIZE)
    route = routed(halves(tmp_path / "a.mov"), case)
    (said,) = [c for c in route.cautions if c.row == "picture.alpha"]
    assert "made without it here" in said.why and "Annex F" in said.why


def test_the_preview_has_the_background(tmp_path: Path) -> None:
    master = halves(tmp_path / "a.mov")
    plan = routed(master, FLAT, background="white").plan
    assert plan is not None
    told = planned.handle(ignored, [str(master)], plan.model_dump(mode="json"), 1, {"width": 128})
    picture = np.asarray(Image.open(BytesIO(b64decode(told["jpeg"]))).convert("RGB"), float)
    assert np.abs(picture[32, 20] - mixed(LEFT, (255, 255, 255))).max() <= 6


def previewed(master: Path, plan: Plan, ground: str) -> np.ndarray:
    look = {"width": 128, "ground": ground}
    told = planned.handle(ignored, [str(master)], plan.model_dump(mode="json"), 1, look)
    return np.asarray(Image.open(BytesIO(b64decode(told["jpeg"]))).convert("RGB"), float)


@pytest.mark.parametrize(
    ("ground", "left", "right"),
    [
        ("white", mixed(LEFT, (255, 255, 255)), RIGHT),
        ("black", mixed(LEFT, (0, 0, 0)), RIGHT),
        ("matte", (ALPHAS[0],) * 3, (ALPHAS[1],) * 3),
    ],
)
def test_the_preview_shows_the_transparency_that_is_kept(
    ground: str, left: tuple[int, ...], right: tuple[int, ...], tmp_path: Path
) -> None:
    master = halves(tmp_path / "a.mov")
    plan = routed(master, CLEAR).plan
    assert plan is not None
    picture = previewed(master, plan, ground)
    assert np.abs(picture[32, 20] - left).max() <= 6
    assert np.abs(picture[32, 100] - right).max() <= 6


def test_what_has_no_transparency_has_a_white_matte(tmp_path: Path) -> None:
    master = halves(tmp_path / "a.mov")
    plan = routed(master, FLAT, background="white").plan
    assert plan is not None
    assert previewed(master, plan, "matte").min() >= 250


def test_a_difference_of_transparency_alone_is_seen(tmp_path: Path) -> None:
    master, opaque = halves(tmp_path / "a.mov"), tmp_path / "b.mov"
    route = routed(master, CLEAR)
    assert route.plan is not None
    made = tmp_path / "made" / route.plan.files[0].name
    made.parent.mkdir()
    make(master, made, route.plan)
    plan = route.plan.model_dump(mode="json")

    def gap(of: Path) -> np.ndarray:
        look = {"width": 128, "gain": 8}
        told = planned.answer_difference(ignored, str(made), [str(of)], plan, 1, look)
        return np.asarray(Image.open(BytesIO(b64decode(told["jpeg"]))).convert("RGB"), float)

    assert gap(master).max() < 40
    halves(opaque, clear=255)
    found = gap(opaque)
    assert found[32, 20].min() > 200 and found[32, 100].max() < 40
