"""How a command ends."""

import os
import signal
from collections.abc import Iterator

import pytest

from ample_crate import ending

STOPS = (signal.SIGTERM, signal.SIGINT)


@pytest.fixture(autouse=True)
def as_before() -> Iterator[None]:
    before = {number: signal.getsignal(number) for number in STOPS}
    yield
    for number, handler in before.items():
        signal.signal(number, handler)


def stopped_within(what: Exception) -> int:
    try:
        os.kill(os.getpid(), signal.SIGTERM)
        signal.sigtimedwait([], 10)
    except KeyboardInterrupt:
        raise what from None
    return 0


@pytest.mark.parametrize("number", STOPS)
def test_a_stop_ends_it(number: signal.Signals, capsys: pytest.CaptureFixture[str]) -> None:
    def command() -> int:
        os.kill(os.getpid(), number)
        signal.sigtimedwait([], 10)
        return 0

    assert ending.code_of(command) == 130
    assert "stopped; nothing was left" in capsys.readouterr().err


@pytest.mark.parametrize("what", [RuntimeError("release unlocked lock"), OSError("torn")])
def test_what_a_stop_breaks_into_is_told_as_the_stop(
    what: Exception, capsys: pytest.CaptureFixture[str]
) -> None:
    assert ending.code_of(lambda: stopped_within(what)) == 130
    assert str(what) not in capsys.readouterr().err


def test_what_nobody_foresaw_is_not_hidden() -> None:
    def command() -> int:
        raise RuntimeError("unforeseen")

    with pytest.raises(RuntimeError, match="unforeseen"):
        ending.code_of(command)
