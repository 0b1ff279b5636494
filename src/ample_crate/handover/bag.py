"""Sealing: a crate's files, ledger and report in a bag (RFC 8493) with SHA-256."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import stat
import tempfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import bagit

from ..core.errors import Refused
from . import report

CHUNK = 1 << 20


@dataclass(frozen=True)
class Item:
    """A deliverable's file, the checksum it had when it was measured, and its ledger entry."""

    path: Path
    sha256: str
    entry: dict[str, Any]


def sha256(path: Path, progress: Callable[[int], None] | None = None) -> str:
    """Give the SHA-256 of a file in hexadecimal."""
    return checksum(path, "sha256", progress)


def checksum(path: Path, kind: str, progress: Callable[[int], None] | None = None) -> str:
    """Give a file's checksum in hexadecimal: md5, sha256 or sha512."""
    digest = hashlib.new(kind, usedforsecurity=False)
    done = 0
    with open(path, "rb") as file:
        while chunk := file.read(CHUNK):
            digest.update(chunk)
            done += len(chunk)
            if progress is not None:
                progress(done)
    return digest.hexdigest()


def seal(folder: Path, name: str, items: Sequence[Item], crate: dict[str, Any], beside: Mapping[str, str] | None = None) -> Path:
    """Make the bag `folder/name`; it takes that name when it is whole, and is then read-only.

    Args:
        folder: where bags are kept.
        name: name of the bag.
        items: the files, with the checksums of what was measured.
        crate: what the manifest says of the crate: number, revision, title, recipient, spec, due, sealed_at.
        beside: small text files to lay beside them, by name.

    Raises:
        Refused: a file is not the one that was measured, two have one name, or the bag exists.
    """
    final = folder / name
    if final.exists():
        raise Refused(f"The bag {name} exists already.", "Open a new revision of the crate to change it.")
    names = [*(item.path.name for item in items), *(beside or {})]
    if len(set(names)) < len(names):
        raise Refused("Two files of the crate have the same name.", "Take one out, or hand in masters of different names.")
    work = Path(tempfile.mkdtemp(prefix=f".{name}-", dir=folder))
    try:
        for item in items:
            shutil.copyfile(item.path, work / item.path.name)
            if sha256(work / item.path.name) != item.sha256:
                raise Refused(
                    f"'{item.path.name}' is no longer the file that was measured.", "Run it again, so that what is sent is what was checked."
                )
        for other, text in (beside or {}).items():
            report.write_whole(work / other, text)
        entries = [item.entry for item in items]
        report.write_whole(work / "ledger.json", json.dumps({"crate": crate, "deliverables": entries}, indent=2))
        head = {"Crate": f"{crate['number']}, revision {crate['revision']}", "Recipient": crate["recipient"],
                "Spec": crate["spec"], "Due": crate["due"], "Sealed": crate["sealed_at"]}  # fmt: skip
        report.write_whole(work / "ledger.html", report.page(f"{crate['title']}: the ledger", entries, head, crate.get("whole", ())))
        info: dict[str, str] = {
            "External-Identifier": f"crate-{crate['number']}-r{crate['revision']}",
            "External-Description": crate["title"],
            "Source-Organization": str(crate["house"]),
        }
        bagit.make_bag(str(work), info, checksums=["sha256"])
        for root, _, files in os.walk(work):
            for file in files:
                os.chmod(os.path.join(root, file), stat.S_IRUSR | stat.S_IRGRP | stat.S_IROTH)
        os.chmod(work, 0o755)
        os.replace(work, final)
    finally:
        shutil.rmtree(work, ignore_errors=True)
    return final


def size(bag: Path) -> int:
    """Give the bytes of a bag with its manifests."""
    return sum(p.stat().st_size for p in bag.rglob("*") if p.is_file())


def problem(bag: Path) -> str | None:
    """Validate a bag by reading every byte: None where it is whole, else what is wrong."""
    try:
        bagit.Bag(str(bag)).validate()
    except (bagit.BagError, OSError) as error:
        return str(error)
    return None
