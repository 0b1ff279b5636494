"""An encoder's own words reach whoever asked for the encode."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from ample_crate.core.errors import AmpleError
from ample_crate.media import confine, guard, limits, ops
from ample_crate.store.library import find
from ample_crate.work.deliver import plan_or_refuse

Make = Callable[..., Path]


def test_what_the_encoder_says_stands_beside_the_error(
    clip: Make, tmp_path: Path, measured: Callable[[Path], ops.Measured]
) -> None:
    master = clip("plain.mp4")
    route, plan = plan_or_refuse(measured(master).facts, find("pinfold-720p"), {}, master.name)
    odd = plan.encoded_as(plan.picture.encoding.model_copy(update={"profile": "of nobody"}))
    with pytest.raises(AmpleError) as failed:
        ops.render([master], tmp_path, odd, route.size)
    assert "of nobody" in failed.value.said and "profile" in failed.value.said
    assert "0x" not in failed.value.said and failed.value.as_json()["said"] == failed.value.said
    assert not list(tmp_path.iterdir())


def test_what_was_said_of_one_file_is_not_said_of_the_next(clip: Make, tmp_path: Path) -> None:
    bad = tmp_path / "bad.mp4"
    bad.write_bytes(clip("plain.mp4").read_bytes()[:3000])
    with guard.Child(limits.READ, confine.reading(bad)) as child:
        for path, silent in ((bad, False), (tmp_path / "nowhere.mp4", True)):
            with pytest.raises(AmpleError) as failed:
                child.request("read", {"path": str(path)})
            assert silent == ("moov" not in failed.value.said), failed.value.said


def test_what_was_said_goes_with_its_file_where_many_are_asked_ahead(
    clip: Make, tmp_path: Path
) -> None:
    good, bad = clip("plain.mp4"), tmp_path / "bad.mp4"
    bad.write_bytes(good.read_bytes()[:3000])
    asked = [{"path": str(path)} for path in (good, bad, tmp_path / "nowhere.mp4") * 5]
    with guard.Child(limits.READ, confine.reading(good, bad)) as child:
        answers = list(child.request_all("read", asked))
    assert len(answers) == 15
    for number, answer in enumerate(answers):
        assert isinstance(answer, AmpleError) == (number % 3 > 0)
        assert not isinstance(answer, AmpleError) or ("moov" in answer.said) == (number % 3 == 1)


def test_a_traceback_goes_with_what_nobody_foresaw(clip: Make) -> None:
    file = clip("plain.mp4")
    with (
        guard.Child(limits.READ, confine.reading(file)) as child,
        pytest.raises(AmpleError, match="unforeseen") as failed,
    ):
        child.request("measure", {"path": str(file), "depth": "everything", "more": 1})
    assert "TypeError" in failed.value.said and "more" in failed.value.said
    assert "TypeError" not in failed.value.what
