"""What a file may weigh, and what that leaves its picture."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..errors import Impossible
from ..formats.size import payload_bytes
from ..formats.wrapper import Contents
from .rates import overhead, solve_picture_rate
from .resolve import Resolver
from .streams import AnySound

OF_THE_FILE, OF_THE_CRATE = "the file's cap", "what the crate leaves it"


@dataclass(frozen=True)
class Budget:
    """The room that a file's picture has.

    Attributes:
        cap: the most bytes of the file; None without a limit.
        whose: whose limit that is, to a reader.
        sound_bytes: of the coded sound.
    """

    cap: int | None
    whose: str
    sound_bytes: int
    wrapper: str
    contents: Contents

    @property
    def seconds(self) -> Fraction:
        """Give the length."""
        return self.contents.seconds

    def picture_rate(self) -> int:
        """Give the picture's b/s that fills the cap.

        Raises:
            Impossible: sound and wrapper alone fill it.
        """
        assert self.cap is not None
        own = overhead(self.wrapper, self.contents, self.cap)
        return solve_picture_rate(self.cap, self.sound_bytes, own, self.seconds, self.whose)

    def most_rate(self) -> int:
        """Give the picture's b/s that fills the cap; 0 where sound and wrapper alone fill it."""
        try:
            return self.picture_rate()
        except Impossible:
            return 0


def size_cap(values: Resolver, share: int | None) -> tuple[int | None, str]:
    """Give the most bytes that a file may have, and whose limit that is."""
    cap = values.cap("file.size")
    if share is not None and (cap is None or share < cap):
        return share, OF_THE_CRATE
    return (None if cap is None else int(cap)), OF_THE_FILE


def sound_bytes_of(sounds: Sequence[AnySound], seconds: Fraction) -> int:
    """Give the bytes that the coded sound takes from what there is: at most, where its rate is
    known only when it is made.
    """
    return sum(
        s.amount(seconds).most if s.rate is None else payload_bytes(s.rate, seconds) for s in sounds
    )
