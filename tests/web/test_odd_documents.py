"""Documents that no editor writes: each is read or refused with its reason, and whatever is
proposed as a repair can be made.
"""

from __future__ import annotations

import copy
import random
from collections.abc import Iterator
from typing import Any

import pytest

from ample_crate.core.errors import BadSpec
from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.specs import specfile
from ample_crate.core.specs.contradictions import repaired
from ample_crate.store import library
from ample_crate.store.models import Recipient
from ample_crate.web import spec_views

DOCUMENTS = [specfile.document_of(s) for s in library.register()[0]]
RECIPIENTS = {
    r.key: Recipient(key=r.key, name=r.name, kind=r.kind, document=r.model_dump(mode="json"))
    for r in library.recipients()
}
ODD: list[Any] = [
    None,
    True,
    0,
    -1,
    10**30,
    1.5,
    float("nan"),
    "",
    "x",
    "50",
    "-5 Mb/s",
    "1e9999",
    "0/0",
    "99999999999999999999 s",
    "[",
    "(?=x)",
    "{master}",
    "\0",
    "é" * 50,
    [],
    [None],
    ["a"],
    {},
    {"is": 1},
    {"is": None},
    {"one_of": []},
    {"between": [1]},
    {"between": ["5 s", "1 s"]},
    {"matches": "("},
    {"present": True},
    {"same_as": "crate"},
    {"at_most": "1 MB", "tolerance": "5 %"},
    {"value": {}},
    "2026-02-31",
    "0x0",
    "0x1",
    "1:0",
    "inf",
    "10:00:00:00",
    "5.1",
    "MP4",
    "9999999 Gb/s",
]
LIKELY = [
    *ODD,
    "upper first",
    "progressive",
    "interlaced",
    "h264",
    "mpeg2video",
    "prores",
    "720x576",
    "25",
    "29.97",
    "50 Mb/s",
]


def places(node: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    if at:
        yield at
    for key, value in (
        node.items()
        if isinstance(node, dict)
        else enumerate(node)
        if isinstance(node, list)
        else ()
    ):
        yield from places(value, (*at, key))


def altered(rng: random.Random) -> dict[str, Any]:
    """A shipped document with one to three of its parts replaced, or with a rule of any kind
    added.
    """
    made = copy.deepcopy(rng.choice(DOCUMENTS))
    for _ in range(rng.choice([1, 1, 2, 3])):
        if rng.random() < 0.3 and isinstance(made.get("requirements"), list):
            made["requirements"].append(
                {
                    "property": rng.choice([*PROPERTIES]),
                    "rule": {rng.choice(["is", "at_most", "at_least"]): rng.choice(LIKELY)},
                }
            )
            continue
        *path, last = rng.choice([*places(made)])
        node: Any = made
        for key in path:
            node = node[key]
        node[last] = copy.deepcopy(rng.choice(ODD))
    return made


@pytest.mark.parametrize("seed", range(8))
def test_odd_documents_are_read_or_refused_and_repairs_can_be_made(seed: int) -> None:
    rng, read = random.Random(seed), 0
    for _ in range(150):
        seen = spec_views.checked(altered(rng), None, "odd", RECIPIENTS)
        assert seen.reading is not None or (seen.wrong and all(w.what for w in seen.wrong))
        if seen.reading is None or seen.document is None:
            continue
        read += 1
        for one in seen.reading.contradictions:
            assert one.what and one.why and one.repair.says
            try:
                mended = repaired(seen.document, one.repair.changes)
            except BadSpec as error:
                assert "without requirements" in error.what
                continue
            after = spec_views.checked(mended, None, "odd", RECIPIENTS)
            assert after.reading is not None, (one, after.wrong)
        again = specfile.parse(specfile.dump(specfile.parse_document(seen.document, "odd")), "odd")
        assert specfile.document_of(again) == seen.document
    assert read > 5
