"""A thousand damaged files over all wrappers: each yields facts or one clear error, and nothing
outlives its limit.
"""

import os
import random
import resource
from pathlib import Path

import pytest

from ample_crate.core.errors import AmpleError
from ample_crate.core.facts import Facts
from ample_crate.media import confine, guard, limits, ops
from wrappers import all_of_them

ROUNDS, SEED = 40, 11


def damaged(data: bytes, rng: random.Random) -> bytes:
    """Damage bytes in one of six ways."""
    made = bytearray(data)
    way, size = rng.randrange(6), len(data)
    if way == 0:
        return bytes(made[: rng.randrange(1, size)])
    if way == 1:
        for _ in range(rng.randrange(1, 40)):
            made[rng.randrange(size)] = rng.randrange(256)
    elif way == 2:
        for _ in range(rng.randrange(1, 20)):
            made[rng.randrange(min(4096, size))] ^= 1 << rng.randrange(8)
    elif way == 3:
        start = rng.randrange(size)
        del made[start : start + rng.randrange(1, 5000)]
    elif way == 4:
        start = rng.randrange(size)
        made[start : start + 4] = rng.choice(
            [b"\xff\xff\xff\xff", b"\0\0\0\0", b"\x7f\xff\xff\xff", b"\x80\0\0\0"]
        )
    else:
        start = rng.randrange(size)
        made[start:start] = rng.randbytes(rng.randrange(1, 3000))
    return bytes(made)


@pytest.fixture(scope="module")
def whole(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    return all_of_them(tmp_path_factory.mktemp("whole"))


def test_every_damaged_file_yields_facts_or_one_clear_error(
    whole: list[Path], tmp_path: Path
) -> None:
    rng = random.Random(SEED)
    paths = []
    for path in whole:
        data = path.read_bytes()
        for number in range(ROUNDS):
            made = tmp_path / f"{number}_{path.name}"
            made.write_bytes(damaged(data, rng))
            paths.append(made)
    assert len(paths) >= 1000
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    answers = dict(ops.read_many(paths))
    assert set(answers) == set(paths)
    read = sum(isinstance(a, Facts) for a in answers.values())
    assert 200 < read < len(paths)
    for path, answer in answers.items():
        if isinstance(answer, AmpleError):
            assert answer.what and answer.way_out, path.name
            assert "unforeseen" not in answer.what and "Traceback" not in answer.what, (
                path.name,
                answer.what,
            )
            assert answer.code in {"bad-media", "over-limit"}
    # The parent holds facts and messages, never the bytes.
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 64 * 1024


def test_some_of_each_are_measured_whole_within_their_limits(
    whole: list[Path], tmp_path: Path
) -> None:
    rng = random.Random(SEED + 1)
    small = limits.Limits(memory=limits.MEASURE.memory, cpu_seconds=60, file_bytes=0, silence=30)
    pids = []
    folder = tmp_path / "damaged"
    folder.mkdir()
    child: guard.Child | None = None
    for path in whole:
        for number in range(3):
            made = folder / f"{number}_{path.name}"
            made.write_bytes(damaged(path.read_bytes(), rng))
            if child is None or not child.alive:
                child = guard.Child(small, confine.reading(folder))
                pids.append(child.pid)
            try:
                result = child.request("measure", {"path": str(made), "depth": "everything"})
                assert isinstance(Facts.from_json(result["facts"]), Facts)
            except AmpleError as error:
                assert error.what and error.way_out and "unforeseen" not in error.what, (
                    made.name,
                    error.what,
                )
    assert child is not None
    child.close()
    for pid in pids:
        with pytest.raises(ProcessLookupError):
            os.kill(pid, 0)
