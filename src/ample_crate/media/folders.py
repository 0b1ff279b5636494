"""What a path stands for: a file, or by its description a folder of images or of streams."""

from __future__ import annotations

import os
import shutil
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import BadMedia
from ..core.facts.sequences import ENDINGS, gather
from . import apart, sequence

if TYPE_CHECKING:  # measuring plans nothing, and starts sooner without
    from ..core.planning.plan import Plan

DESCRIPTIONS = {sequence.DESCRIPTION, apart.DESCRIPTION}


def lay_out(folder: Path, plan: Plan) -> Path:
    """Describe a folder that was made as a plan says; the description lies beside it, out of sight.

    Raises:
        BadMedia: other files lie in it.
    """
    place = folder.with_name(f".{folder.name}.described")
    shutil.rmtree(place, ignore_errors=True)
    if plan.files[0].images is None:
        return apart.lay_out(place, [folder / file.name for file in plan.files])
    assert plan.picture is not None
    found, rest = gather(os.listdir(folder), least=1)
    if len(found) != 1 or rest:
        raise BadMedia(
            f"'{folder.name}' does not hold one image sequence and nothing else.", "Run it again."
        )
    images = [folder / name for name in found[0].names]
    return sequence.lay_out(place, images, found[0], plan.picture.format.rate)


def holds_only(folder: Path, plan: Plan) -> bool:
    """Say whether a folder holds nothing but files of such names as a plan makes."""
    names, images = os.listdir(folder), plan.files[0].images
    if images is None:
        return set(names) <= {file.name for file in plan.files}
    found, rest = gather(names, least=1)
    alike = (images.head, images.ending)
    return not rest and all((one.head, one.ending) == alike for one in found)


def files_of(path: Path) -> list[Path]:
    """List the files that a path stands for: itself, or those that a description leads to."""
    if path.name == apart.DESCRIPTION:
        return [link.resolve() for link in apart.links_of(path)]
    return sequence.images_of(path) if path.name == sequence.DESCRIPTION else [path]


def links_of(path: Path) -> list[tuple[str, Path]]:
    """List the links that a description leads to, named as they lie beside it, each with its file;
    of a file there are none.
    """
    inner = {sequence.DESCRIPTION: sequence.FRAMES, apart.DESCRIPTION: apart.PARTS}.get(path.name)
    if inner is None:
        return []
    return [
        (f"{inner}/{one.name}", one.resolve()) for one in sorted((path.parent / inner).iterdir())
    ]


def beside(path: Path) -> Path:
    """Give the folder in which what a path stands for lies: the file, or the folder of all."""
    return path.parent.parent if path.name in DESCRIPTIONS else path.parent


def streams_of(path: str) -> list[str]:
    """List what is opened, one after the other, to read all streams of what a path stands for."""
    if os.path.basename(path) != apart.DESCRIPTION:
        return [path]
    return [str(file) for file in files_of(Path(path))]


def is_there(path: Path) -> bool:
    """Say whether what a path stands for is there; of a sequence the first image is looked for."""
    if path.name not in DESCRIPTIONS or not path.exists():
        return path.exists()
    if path.name == apart.DESCRIPTION:
        return all(link.exists() for link in apart.links_of(path))
    first = path.parent / sequence.FRAMES / sequence.link(0, "")
    return any(first.with_suffix(ending).exists() for ending in ENDINGS)
