"""Each wall around a media process by itself: take one away, and its test fails."""

from __future__ import annotations

import json
import os
import socket
import subprocess
import sys
import tempfile
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest

from ample_crate.core.errors import BadMedia, OverLimit
from ample_crate.media import confine, guard, limits, ops
from ample_crate.media.confine import View

Make = Callable[..., Path]
GIBI = 1024 * limits.MEBI
TELL = "import json, os, socket\ndef tell(what): print(json.dumps(what))\n"
boxed = pytest.mark.skipif(
    confine.way() != "bubblewrap", reason="bubblewrap cannot run here, which /api/health says too"
)
by_root = pytest.mark.skipif(os.geteuid() != 0, reason="only root has rights to give up")


def script(
    text: str, view: View, how: confine.Way | None = None, python: str = sys.executable
) -> Any:
    """Run lines of Python where media processes run; give what they tell."""
    with confine.start(
        [python, "-c", TELL + text], view, how, stdout=subprocess.PIPE, stderr=subprocess.PIPE
    ) as process:
        out, said = process.communicate(timeout=60)
    assert process.returncode == 0, said
    return json.loads(out)


def inside(
    code: str, view: View, how: confine.Way | None = None, python: str = sys.executable
) -> Any:
    """Give what a Python expression is where media processes run."""
    return script(f"tell({code})", view, how, python)


def tried(action: str, view: View) -> Any:
    """Give the error that refuses an action, or "done"."""
    return script(
        f"try:\n    {action}\n    tell('done')\nexcept OSError as error:\n    "
        f"tell(type(error).__name__)",
        view,
    )


@boxed
def test_a_child_sees_its_file_and_nothing_beside_it(tmp_path: Path) -> None:
    mine, other = tmp_path / "mine.mov", tmp_path / "other.mov"
    mine.write_text("mine")
    other.write_text("other")
    assert inside(f"open({str(mine)!r}).read()", View((mine,))) == "mine"
    assert inside(f"os.listdir({str(tmp_path)!r})", View((mine,))) == ["mine.mov"]
    seen = set(inside("os.listdir('/')", View((mine,))))
    assert "var" not in seen and "home" not in seen
    assert tried(f"open({str(mine)!r}, 'a')", View((mine,))) in {"OSError", "PermissionError"}


@boxed
def test_a_child_writes_its_folder_alone(tmp_path: Path) -> None:
    bench, elsewhere = tmp_path / "bench", tmp_path / "elsewhere"
    bench.mkdir()
    elsewhere.mkdir()
    assert inside(f"open({str(bench / 'made')!r}, 'w').write('made')", View(writes=bench)) == 4
    assert (bench / "made").read_text() == "made"
    assert (
        tried(f"open({str(elsewhere / 'made')!r}, 'w')", View(writes=bench)) == "FileNotFoundError"
    )
    assert list(elsewhere.iterdir()) == []


