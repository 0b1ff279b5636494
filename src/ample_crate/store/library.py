"""The spec files that ship, read from disk."""

from __future__ import annotations

import contextlib
from dataclasses import dataclass
from pathlib import Path

from ..core.errors import AmpleError, NotFound
from ..core.specs.spec import Recipient, Spec
from ..core.specs.specfile import parse, parse_recipients
from .places import SPECS, house_specs

ENDINGS = {".yaml", ".yml", ".json"}


def recipients() -> list[Recipient]:
    """Read the recipients that ship."""
    path = SPECS / "recipients.yaml"
    return parse_recipients(path.read_text("utf-8"), path.name)


def specs() -> list[Spec]:
    """Read the specs that ship."""
    return [read(path) for path in sorted(SPECS.glob("*.yaml")) if path.name != "recipients.yaml"]


@dataclass(frozen=True)
class Refused:
    """A spec file, or the spec that it holds, which is not in the register as it stands, and
    why.
    """

    file: str
    error: AmpleError


def register() -> tuple[list[Spec], list[Refused]]:
    """Read the specs that ship and the house's own; a bad file is told of and costs only itself."""
    found: dict[tuple[str, int], Spec] = {}
    refused: list[Refused] = []
    known = {r.key for r in recipients()}
    own = house_specs()
    paths = [p for p in sorted(SPECS.glob("*.yaml")) if p.name != "recipients.yaml"]
    for path in [*paths, *_files_of(own)]:
        try:
            made = read(path)
            if made.recipient not in known:
                raise NotFound(
                    f"{path.name}: there is no recipient '{made.recipient}'.",
                    f"Known are {', '.join(sorted(known))}.",
                )
            if (made.id, made.version) in found:
                raise NotFound(
                    f"{path.name}: {made.id}, version {made.version}, is there already.",
                    "Give it a version of its own.",
                )
            found[made.id, made.version] = made
        except AmpleError as error:
            refused.append(Refused(path.name, error))
    return list(found.values()), refused


def read(path: Path) -> Spec:
    """Read one spec file.

    Raises:
        BadSpec: with line and cause.
        NotFound: there is no such file.
    """
    try:
        return parse(path.read_text("utf-8"), path.name)
    except (FileNotFoundError, IsADirectoryError):
        raise NotFound(
            f"There is no spec file '{path}'.", "Give a path, or the id of a spec that ships."
        ) from None
    except UnicodeDecodeError:
        raise NotFound(f"'{path.name}' is not text.", "A spec is a YAML file in UTF-8.") from None


def _files_of(folder: Path) -> list[Path]:
    """List the spec files of a folder; it may be missing."""
    return sorted(p for p in folder.iterdir() if p.suffix in ENDINGS) if folder.is_dir() else []


def find(id_or_path: str) -> Spec:
    """Find a spec by its id, among those that ship and the house's own, or by path; of versions the
    newest.

    Raises:
        NotFound: there is none.
        BadSpec: the file has a mistake.
    """
    if "/" not in id_or_path:
        shipped, made = SPECS / f"{id_or_path}.yaml", list[Spec]()
        if id_or_path != "recipients" and shipped.is_file():
            made.append(read(shipped))
        for path in _files_of(house_specs()):
            with contextlib.suppress(AmpleError):  # a bad file costs only itself
                made.append(read(path))
        mine = [spec for spec in made if spec.id == id_or_path]
        if mine:
            return max(mine, key=lambda spec: spec.version)
    if not Path(id_or_path).exists():
        known = ", ".join(s.id for s in specs())
        raise NotFound(
            f"There is no spec '{id_or_path}'.",
            f"Ship with the product: {known}. A path works too.",
        )
    return read(Path(id_or_path))
