"""Sealing: a crate's files, ledger and report in a bag (RFC 8493) with SHA-256, signed by the
house.

The tag manifest covers the manifest, which covers the files: its digest is recorded with the crate
and its bytes are signed, so that no other bag passes for the one that was sealed.
"""

from __future__ import annotations

import hashlib
import json
import os
import re
import secrets
import shutil
import stat
import tempfile
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import bagit

from ..core.errors import Refused
from . import report
from .signing import SigningKey, fingerprint, verifies

CHUNK = 1 << 20
# RFC 8493 lets a bag have further tag files and further lines of bag-info.
MANIFEST, SIGNATURE = "tagmanifest-sha256.txt", "tagmanifest-sha256.txt.ed25519"
MADE_FROM, SIGNED_BY = "Made-From-SHA256", "Signed-By"
ASIDE = "set-aside"


@dataclass(frozen=True)
class Item:
    """A deliverable: its file, or a folder of files, the checksum it had when it was measured, and
    its ledger entry.

    Attributes:
        files: the file, or those of the folder: images, or streams.
        sha256: of the file; of a folder that of the list of its files (`of_list`).
        entry: what the ledger says.
        folder: the name of the folder that they lie in; empty for one file.
    """

    files: tuple[Path, ...]
    sha256: str
    entry: dict[str, Any]
    folder: str = ""

    @property
    def name(self) -> str:
        """Give the name under which it lies in a bag."""
        return self.folder or self.files[0].name

    @property
    def stem(self) -> str:
        """Give its name without an ending."""
        return self.folder or self.files[0].stem

    @property
    def names(self) -> list[str]:
        """Give the names of its files in a bag."""
        return [f"{self.folder}/{file.name}".lstrip("/") for file in self.files]

    def sum_of(self, sums: Sequence[str]) -> str:
        """Give its checksum from those of its files."""
        if not self.folder:
            return sums[0]
        return of_list(zip(sums, (file.name for file in self.files), strict=True))


def of_list(listed: Iterable[tuple[str, str]]) -> str:
    """Give the SHA-256 of checksums and names in lines of "<sha-256>  <file name>", as checksum
    tools print them.
    """
    lines = "".join(f"{mark}  {name}\n" for mark, name in listed)
    return hashlib.sha256(lines.encode()).hexdigest()


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


@dataclass(frozen=True)
class Sealed:
    """A bag as it was recorded when it was sealed.

    Attributes:
        path: its folder.
        digest: SHA-256 of its tag manifest, which covers every manifest and so every byte.
        files: its payload by name, each with `bytes` and `sha256`.
    """

    path: Path
    digest: str
    files: dict[str, dict[str, Any]]


def origin(items: Sequence[Item], crate: Mapping[str, Any], beside: Mapping[str, str]) -> str:
    """Give the digest of all that a bag is made from: its files' checksums, ledger and manifest.

    The time of sealing is left out, so that the same crate sealed again has the same origin.
    """
    made_from = {
        "items": [[item.name, item.sha256, item.entry] for item in items],
        "crate": {key: value for key, value in crate.items() if key != "sealed_at"},
        "beside": dict(beside),
    }
    plain = json.dumps(made_from, sort_keys=True, default=str)
    return hashlib.sha256(plain.encode()).hexdigest()


def seal(
    folder: Path,
    name: str,
    items: Sequence[Item],
    crate: dict[str, Any],
    key: SigningKey,
    beside: Mapping[str, str] | None = None,
) -> Sealed:
    """Make the bag `folder/name`; it takes that name when it is whole, and is then read-only.

    Args:
        folder: where bags are kept.
        name: name of the bag.
        items: the files, with the checksums of what was measured.
        crate: what the manifest says of the crate: number, revision, title, recipient, spec, due,
        sealed_at.
        key: the house's, with which the bag is signed.
        beside: small text files to lay beside them, by name.

    Raises:
        Refused: a file is not the one that was measured, two have one name, or the bag exists.
    """
    beside = beside or {}
    final = folder / name
    if final.exists():
        raise Refused(
            f"The bag {name} exists already.", "Open a new revision of the crate to change it."
        )
    names = [*(item.name for item in items), *beside]
    if len(set(names)) < len(names):
        raise Refused(
            "Two files of the crate have the same name.",
            "Take one out, or hand in masters of different names.",
        )
    work = Path(tempfile.mkdtemp(prefix=f".{name}-", dir=folder))
    try:
        for item in items:
            _bring(item, work)
        for other, text in beside.items():
            report.write_whole(work / other, text)
        _write_ledger(work, items, crate)
        info: dict[str, str] = {
            "External-Identifier": f"crate-{crate['number']}-r{crate['revision']}",
            "External-Description": crate["title"],
            "Source-Organization": str(crate["house"]),
            MADE_FROM: origin(items, crate, beside),
            SIGNED_BY: f"ed25519 {key.mark}",
        }
        bagit.make_bag(str(work), info, checksums=["sha256"])
        report.write_whole(work / SIGNATURE, key.sign((work / MANIFEST).read_bytes()) + "\n")
        sealed = recorded(work)
        for item in items:
            found = item.sum_of([sealed.files[name]["sha256"] for name in item.names])
            if found != item.sha256:
                raise _changed(item, found)
        for root, _, files in os.walk(work):
            for file in files:
                os.chmod(os.path.join(root, file), stat.S_IRUSR | stat.S_IRGRP)
        for root, _, _ in os.walk(work):
            os.chmod(root, 0o750)
        os.replace(work, final)
    finally:
        shutil.rmtree(work, ignore_errors=True)
    return Sealed(final, sealed.digest, sealed.files)


