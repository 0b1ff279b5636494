"""The spec files that ship, read from disk."""

from __future__ import annotations

from pathlib import Path

from ..core.errors import NotFound
from ..core.spec import Recipient, Spec
from ..core.specfile import parse, parse_recipients
from .places import SPECS


def recipients() -> list[Recipient]:
    """Read the recipients that ship."""
    path = SPECS / "recipients.yaml"
    return parse_recipients(path.read_text("utf-8"), path.name)


def specs() -> list[Spec]:
    """Read the specs that ship."""
    return [read(path) for path in sorted(SPECS.glob("*.yaml")) if path.name != "recipients.yaml"]


def read(path: Path) -> Spec:
    """Read one spec file.

    Raises:
        BadSpec: with line and cause.
        NotFound: there is no such file.
    """
    try:
        return parse(path.read_text("utf-8"), path.name)
    except (FileNotFoundError, IsADirectoryError):
        raise NotFound(f"There is no spec file '{path}'.", "Give a path, or the id of a spec that ships.") from None
    except UnicodeDecodeError:
        raise NotFound(f"'{path.name}' is not text.", "A spec is a YAML file in UTF-8.") from None


def find(id_or_path: str) -> Spec:
    """Find a spec by the id of one that ships, or by path."""
    shipped = SPECS / f"{id_or_path}.yaml"
    if "/" not in id_or_path and id_or_path != "recipients" and shipped.is_file():
        return read(shipped)
    if not Path(id_or_path).exists():
        known = ", ".join(s.id for s in specs())
        raise NotFound(f"There is no spec '{id_or_path}'.", f"Ship with the product: {known}. A path works too.")
    return read(Path(id_or_path))