@boxed
def test_a_child_has_no_rights_no_network_and_nothing_of_its_parents_environment(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setenv("AMPLE_DATABASE", "a secret")
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = server.getsockname()[1]
        assert tried(f"socket.create_connection(('127.0.0.1', {port}), 5)", View()) in {
            "OSError",
            "ConnectionRefusedError",
        }
    rights = inside(
        "[line.split()[1] for line in open('/proc/self/status') if line[:6] in ('CapEff', "
        "'CapPrm', 'CapInh', 'CapAmb')]",
        View(),
    )
    assert {int(mask, 16) for mask in rights} == {0}
    assert inside(
        "[line.split()[1] for line in open('/proc/self/status') if line.startswith('NoNewPrivs')]",
        View(),
    ) == ["1"]
    assert set(inside("dict(os.environ)", View())) <= {*confine.ENVIRONMENT, "PWD"}
    assert inside("len([p for p in os.listdir('/proc') if p.isdigit()])", View()) <= 3, (
        "it sees no other processes"
    )


@boxed
@by_root
def test_roots_child_is_another_user() -> None:
    assert inside("[*os.getresuid(), *os.getresgid()]", View()) == [confine.NOBODY] * 6


@by_root
def test_without_bubblewrap_roots_child_is_another_user_still() -> None:
    system = "/usr/bin/python3"
    if not Path(system).exists():
        pytest.skip("there is no Python that another user may run")
    assert inside("[*os.getresuid(), os.getgroups()]", View(), "changed user", system) == [
        confine.NOBODY
    ] * 3 + [[]]


@by_root
def test_without_bubblewrap_a_child_reaches_its_file_in_a_folder_closed_to_others() -> None:
    system = "/usr/bin/python3"
    if not Path(system).exists():
        pytest.skip("there is no Python that another user may run")
    with tempfile.TemporaryDirectory(dir="/var/tmp") as name:
        folder = Path(name)
        folder.chmod(0o750)
        film, bench = folder / "film.mov", folder / "bench"
        film.write_text("film")
        bench.mkdir(mode=0o750)
        view = View((film,), bench)
        assert inside(f"open({str(film)!r}).read()", view, "changed user", system) == "film"
        assert (
            inside(
                f"open({str(bench / 'made')!r}, 'w').write('made')", view, "changed user", system
            )
            == 4
        )
        assert inside("os.getgroups()", View((Path("/usr/bin/env"),)), "changed user", system) == []


@by_root
def test_a_file_that_root_alone_may_read_is_named_with_the_way_out(
    clip: Make, tmp_path: Path
) -> None:
    file = tmp_path / "closed.mp4"
    file.write_bytes(clip("plain.mp4").read_bytes())
    file.chmod(0o600)
    with pytest.raises(BadMedia, match=r"closed\.mp4") as refused:
        ops.read_facts(file)
    assert "chmod o+r" in refused.value.way_out
    os.chown(file, 4242, 4242)
    assert ops.read_facts(file), "what is a user's own is read as that user"


def test_an_image_sequence_is_seen_with_its_images(tmp_path: Path) -> None:
    from PIL import Image

    from ample_crate.core.facts.sequences import gather
    from ample_crate.media import sequence

    shots = tmp_path / "shots"
    shots.mkdir()
    names = [f"shot_{n:04d}.png" for n in range(3)]
    for name in names:
        Image.new("RGB", (64, 48), (200, 0, 0)).save(shots / name)
    (found,) = gather(names)[0]
    path = sequence.lay_out(tmp_path / "laid", [shots / n for n in names], found, Fraction(25))
    assert ops.read_facts(path).value("picture.size") == (64, 48)
    assert set(confine.reading(path).reads) == {path, path.parent / sequence.FRAMES, shots}


def huge(folder: Path) -> Path:
    """Make a small file, on disk, with one picture of 384 MB: it lies within all that a header may
    claim.
    """
    path = folder / "huge.y4m"
    path.write_bytes(b"YUV4MPEG2 W8000 H8000 F25:1 Ip A1:1 C444p16\nFRAME\n")
    os.truncate(path, path.stat().st_size + 8000 * 8000 * 3 * 2)
    return path


def test_memory_is_limited(tmp_path: Path) -> None:
    path = huge(tmp_path)
    tight = limits.Limits(memory=GIBI * 3 // 4, cpu_seconds=60, file_bytes=0, silence=60)
    with pytest.raises(OverLimit, match=r"needs more memory|needed more memory"):
        guard.run("measure", {"path": str(path)}, tight, confine.reading(path))
    ample = limits.Limits(memory=8 * GIBI, cpu_seconds=60, file_bytes=0, silence=60)
    assert guard.run("measure", {"path": str(path)}, ample, confine.reading(path))["facts"]


def test_silence_is_limited(clip: Make, tmp_path: Path) -> None:
    """A film after which nothing comes for sixty gigabytes: it opens, and then gives no sign of
    life for minutes.
    """
    path = tmp_path / "endless.mpg"
    path.write_bytes(
        clip(
            "ps.mpg", codec="mpeg2video", sound_codec="mp2", frames=50, options={"b": "2000000"}
        ).read_bytes()
    )
    os.truncate(path, 60 * GIBI)
    patient = limits.Limits(cpu_seconds=3600, file_bytes=0, silence=3)
    with pytest.raises(OverLimit, match="no sign of life for 3 s"):
        guard.run("measure", {"path": str(path)}, patient, confine.reading(path))


def test_processor_time_is_limited(clip: Make, tmp_path: Path) -> None:
    path = tmp_path / "endless.mpg"
    path.write_bytes(
        clip(
            "ps.mpg", codec="mpeg2video", sound_codec="mp2", frames=50, options={"b": "2000000"}
        ).read_bytes()
    )
    os.truncate(path, 60 * GIBI)
    with pytest.raises(OverLimit, match=r"too much memory or time|processor time"):
        guard.run(
            "measure",
            {"path": str(path)},
            limits.Limits(cpu_seconds=3, file_bytes=0, silence=300),
            confine.reading(path),
        )
