"""What a disk refuses is said as what it is, from errors that this machine's own disk raised."""

from __future__ import annotations

import errno
from collections.abc import Callable
from pathlib import Path

import pytest

from ample_crate.core.errors import AmpleError, NoRoom, of_the_disk


def _fill(at: Path) -> None:
    with open("/dev/full", "wb", buffering=0) as full:
        full.write(b"one byte more")


TROUBLES: dict[str, tuple[Callable[[Path], object], str]] = {
    "full": (_fill, "The disk is full."),
    "gone": (lambda at: (at / "film.mov").read_bytes(), "/film.mov' is not there any more."),
    "under a file": (
        lambda at: (at / "plain" / "inner").mkdir(),
        "'plain/inner' lies under a file, where a folder belongs.",
    ),
    "a folder": (lambda at: at.read_bytes(), "is a folder, where a file belongs."),
    "there already": (
        lambda at: (at / "plain").mkdir(),
        "/plain' is there already, and is something else.",
    ),
    "too long": (
        lambda at: (at / ("x" * 300)).read_bytes(),
        "has a name longer than its disk takes.",
    ),
}


@pytest.mark.parametrize("name", TROUBLES)
def test_what_a_disk_refuses_is_named_without_its_whole_path(name: str, tmp_path: Path) -> None:
    (tmp_path / "plain").write_text("a file")
    trouble, said = TROUBLES[name]
    with pytest.raises(OSError) as raised:
        trouble(tmp_path)
    told = of_the_disk(raised.value)
    assert told is not None and told.what.endswith(said) and told.way_out
    assert str(tmp_path) not in told.sentence()
    assert isinstance(told, NoRoom) == (name == "full")


def test_an_error_of_a_line_is_no_matter_of_disks() -> None:
    assert of_the_disk(ConnectionResetError(errno.ECONNRESET, "reset")) is None
    unnamed = of_the_disk(OSError(errno.EIO, "input/output error"))
    assert (
        isinstance(unnamed, AmpleError)
        and unnamed.what == "A file or folder could not be read or written to its end."
    )