def _bring(item: Item, work: Path) -> None:
    if not all(file.is_file() for file in item.files):
        raise Refused(
            f"'{item.name}' is no longer where its run left it.", "Run it again, then seal."
        )
    (work / item.folder).mkdir(exist_ok=True)
    for file, name in zip(item.files, item.names, strict=True):
        shutil.copyfile(file, work / name)
    found = item.sum_of([sha256(work / name) for name in item.names])
    if found != item.sha256:
        raise _changed(item, found)


def _changed(item: Item, found: str) -> Refused:
    return Refused(
        f"'{item.name}' is no longer the file that was measured: its SHA-256 is {found}, and "
        f"was {item.sha256}.",
        "Run it again, so that what is sent is what was checked.",
    )


def _write_ledger(work: Path, items: Sequence[Item], crate: dict[str, Any]) -> None:
    entries = [item.entry for item in items]
    report.write_whole(
        work / "ledger.json", json.dumps({"crate": crate, "deliverables": entries}, indent=2)
    )
    head = {
        "Crate": f"{crate['number']}, revision {crate['revision']}",
        "Recipient": crate["recipient"],
        "Spec": crate["spec"],
        "Due": crate["due"],
        "Sealed": crate["sealed_at"],
    }
    page = report.page(f"{crate['title']}: the ledger", entries, head, crate.get("whole", ()))
    report.write_whole(work / "ledger.html", page)


def recorded(bag: Path) -> Sealed:
    """Read what a bag says of itself: the digest of its tag manifest, and its payload.

    Raises:
        Refused: it is no bag that can be read.
    """
    try:
        digest = sha256(bag / MANIFEST)
        listed = bagit.Bag(str(bag)).payload_entries()
        files = {
            name.removeprefix("data/"): {
                "bytes": (bag / name).stat().st_size,
                "sha256": sums["sha256"],
            }
            for name, sums in listed.items()
        }
    except (bagit.BagError, OSError, KeyError) as error:
        raise Refused(
            f"The bag {bag.name} cannot be read: {error}.",
            "Open a new revision of the crate and seal that.",
        ) from None
    return Sealed(bag, digest, dict(sorted(files.items())))


def require_recorded(bag: Path, digest: str, files: Mapping[str, Mapping[str, Any]]) -> None:
    """Make sure that a bag is the one that was sealed: its manifest, and what that lists.

    Raises:
        Refused: with both figures.
    """
    now = recorded(bag)
    way_out = "Somebody changed the sealed bag. Open a new revision of the crate and seal that."
    said = differences(files, now.files)
    if said:
        raise Refused(f"The bag {bag.name} is not the one that was sealed: {said}", way_out)
    if now.digest != digest:
        raise Refused(
            f"The bag {bag.name} is not the one that was sealed: the SHA-256 of its tag manifest "
            f"is "
            f"{now.digest}, and was {digest}.",
            way_out,
        )


def differences(
    sealed: Mapping[str, Mapping[str, Any]], found: Mapping[str, Mapping[str, Any]]
) -> str:
    """Say in what two lists of files differ, naming both checksums; nothing where they agree."""
    said = [f"'{name}' is missing." for name in sorted(sealed.keys() - found.keys())]
    said += [f"'{name}' was not sealed." for name in sorted(found.keys() - sealed.keys())]
    for name in sorted(sealed.keys() & found.keys()):
        ours, theirs = sealed[name]["sha256"], found[name]["sha256"]
        if ours != theirs:
            said.append(f"'{name}' has the SHA-256 {theirs}, and was sealed with {ours}.")
    return " ".join(said)


def made_here(bag: Path, made_from: str, key: SigningKey) -> bool:
    """Say whether a bag that lies there is whole, signed by this house, and made from just this."""
    if problem(bag) is not None or signature_problem(bag, key.public_pem) is not None:
        return False
    return bool(bagit.Bag(str(bag)).info.get(MADE_FROM) == made_from)


def signature_problem(bag: Path, public_pem: bytes) -> str | None:
    """Verify a bag's signature over its tag manifest: None where it holds, else what is wrong."""
    try:
        signature = (bag / SIGNATURE).read_text("ascii").strip()
        manifest = (bag / MANIFEST).read_bytes()
    except (OSError, UnicodeDecodeError):
        return "it carries no signature that can be read"
    if not verifies(public_pem, signature, manifest):
        return f"its signature was not made with the sender's key {fingerprint(public_pem)[:16]}"
    return None


def set_aside(bag: Path) -> Path:
    """Move a bag that no crate knows out of the way, whole, and give its new place."""
    folder = bag.parent / ASIDE
    folder.mkdir(exist_ok=True)
    place = folder / f"{bag.name}-{secrets.token_hex(4)}"
    os.replace(bag, place)
    return place


def highest_number(*folders: Path) -> int:
    """Give the highest crate number of any bag in folders or folders of theirs; 0 where there is
    none.
    """
    names = [entry.name for folder in folders for entry in _entries(folder)]
    found = [re.match(r"crate-(\d{1,9})-r\d+", name) for name in names]
    return max((int(one[1]) for one in found if one), default=0)


def _entries(folder: Path) -> Iterator[Path]:
    """List a folder, and the folders in it that are no bags themselves."""
    for entry in folder.iterdir() if folder.is_dir() else ():
        yield entry
        if entry.is_dir() and not entry.name.startswith("crate-"):
            yield from entry.iterdir()


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
