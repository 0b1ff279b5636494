"""Carriers take a sealed bag to a recipient; what comes back is held against what was sealed."""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from ..core.errors import Refused
from .bag import CHUNK, MANIFEST, differences, require_recorded, sha256

Files = Mapping[str, Mapping[str, Any]]
# Takes a bag, where the recipient's things arrive, the SHA-256 of the bag's tag manifest, and its
# payload as recorded; gives the bag's place with the recipient.
Carrier = Callable[[Path, Path, str, Files], Path]


def carry_to_folder(bag: Path, inbox: Path, digest: str, files: Files) -> Path:
    """Copy a bag into a recipient's folder, where it appears under its name when it is whole.

    Args:
        bag: the sealed bag.
        inbox: the recipient's folder.
        digest: SHA-256 of the bag's tag manifest, as recorded when it was sealed.
        files: the bag's payload as recorded then, by name.

    Returns:
        the bag's place there.

    Raises:
        Refused: the bag is not the one that was sealed, a file changed on the way, or another
            bag of this name lies there.
    """
    require_recorded(bag, digest, files)
    if inbox.exists() and not inbox.is_dir():
        raise Refused(
            f"The recipient's inbox '{inbox.name}' is a file, not a folder.",
            "Move the file away, then hand over again.",
        )
    inbox.mkdir(parents=True, exist_ok=True)
    final = inbox / bag.name
    _require_same_or_none(final, digest)
    arriving = inbox / f".arriving-{bag.name}"
    shutil.rmtree(arriving, ignore_errors=True)
    try:
        _copy(bag, arriving, files)
        if final.exists():
            shutil.rmtree(final)
        os.replace(arriving, final)
    finally:
        shutil.rmtree(arriving, ignore_errors=True)
    return final


def _require_same_or_none(final: Path, digest: str) -> None:
    """Make sure that what lies under a bag's name with the recipient is that bag, brought
    before.
    """
    if not final.exists():
        return
    there = sha256(final / MANIFEST) if (final / MANIFEST).is_file() else "none"
    if there != digest:
        raise Refused(
            f"The recipient already holds another bag named {final.name}: the SHA-256 of its tag "
            f"manifest "
            f"is {there}, and of this one {digest}.",
            "Open a new revision of the crate, which has a name of its own.",
        )


def _copy(bag: Path, arriving: Path, files: Files) -> None:
    """Copy a bag file by file, taking the checksum of each as it goes."""
    for source in sorted(p for p in bag.rglob("*") if p.is_file()):
        name = source.relative_to(bag)
        target = arriving / name
        target.parent.mkdir(parents=True, exist_ok=True)
        sum = _copied(source, target)
        known = files.get(name.relative_to("data").as_posix()) if name.parts[0] == "data" else None
        if known is not None and sum != known["sha256"]:
            raise Refused(
                f"'{name.name}' has the SHA-256 {sum} on its way, and was sealed with "
                f"{known['sha256']}.",
                "The bag is damaged or was changed. Open a new revision of the crate and "
                "seal that.",
            )


def _copied(source: Path, target: Path) -> str:
    digest = hashlib.sha256()
    with open(source, "rb") as read, open(target, "wb") as write:
        while piece := read.read(CHUNK):
            digest.update(piece)
            write.write(piece)
        write.flush()
        os.fsync(write.fileno())
    return digest.hexdigest()


CARRIERS: dict[str, Carrier] = {"inbox": carry_to_folder}
USUAL = "inbox"


def named(carrier: str) -> Carrier:
    """Give the carrier that a spec asks for; the usual one where it asks for none.

    Raises:
        Refused: there is none of that name.
    """
    found = CARRIERS.get(carrier or USUAL)
    if found is None:
        raise Refused(
            f"The spec wants the crate carried by '{carrier}', which is not known here.",
            f"Change the spec's carrier to {' or '.join(CARRIERS)}, or bring the sealed bag by "
            f"hand.",
        )
    return found


def disagreement(answer: Mapping[str, Any], files: Files) -> str | None:
    """Hold a recipient's receipt against what was sealed: None where they agree, else in what they
    differ.
    """
    if not answer["accepted"]:
        return None
    received = {str(one["name"]): one for one in answer["files"]}
    return differences(files, received) or None
