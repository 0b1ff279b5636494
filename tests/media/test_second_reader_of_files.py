"""A second reader looks at what was made: where it says something else, nothing is proven."""

from __future__ import annotations

import os
import signal
from pathlib import Path
from typing import Any

import pytest

from ample_crate.core.facts import Facts
from ample_crate.core.ledger import ledger, overall
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.media import guard, ops
from clips import Clip
from support import deliver, master_facts

ASKED = {"file.wrapper": "mov", "picture.codec": "h264", "picture.chroma": "4:2:0"}


def spec() -> Spec:
    rows = [{"property": key, "rule": {"is": value}} for key, value in ASKED.items()]
    head = {"id": "twice", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(head | {"requirements": rows})


def test_it_tells_what_it_reads(tmp_path: Path) -> None:
    path = Clip(frames=10, fields="upper first").write(tmp_path / "a.mov")
    measured = ops.measure(path, twice=True)
    assert not any("second reader" in note for note in measured.notes)
    said = {key: fact.second for key, fact in measured.facts.items()}
    assert said["picture.codec"] == "h264" and said["picture.size"] == Size(320, 180)
    assert said["motion.scan"] == "interlaced" and said["sound.channels"] == 2
    alone = ops.measure(path).facts
    assert all(measured.facts.value(key) == alone.value(key) for key in alone)


def test_a_file_that_it_cannot_read_is_told_of(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = Clip(frames=10).write(tmp_path / "a.mov")
    request = guard.Child.request

    def crashing(self: guard.Child, op: str, *more: Any) -> dict[str, Any]:
        if op == "second":
            os.kill(self.pid, signal.SIGKILL)
        return request(self, op, *more)

    monkeypatch.setattr(guard.Child, "request", crashing)
    measured = ops.measure(path, twice=True)
    assert measured.facts.value("picture.codec") == "h264"
    assert "second reader could not look" in measured.notes[-1]


def test_a_delivered_file_carries_what_it_says(tmp_path: Path) -> None:
    master = Clip(frames=10).write(tmp_path / "m.mov")
    made = deliver(master, spec(), tmp_path / "out", ops.measure(master).facts)
    assert made.facts.fact("picture.chroma").second == "4:2:0"
    assert made.facts.doubtful == frozenset() and made.verdict == "meets"


def test_what_it_doubts_is_unproven_until_a_person_decides() -> None:
    measured = master_facts(picture_codec="h264", picture_chroma="4:2:0", file_wrapper="mov")
    agreed = measured.with_values("second", {"picture.chroma": "4:2:0"})
    doubted = measured.with_values("second", {"picture.chroma": "4:2:2", "motion.rate": 24})
    assert overall(ledger(agreed, spec())) == "meets"
    (unproven,) = (f for f in ledger(doubted, spec()) if f.verdict != "meets")
    assert unproven.verdict == "unproven" and unproven.property == "picture.chroma"
    assert "4:2:0 by decoding" in unproven.why and "4:2:2 by a second reader" in unproven.why
    settled = doubted.with_values("assumed", {"picture.chroma": "4:2:0"})
    assert overall(ledger(settled, spec())) == "meets"
    assert Facts.from_json(doubted.as_json()).doubtful == doubted.doubtful


def test_what_breaks_stays_broken_whatever_it_says() -> None:
    wrong = master_facts(picture_codec="h264", picture_chroma="4:2:2", file_wrapper="mov")
    told = wrong.with_values("second", {"picture.chroma": "4:2:0"})
    assert overall(ledger(told, spec())) == "breaks"
