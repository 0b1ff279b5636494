"""What several tests need: plain facts, and the parts of a running installation."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from ample_crate.core.facts import Facts
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.service import WorkerPool
from ample_crate.store.cluster import Cluster
from ample_crate.store.database import Database
from ample_crate.store.places import Folders
from ample_crate.work.deliver import Delivered, plan_or_refuse, run_route


def master_facts(**values: object) -> Facts:
    """Facts of a plain 1080p25 master of 20 s; change what you like ("motion_rate" stands for
    "motion.rate").
    """
    usual: dict[str, object] = {
        "picture.codec": "prores",
        "picture.size": Size(1920, 1080),
        "picture.pixel_aspect": Fraction(1),
        "picture.chroma": "4:2:2",
        "picture.bit_depth": 10,
        "picture.alpha": False,
        "picture.matrix": "BT.709",
        "picture.range": "limited",
        "motion.rate": Fraction(25),
        "motion.scan": "progressive",
        "motion.field_order": "none",
        "motion.frames": 500,
        "motion.steady": True,
        "file.duration": Fraction(20),
        "sound.tracks": 1,
        "sound.codec": "pcm_s24le",
        "sound.layout": "stereo",
        "sound.channels": 2,
        "sound.sample_rate": 48000,
    }
    usual |= {key.replace("_", ".", 1): value for key, value in values.items()}
    return Facts().with_values("measured", usual)  # type: ignore[arg-type]


def deliver(master: Path, spec: Spec, out: Path, facts: Facts, **choices: object) -> Delivered:
    """Plan a master's way to a spec and carry it out."""
    route, _ = plan_or_refuse(facts, spec, choices, master.name)
    return run_route([master], facts, spec, route, out)


@dataclass
class Installation:
    address: str
    folders: Folders
    database: Database
    pool: WorkerPool
    cluster: Cluster
