"""Specs that contradict themselves, each in one way."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import yaml

from ample_crate.core.specs.spec import Spec
from ample_crate.core.specs.specfile import Loader


def spec(requirements: str | dict[str, Any], **more: Any) -> Spec:
    asked = requirements if isinstance(requirements, dict) else yaml.load(requirements, Loader)
    rows = [{"property": key, "rule": rule, "source": "clause"} for key, rule in asked.items()]
    return Spec.model_validate(
        {
            "id": "mine",
            "version": 1,
            "recipient": "someone",
            "title": "Mine",
            "requirements": rows,
            **more,
        }
    )


H264, MPEG2 = "picture.codec: {is: h264}", "picture.codec: {is: mpeg2video}"
FIELDS = "motion.scan: {is: interlaced}, motion.field_order: {is: upper first}"
WRITTEN = Path(__file__).with_name("contradictions.yaml")
# kind, requirements, property that the repair changes ("" where a person must decide)
CASES: list[tuple[str, dict[str, Any], str]] = [
    (row["kind"], row["asks"], row.get("mends", ""))
    for row in yaml.load(WRITTEN.read_text(), Loader)
]
