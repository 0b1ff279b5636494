"""The broadcast extension of a WAV (EBU Tech 3285): the time of day at which it begins, and what it
comes from.
"""

from __future__ import annotations

from fractions import Fraction

from ..formats.wrapper import Wrapper
from .beside import clock
from .notes import NOTHING, Notes, step
from .plan import Broadcast
from .request import Request
from .streams import AnySound

KEY, START = "file.broadcast_extension", "file.start_time"
CHANNELS = {1: "mono", 2: "stereo"}
DAY = 24 * 3600


def plan_broadcast(
    request: Request, wrapper: Wrapper, sounds: list[AnySound], name: str
) -> tuple[Broadcast | None, Notes]:
    """Settle whether there is one, and from when on it counts: as asked, else as the master does.

    Args:
        request: what is planned.
        wrapper: what is made.
        sounds: the tracks in it.
        name: what it is called where it has no title.
    """
    master, values = request.master, request.values
    begins = clock(master, master.fraction("motion.rate"))
    wanted = values.get(KEY, begins is not None)
    start = Fraction(values.get(START, begins or Fraction(0))) % DAY
    if not wrapper.broadcast or not wanted or not sounds:
        return None, NOTHING
    sound = sounds[0]
    rate = sound.format.sample_rate
    made = Broadcast(
        description=str(master.value("file.title") or name),
        history=_history(sound),
        reference=round(start * rate),
    )
    why = (
        "As the recipient asks, or as was chosen."
        if start != (begins or 0)
        else "The master's, carried over."
        if begins is not None
        else "The master has no time of its own: it begins at midnight."
    )
    return made, step(f"Broadcast extension from {_shown(start)}", why, KEY, START)


def _history(sound: AnySound) -> str:
    """Say how the sound was coded last, as EBU R 98 writes it."""
    f, depth = sound.format, sound.row.made_depth
    parts = ["A=PCM", f"F={f.sample_rate}"]
    if depth is not None:
        parts.append(f"W={depth}")
    if f.channels in CHANNELS:
        parts.append(f"M={CHANNELS[f.channels]}")
    return ",".join(parts) + "\r\n"


def _shown(start: Fraction) -> str:
    thousandths = round(start * 1000)
    seconds, rest = divmod(thousandths, 1000)
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}.{rest:03d}"
