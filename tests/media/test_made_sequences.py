"""Image sequences that are made: their numbers, their folder, and what is never written over."""

from __future__ import annotations

import hashlib
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ample_crate.core.errors import BadMedia, Refused
from ample_crate.core.facts import Facts
from ample_crate.core.facts.sequences import gather
from ample_crate.core.facts.span import Span
from ample_crate.core.formats.pixels import RGB, Pixels
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import folders, ops, sequence
from ample_crate.work.deliver import Delivered, as_item, run_route
from clips import Clip, moving_bar
from conformance import SIZE, Case, spec_for

RGB10 = Pixels(RGB, 10)
FRAMES = spec_for(Case("dpx", "", RGB10, "image sequence"))


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Facts]:
    path = Clip(draw=moving_bar(SIZE), frames=5).write(tmp_path_factory.mktemp("film") / "film.mov")
    return path, ops.measure(path).facts


def delivered(
    master: tuple[Path, Facts], spec: Spec, folder: Path, item: Item | None = None, **choices: str
) -> Delivered:
    path, facts = master
    name = str(facts.value("file.name"))
    route = plan_route(facts, spec, choices, name, item or Item())
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    return run_route([path], facts, spec, route, folder)


def named(spec: Spec, name: str) -> Spec:
    delivery = spec.delivery.model_copy(update={"name": name, "asked": "must"})
    return spec.model_copy(update={"delivery": delivery})


def names(folder: Path) -> list[str]:
    return sorted(path.name for path in folder.iterdir())


def sums(files: Any) -> list[str]:
    return [hashlib.sha256(file.read_bytes()).hexdigest() for file in files]


def test_images_are_numbered_as_asked(film: tuple[Path, Facts], tmp_path: Path) -> None:
    spec = named(FRAMES, "{master}_v{revision}.{frame}")
    made = delivered(film, spec, tmp_path, **{"name.frame": "01001"})
    folder = tmp_path / "film_v1"
    assert names(folder) == [f"film_v1.0{n}.dpx" for n in range(1001, 1006)]
    assert made.facts.value("file.name") == "film_v1.[01001-01005].dpx"
    assert made.facts.value("file.size") == sum(p.stat().st_size for p in folder.iterdir())
    assert {f.property: f.verdict for f in made.findings}["file.name"] == "meets"
    item = as_item(made.path, {})
    assert item.folder == "film_v1" and [f.parent for f in item.files] == [folder] * 5


def test_where_nobody_says_they_count_from_one(film: tuple[Path, Facts], tmp_path: Path) -> None:
    made = delivered(film, FRAMES, tmp_path)
    assert made.facts.value("file.name") == "film_pinfold_[0000001-0000005].dpx"
    assert made.facts.fraction("motion.rate") == Fraction(25)
    assert not [f for f in made.findings if f.verdict in {"breaks", "unproven"}]


def test_a_part_of_a_sequence_keeps_its_numbers_and_bytes(
    film: tuple[Path, Facts], tmp_path: Path
) -> None:
    spec = named(FRAMES, "{master}_{frame}")
    first = delivered(film, spec, tmp_path / "a", **{"name.frame": "0086400"})
    span = Span(name="walk", first=1, frames=3)
    master = first.path, first.facts
    again = delivered(master, spec, tmp_path / "b", Item(span=span))
    assert again.facts.value("file.name") == "film_[0086401-0086403].dpx"
    assert sums(sequence.images_of(again.path)) == sums(sequence.images_of(first.path))[1:4]


def test_a_second_run_takes_the_place_of_the_first(
    film: tuple[Path, Facts], tmp_path: Path
) -> None:
    first = delivered(film, FRAMES, tmp_path, **{"name.frame": "10"})
    made = delivered(film, FRAMES, tmp_path)
    assert first.path == made.path and len(names(tmp_path / "film_pinfold")) == 5
    assert names(tmp_path) == [".film_pinfold.described", "film_pinfold"]


