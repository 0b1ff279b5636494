"""Two versions of a spec held against each other: nothing that can be written may change unseen."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from typing import Any

import pytest
from pydantic import ValidationError

from ample_crate.core.specs.differences import NOT_BINDING, differences
from ample_crate.core.specs.spec import Spec

# A spec that says something in every place where something can be said.
FULL: dict[str, Any] = {
    "id": "full",
    "version": 1,
    "recipient": "fellside",
    "title": "Everything",
    "status": "in force",
    "valid_from": "2026-11-01",
    "source": "page 1",
    "summary": "One of each.",
    "requirements": [
        {
            "property": "picture.codec",
            "rule": {"is": "h264"},
            "severity": "must",
            "note": "as ever",
            "source": "1",
        },
        {
            "property": "picture.bit_rate",
            "rule": {"between": ["2 Mb/s", "9 Mb/s"], "tolerance": "2 %"},
            "severity": "should",
            "note": "",
            "source": "2",
        },
        {"property": "motion.rate", "rule": {"one_of": ["25", "50"]}},
        {"property": "sound.tracks", "rule": {"at_least": 3}},
        {
            "property": "sound.layout@2",
            "rule": {"is": "stereo"},
            "when": {"property": "sound.layout@1", "rule": {"is": "5.1"}},
        },
        {"property": "file.name", "rule": {"matches": "[a-z]+", "words": "small letters"}},
        {"property": "file.size", "rule": {"at_most": "90 MB"}},
        {"property": "file.duration", "rule": {"same_as": "master"}},
        {"property": "picture.tag", "rule": {"present": True}},
    ],
    "either": [
        {
            "name": "scan",
            "severity": "must",
            "note": "one of them",
            "source": "3",
            "any": [
                {"name": "fields", "rules": {"motion.scan": {"is": "interlaced"}}, "note": "old"},
                {"name": "frames", "rules": {"motion.scan": {"is": "progressive"}}},
            ],
        }
    ],
    "house": {"picture.bit_rate": {"value": "3 Mb/s", "note": "enough"}},
    "house_sets": {
        "rain": {
            "note": "for rain",
            "choices": {"picture.bit_rate": {"value": "8 Mb/s", "note": "it moves"}},
        }
    },
    "coding": {
        "passes": 2,
        "buffer_bits": 1000,
        "key_frame_every": "2 s",
        "active_width": 720,
        "framing": "pad",
        "without_sound": "no track",
    },
    "delivery": {
        "name": "{master}_{slug}",
        "asked": "must",
        "fields": {"slug": {"matches": "[a-z]{2}", "note": "two"}},
        "characters": "a-z 0-9 _ -",
        "case": "lower",
        "longest": 60,
        "source": "4",
        "sidecars": [{"kind": "checksums", "form": "md5", "note": "first"}],
        "carrier": "inbox",
        "address": "shelf",
    },
    "playback": {"ways": ["random"], "layers": 2, "late": 7, "source": "5", "note": "by hand"},
}
OTHERWISE: dict[Any, list[Any]] = {
    "must": ["should"],
    "should": ["must"],
    "in force": ["draft"],
    "pad": ["crop"],
    "no track": ["silent track"],
    "lower": ["any"],
    "md5": ["sha256"],
    "checksums": [],
    "master": ["crate"],
    "h264": ["vp9"],
    "interlaced": ["progressive"],
    "progressive": ["interlaced"],
    "5.1": ["stereo"],
    "stereo": ["mono"],
    "25": ["24"],
    "50": ["60"],
    True: [False],
    "2026-11-01": ["2026-11-02"],
    "2 s": ["1 s"],
    "2 %": ["3 %"],
    "[a-z]+": ["[a-y]+"],
    "[a-z]{2}": ["[a-z]{3}"],
    "{master}_{slug}": ["{slug}_{master}"],
    "a-z 0-9 _ -": ["a-z 0-9 _"],
    "2 Mb/s": ["2.5 Mb/s"],
    "9 Mb/s": ["10 Mb/s"],
    "3 Mb/s": ["4 Mb/s"],
    "8 Mb/s": ["7 Mb/s"],
    "90 MB": ["90 MiB"],
    2: [1],
    "random": ["slower"],
}
# What names the document itself, and what is named by its place: changing these makes other rows,
# not other values.
IDENTITY = {("id",), ("version",), ("recipient",)}


def leaves(node: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[tuple[Any, ...], Any]]:
    if isinstance(node, dict | list):
        for key, inner in node.items() if isinstance(node, dict) else enumerate(node):
            yield from leaves(inner, (*path, key))
    else:
        yield path, node


def changed(path: tuple[Any, ...], value: Any) -> dict[str, Any]:
    made = copy.deepcopy(FULL)
    place = made
    for key in path[:-1]:
        place = place[key]
    place[path[-1]] = value
    return made


CHANGES = [
    (path, other)
    for path, value in leaves(FULL)
    if path not in IDENTITY and path[-1] != "property"
    for other in OTHERWISE.get(value, [f"{value} more" if isinstance(value, str) else value + 1])
]


@pytest.mark.parametrize(
    ("path", "value"), CHANGES, ids=[".".join(map(str, p)) for p, _ in CHANGES]
)
def test_no_change_goes_unseen(path: tuple[Any, ...], value: Any) -> None:
    old, new = Spec.model_validate(FULL), Spec.model_validate(changed(path, value))
    there = [d for d in differences(old, new) if d.change != "same"]
    back = [d for d in differences(new, old) if d.change != "same"]
    assert there and len(there) == len(back), path
    assert all(d.left != d.right and d.said().endswith(".") for d in there)
    # What only reads otherwise is told apart from what binds.
    beside = path[-1] in {"note", "summary"} or (path[-1] == "source" and path != ("source",))
    assert all(d.group == NOT_BINDING for d in there) is beside, there


@pytest.mark.parametrize(
    "place",
    [p for p, _ in leaves(FULL) if len(p) == 3 and p[0] == "requirements" and p[2] == "property"],
)
def test_a_requirement_taken_out_is_one_that_comes_back(place: tuple[Any, ...]) -> None:
    fewer = copy.deepcopy(FULL)
    gone = fewer["requirements"].pop(place[1])
    try:
        less = Spec.model_validate(fewer)
    except ValidationError:
        pytest.fail(f"{gone['property']} cannot be left out")
    out = [
        d
        for d in differences(Spec.model_validate(FULL), less)
        if d.group != NOT_BINDING and d.change != "same"
    ]
    back = [
        d
        for d in differences(less, Spec.model_validate(FULL))
        if d.group != NOT_BINDING and d.change != "same"
    ]
    assert [d.change for d in out] == ["taken out"] and [d.change for d in back] == ["added"]
    assert out[0].left == back[0].right


def test_a_spec_does_not_differ_from_itself() -> None:
    spec = Spec.model_validate(FULL)
    assert {d.change for d in differences(spec, spec)} == {"same"}
    assert {d.group for d in differences(spec, spec)} >= {
        "picture",
        "motion",
        "sound",
        "file",
        "coding",
        "delivery",
        "house",
        "document",
    }
