"""Transparency laid over the first picture of another file: it covers the frame, keeps its colours,
and what cannot be laid under is refused; held against arithmetic.
"""

from __future__ import annotations

from base64 import b64decode
from io import BytesIO
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image
from test_alpha import CLEAR, FLAT, mixed

from ample_crate.core.facts import Facts
from ample_crate.core.planning.beside import Beside
from ample_crate.core.planning.plan import Plan, Route
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.media import ops, planned
from clear import LEFT, RIGHT, SIZE, halves
from clips import Clip, plain
from conformance import facts_of, ignored, make, measured_here, odd_ones, spec_for

STILL = {"background": "still"}
RED, GREEN, BLUE = (180, 30, 40), (40, 160, 60), (30, 50, 200)


def striped(path: Path, size: tuple[int, int], edge: int) -> Path:
    """Write a picture that is green, with so many red columns at each side."""
    picture = np.full((size[1], size[0], 3), GREEN, np.uint8)
    picture[:, :edge] = picture[:, size[0] - edge :] = RED
    Image.fromarray(picture).save(path)
    return path


def over(master: Path, still: Path, facts: Facts | None = None, case=FLAT) -> Route:
    under = Beside(still.name, facts_of(still) if facts is None else facts)
    return plan_route(facts_of(master), spec_for(case), STILL, master.name, Item(under=under))


def shown(master: Path, still: Path, folder: Path) -> np.ndarray:
    """Make it, see that it is as predicted, and give its first frame in R'G'B'."""
    route = over(master, still)
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    folder.mkdir()
    made = ops.render([master, still], folder, route.plan, route.size)
    assert not odd_ones(route.facts, measured_here(made.path))
    return first_of(made.path)


def first_of(path: Path) -> np.ndarray:
    with av.open(str(path)) as container:
        frame = next(container.decode(video=0))
    return frame.reformat(format="rgb24", src_colorspace="ITU601").to_ndarray().astype(float)


@pytest.fixture
def master(tmp_path: Path) -> Path:
    return halves(tmp_path / "a.mov")


@pytest.mark.parametrize(
    ("size", "edge"),
    [((128, 64), 0), ((512, 256), 0), ((300, 100), 50), ((160, 80), 0)],
    ids=["as large", "larger", "wider", "a little larger"],
)
def test_a_still_covers_the_picture(
    size: tuple[int, int], edge: int, master: Path, tmp_path: Path
) -> None:
    """What is cut off at the sides is red; 300x100 leaves 200x100 of its middle."""
    picture = shown(master, striped(tmp_path / "under.png", size, edge), tmp_path / "made")
    for column in (3, 32, 60):
        assert np.abs(picture[32, column] - mixed(LEFT, GREEN)).max() <= 3
    assert np.abs(picture[32, 100] - RIGHT).max() <= 3


def test_one_that_is_too_high_is_cut_above_and_below(master: Path, tmp_path: Path) -> None:
    high = striped(tmp_path / "high.png", (100, 128), 0)
    samples = np.asarray(Image.open(high)).copy()
    samples[:39] = samples[-39:] = RED
    Image.fromarray(samples).save(high)
    picture = shown(master, high, tmp_path / "made")
    for row in (2, 32, 61):
        assert np.abs(picture[row, 20] - mixed(LEFT, GREEN)).max() <= 3


def test_a_film_gives_its_first_picture(master: Path, tmp_path: Path) -> None:
    film = Clip(
        draw=lambda at: np.full((64, 128, 3), BLUE if at < 0.01 else RED, np.uint8),
        frames=5,
        codec="ffv1",
        pixels="yuv444p10le",
        options={},
        tones=None,
    ).write(tmp_path / "film.mkv")
    assert np.abs(shown(master, film, tmp_path / "made")[32, 20] - mixed(LEFT, BLUE)).max() <= 3


def test_the_preview_shows_it(master: Path, tmp_path: Path) -> None:
    still = striped(tmp_path / "under.png", (128, 64), 0)
    plan = over(master, still).plan
    assert plan is not None
    files = [str(master), str(still)]
    told = planned.handle(ignored, files, plan.model_dump(mode="json"), 1, {"width": 128})
    picture = np.asarray(Image.open(BytesIO(b64decode(told["jpeg"]))).convert("RGB"), float)
    assert np.abs(picture[32, 20] - mixed(LEFT, GREEN)).max() <= 6


def refused(route: Route) -> tuple[str, str]:
    (cause,) = [c for c in route.cautions if c.blocks]
    assert route.plan is None
    return cause.what, cause.way_out


def test_what_has_transparency_itself_is_refused(master: Path, tmp_path: Path) -> None:
    other = halves(tmp_path / "other.mov")
    assert "has transparency itself" in refused(over(master, other))[0]


def test_other_colours_are_refused(master: Path, tmp_path: Path) -> None:
    still = striped(tmp_path / "under.png", (128, 64), 0)
    pq = facts_of(still).with_values("assumed", {"picture.transfer": "PQ"})
    what, way_out = refused(over(master, still, pq))
    assert "PQ" in what and "master's colours" in way_out
    wide = facts_of(still).with_values("assumed", {"picture.primaries": "BT.2020"})
    wide = wide.with_values("assumed", {"picture.matrix": "BT.2020"})
    told = facts_of(master).with_values("assumed", {"picture.primaries": "BT.709"})
    under = Item(under=Beside("wide", wide))
    assert "BT.2020" in refused(plan_route(told, spec_for(FLAT), STILL, "a.mov", under))[0]
    # Nobody knows what this master is in.
    assert over(master, still, wide).plan is not None


def test_sound_alone_is_refused(master: Path, tmp_path: Path) -> None:
    still = striped(tmp_path / "under.png", (128, 64), 0)
    alone = Facts({k: f for k, f in facts_of(still).items() if k.startswith("file.")})
    assert "no picture" in refused(over(master, still, alone))[0]


def test_nothing_is_read_in_vain(master: Path, tmp_path: Path) -> None:
    """A file that keeps transparency, or has none, would show nothing of the still."""
    still = striped(tmp_path / "under.png", (128, 64), 0)
    assert "Nothing of 'under.png' would be seen" in refused(over(master, still, case=CLEAR))[0]
    opaque = Clip(draw=plain(RED, tuple(SIZE)), frames=2).write(tmp_path / "opaque.mov")
    assert "would be seen" in refused(over(opaque, still))[0]
    without = plan_route(facts_of(master), spec_for(FLAT), STILL, master.name)
    assert "No still is chosen" in refused(without)[0]


def test_the_plan_says_where_it_comes_from(master: Path, tmp_path: Path) -> None:
    still = striped(tmp_path / "under.png", (300, 100), 50)
    route = over(master, still)
    plan = route.plan
    assert plan is not None
    assert [one.still for one in plan.inputs] == [False, True]
    assert Plan.model_validate_json(plan.model_dump_json()) == plan
    said = next(one for one in route.steps if "under.png" in one.title)
    assert "33 % of it is cut off" in said.reason
    assert route.choices["background"] == "still"


def test_a_plain_background_reads_no_further_file(master: Path, tmp_path: Path) -> None:
    plan = plan_route(facts_of(master), spec_for(FLAT), {}, master.name).plan
    assert plan is not None and len(plan.inputs) == 1
    make(master, tmp_path / "plain.mov", plan)