def test_nothing_else_in_the_folder_is_lost(film: tuple[Path, Facts], tmp_path: Path) -> None:
    other = tmp_path / "film_pinfold" / "notes.txt"
    other.parent.mkdir()
    other.write_text("keep me")
    with pytest.raises(Refused, match="other files lie in it"):
        delivered(film, FRAMES, tmp_path)
    assert names(tmp_path) == ["film_pinfold"] and other.read_text() == "keep me"


def test_a_file_of_the_folders_name_is_not_lost(film: tuple[Path, Facts], tmp_path: Path) -> None:
    (tmp_path / "film_pinfold").write_text("keep me")
    with pytest.raises(Refused, match="There is a file"):
        delivered(film, FRAMES, tmp_path)
    assert (tmp_path / "film_pinfold").read_text() == "keep me"


def test_a_master_is_never_written_over(film: tuple[Path, Facts], tmp_path: Path) -> None:
    spec = named(FRAMES, "{master}_{frame}")
    first = delivered(film, spec, tmp_path)
    kept = sums(sequence.images_of(first.path))
    with pytest.raises(Refused, match="overwrite its master"):
        delivered((first.path, first.facts), spec, tmp_path)
    assert sums(sequence.images_of(first.path)) == kept


def test_what_was_added_to_the_folder_is_found(film: tuple[Path, Facts], tmp_path: Path) -> None:
    made = delivered(film, FRAMES, tmp_path)
    folder = tmp_path / "film_pinfold"
    assert folders.is_there(made.path)
    (folder / "film_pinfold_0000009.txt").write_text("x")
    with pytest.raises(BadMedia, match="one image sequence and nothing else"):
        folders.lay_out(folder, made.route.plan)
    (folder / "film_pinfold_0000001.dpx").unlink()
    assert not folders.is_there(made.path)


def test_a_name_may_have_a_per_cent_sign(film: tuple[Path, Facts], tmp_path: Path) -> None:
    spec = named(FRAMES, "100%d_{frame}")
    delivery = spec.delivery.model_copy(update={"characters": "A-Z a-z 0-9 _ %"})
    delivered(film, spec.model_copy(update={"delivery": delivery}), tmp_path)
    (found,), rest = gather(names(tmp_path / "100%d"))
    assert found.name == "100%d_[0000001-0000005].dpx" and not rest


def test_light_itself_needs_a_linear_master(film: tuple[Path, Facts]) -> None:
    spec = spec_for(Case("exr", "", Pixels(RGB, 16), "image sequence"))
    route = plan_route(film[1], spec, {}, "film.mov")
    (said,) = [c for c in route.cautions if c.blocks]
    assert "holds light itself" in said.what and "linear master" in said.way_out


def test_half_floats_keep_eleven_bits_of_light(tmp_path: Path) -> None:
    """IEEE 754 binary16 has 11 significant bits: a value is off by 1/4096 of itself at most, and
    the ramp's own 10 bit by half a step.
    """
    ramp = np.linspace(0, 255, SIZE.width).astype(np.uint8)[None, :, None]
    picture = np.broadcast_to(ramp, (SIZE.height, SIZE.width, 3)).copy()
    clip = Clip(
        draw=lambda _: picture,
        frames=2,
        codec="ffv1",
        pixels="yuv444p10le",
        options={},
        transfer="linear",
        tones=None,
    )
    path = clip.write(tmp_path / "light.mkv")
    facts = ops.measure(path).facts
    spec = spec_for(
        Case("exr", "", Pixels(RGB, 16), "image sequence"), **{"picture.transfer": "linear"}
    )
    made = delivered((path, facts), spec, tmp_path / "out")
    with sequence.opened(str(made.path), {}) as container:
        frame = next(container.decode(video=0))
    assert frame.format.name == "gbrpf16le"
    plane = np.frombuffer(bytes(frame.planes[0]), np.float16).reshape(SIZE.height, -1)
    light = plane[:, : SIZE.width].astype(float)
    meant = picture[..., 1] / 255
    assert np.abs(light - meant).max() < 1 / 4096 + 1.5 / 1023
