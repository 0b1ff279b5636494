"""Limits that a child process sets on itself before it touches a byte of media."""

from __future__ import annotations

import resource
from dataclasses import asdict, dataclass

MEBI = 2**20
# A picture larger than this is taken for a damaged or hostile header.
MAX_SIDE = 16384
MAX_SAMPLES = 8192 * 8192


@dataclass(frozen=True)
class Limits:
    """What a child may use.

    Attributes:
        memory: bytes of address space.
        cpu_seconds: seconds of processor time over all threads.
        file_bytes: bytes a file it writes may grow to.
        silence: seconds without a sign of life after which the parent ends it.
    """

    memory: int = 3 * 1024 * MEBI
    cpu_seconds: int = 600
    file_bytes: int = 64 * MEBI
    silence: float = 60.0

    def as_json(self) -> dict[str, float]:
        """Give the limits as JSON."""
        return asdict(self)


# A child that starts on a crowded machine is silent for a while.
READ = Limits(cpu_seconds=120, file_bytes=0, silence=120)
PICTURES = Limits(cpu_seconds=24 * 3600, file_bytes=0, silence=60)
# A master's picture through its route, and beside it what came out.
COMPARE = Limits(memory=8192 * MEBI, cpu_seconds=96 * 3600, file_bytes=0, silence=300)
MEASURE = Limits(memory=4096 * MEBI, cpu_seconds=48 * 3600, file_bytes=0, silence=120)


def encode(file_bytes: int) -> Limits:
    """Give the limits of an encode whose output is predicted at `file_bytes`."""
    return Limits(
        memory=8192 * MEBI,
        cpu_seconds=96 * 3600,
        file_bytes=2 * file_bytes + 256 * MEBI,
        # An encoder that looks ahead keeps dozens of frames for the end, which a machine that is
        # shared by others codes without a word.
        silence=900,
    )


def apply(limits: Limits) -> None:
    """Set the limits on this process."""
    for what, value in (
        (resource.RLIMIT_AS, limits.memory),
        (resource.RLIMIT_CPU, limits.cpu_seconds),
        (resource.RLIMIT_FSIZE, limits.file_bytes),
        (resource.RLIMIT_CORE, 0),
    ):
        _, hard = resource.getrlimit(what)
        ceiling = value if hard == resource.RLIM_INFINITY else min(value, hard)
        resource.setrlimit(what, (ceiling, ceiling))
