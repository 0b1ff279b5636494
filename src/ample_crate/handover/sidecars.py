"""Small files that a recipient wants beside the deliverables: checksums, metadata, a snippet of
HTML.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from xml.etree import ElementTree

from ..core.facts import Facts, media_type
from ..core.facts.properties import lookup, split_track
from ..core.specs.delivery import Sidecar as Wanted
from .bag import Item, checksum

ENDINGS = {
    "md5": ".md5",
    "sha256": ".sha256",
    "sha512": ".sha512",
    "xml": ".xml",
    "json": ".json",
    "html": ".html",
}


@dataclass(frozen=True)
class Sidecar:
    """A small file: its name and its text."""

    name: str
    text: str


def make(
    wanted: Sequence[Wanted], items: Sequence[Item], title: str, captions: Sequence[Sidecar] = ()
) -> list[Sidecar]:
    """Make what is wanted: one list of checksums for all items, and one file of metadata or HTML
    for each.

    Captions are not made here: they come out of the masters, with the deliverables, and are listed
    with them.
    """
    made = []
    for one in wanted:
        if one.kind == "checksums":
            files = [pair for i in items for pair in zip(i.files, i.names, strict=True)]
            sums = [(checksum(file, one.form), name) for file, name in files]
            sums += [(_sum(text, one.form), text.name) for text in captions]
            lines = [f"{digest}  {name}\n" for digest, name in sums]
            made.append(Sidecar(f"checksums{ENDINGS[one.form]}", "".join(lines)))
        elif one.kind == "metadata":
            made += [
                Sidecar(f"{item.stem}{ENDINGS[one.form]}", _metadata(item, one.form))
                for item in items
            ]
        elif one.kind == "html snippet":
            made += [
                Sidecar(
                    f"{item.stem}.html",
                    media_type.snippet(item.name, Facts.from_json(item.entry["facts"]), title),
                )
                for item in items
            ]
    return made


def _sum(file: Sidecar, kind: str) -> str:
    return hashlib.new(kind, file.text.encode(), usedforsecurity=False).hexdigest()


def _rows(item: Item) -> list[dict[str, Any]]:
    facts = Facts.from_json(item.entry["facts"])
    rows = []
    for key, fact in facts.items():
        base, track = split_track(key)
        prop = lookup(base)
        rows.append(
            {
                "property": base,
                "track": track if base.startswith("sound.") and base != "sound.tracks" else None,
                "name": prop.label,
                "value": prop.kind.stored(fact.value),
                "shown": prop.kind.show(fact.value),
                "provenance": fact.provenance,
            }
        )
    return rows


def _metadata(item: Item, form: str) -> str:
    """Give what is known of a file: name, bytes, checksum and every fact with its provenance."""
    if form == "json":
        head = {"file": item.name, "bytes": item.entry["bytes"], "sha256": item.sha256}
        return json.dumps(head | {"facts": _rows(item)}, indent=2, ensure_ascii=False) + "\n"
    root = ElementTree.Element(
        "file", name=item.name, bytes=str(item.entry["bytes"]), sha256=item.sha256
    )
    for row in _rows(item):
        ElementTree.SubElement(root, "fact", {k: str(v) for k, v in row.items() if v is not None})
    ElementTree.indent(root)
    return ElementTree.tostring(root, encoding="unicode", xml_declaration=True) + "\n"
