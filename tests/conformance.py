"""Everything that the registry says can be made, and what a made file is held against."""

from __future__ import annotations

import zlib
from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from ample_crate.core import formats
from ample_crate.core.facts import Facts
from ample_crate.core.facts.properties import lookup
from ample_crate.core.formats.codec import PictureCodec
from ample_crate.core.formats.pixels import Pixels
from ample_crate.core.formats.size import Amount, FixedPerFrame
from ample_crate.core.formats.wrapper import Wrapper
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.media import folders, render
from ample_crate.media.measuring import second, whole
from ample_crate.media.read import open_media

SIZE = Size(320, 192)


class Case(NamedTuple):
    """One thing to make."""

    codec: str
    profile: str
    pixels: Pixels
    wrapper: str
    fields: str | None = None
    size: Size = SIZE
    rate: Fraction = Fraction(25)
    aspect: Fraction | None = None

    @property
    def depth(self) -> int:
        """Bits a sample as they are read."""
        profile = formats.PICTURE[self.codec].profile(self.profile)
        return self.pixels.depth if profile is None else profile.read_depth or self.pixels.depth

    def __str__(self) -> str:
        scan = "fields" if self.fields else "frames"
        clear = " alpha" if self.pixels.alpha else ""
        return f"{self.codec} {self.profile}{clear} {self.wrapper} {scan} {self.size}"


def cases() -> Iterator[Case]:
    for codec in formats.made_picture().values():
        assert codec.made is not None
        for profile in [p.name for p in codec.profiles] or [""]:
            for wrapper in sorted(codec.places(profile)):
                for pixels in codec.layouts(profile):
                    yield from cases_of(codec, profile, pixels, formats.WRAPPERS[wrapper])


def cases_of(codec: PictureCodec, profile: str, pixels: Pixels, place: Wrapper) -> Iterator[Case]:
    """List how pictures whose samples lie so are made: small ones, or each that is held."""
    assert codec.made is not None
    model, wrapper = codec.made.model(profile, place.key), place.read_as
    held = model.holds(profile) if isinstance(model, FixedPerFrame) else ()
    for frame in held:
        if frame.pixels == pixels:
            order = None if frame.fields is None else frame.fields.value
            rate = frame.rate or Fraction(25)
            yield Case(codec.key, profile, pixels, wrapper, order, frame.size, rate, frame.aspect)
    if not held and not place.frames:
        yield Case(codec.key, profile, pixels, wrapper)
        if coded_in_fields(codec, profile, wrapper):
            yield Case(codec.key, profile, pixels, wrapper, "upper first")


def coded_in_fields(codec: PictureCodec, name: str, wrapper: str) -> bool:
    """Say whether fields of a profile are put into a wrapper."""
    profile, making = codec.profile(name), codec.made
    assert making is not None
    able = making.fields and codec.interlaced and (profile is None or profile.fields)
    return able and wrapper not in making.whole_frames_in


def spec_for(case: Case, **more: Any) -> Spec:
    asked: dict[str, Any] = {
        "picture.codec": case.codec,
        "picture.profile": case.profile,
        "picture.size": str(case.size),
        "file.wrapper": case.wrapper,
        "motion.rate": str(case.rate),
        "picture.alpha": case.pixels.alpha,
        "picture.chroma": case.pixels.chroma,
        "picture.bit_depth": case.depth,
    }
    if case.aspect is not None:
        asked["picture.pixel_aspect"] = str(case.aspect)
    if not case.profile:
        del asked["picture.profile"]
    if case.fields:
        asked |= {"motion.scan": "interlaced", "motion.field_order": case.fields}
    rows = [{"property": key, "rule": {"is": value}} for key, value in (asked | more).items()]
    return Spec.model_validate(
        {
            "id": "conformance",
            "version": 1,
            "recipient": "pinfold",
            "title": "t",
            "requirements": rows,
        }
    )


def plain_sound(wrapper: str) -> dict[str, str]:
    """Ask for sound that takes no time where a wrapper holds it: it is not what is looked at."""
    plain = "pcm_s24le"
    return {"sound.codec": plain} if wrapper in formats.made_in(formats.SOUND[plain]) else {}


def ignored(progress: dict[str, Any]) -> None:
    """Take progress that nobody looks at."""


def measured_here(path: Path) -> Facts:
    """Measure in this process: a child for each of so many files takes longer than they do."""
    facts = Facts.from_json(whole.handle(ignored, str(path))["facts"])
    told = Facts.from_json(second.handle(ignored, str(path))["facts"])
    return facts.with_values("second", {key: fact.second for key, fact in told.items()})


@cache
def facts_of(master: Path) -> Facts:
    return measured_here(master)


def made_from(
    master: Path, spec: Spec, folder: Path, **choices: str
) -> tuple[Plan, Facts, Path, Facts]:
    """Plan, encode and measure: the plan, what was predicted, the file, what it is."""
    return planned_from(master, spec, folder, picture="encoded", sound="encoded", **choices)


def planned_from(
    master: Path, spec: Spec, folder: Path, **choices: str
) -> tuple[Plan, Facts, Path, Facts]:
    """Plan, make and measure, whether it is encoded or copied."""
    route = plan_route(facts_of(master), spec, choices, master.name)
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    folder.mkdir(exist_ok=True)
    file = folder / route.plan.outcome
    make(master, file, route.plan)
    if route.plan.folder:
        file = folders.lay_out(file, route.plan)
    return route.plan, route.facts, file, measured_here(file)


def make(
    master: Path,
    out: Path,
    plan: Plan,
    told: Callable[..., None] = ignored,
    segments: Sequence[Path] = (),
) -> None:
    """Make what a plan says in this process: the file of a path, or files in its folder."""
    outs = [str(out / file.name) for file in plan.files] if plan.folder else [str(out)]
    captions = [str(out.parent / file.name) for file in plan.captions]
    order = {
        "plan": plan.model_dump(mode="json"),
        "outs": outs,
        "captions": captions,
        "segments": [str(path) for path in segments],
        "dropped": "",
    }
    render.handle(told, [str(master)], str(out.parent), [order])


def plan_of(master: Path, asked: Spec, item: Item = Item(), **choices: Any) -> Plan:  # noqa: B008
    """Plan what can be made."""
    route = plan_route(facts_of(master), asked, choices, master.name, item)
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    return route.plan


def made(plan: Plan, master: Path, folder: Path) -> Path:
    """Make what is planned in a folder: the file."""
    folder.mkdir(exist_ok=True)
    file = folder / plan.outcome
    make(master, file, plan)
    return file


def odd_ones(predicted: Facts, measured: Facts) -> dict[str, Any]:
    """List what came out otherwise than predicted, and what a second reader doubts."""
    odd = {
        key: (fact.predicted, measured.value(key))
        for key, fact in predicted.items()
        if not _foreseen(key, fact.predicted, measured.value(key))
    }
    return odd | {f"second {key}": measured.fact(key) for key in measured.doubtful}


def _foreseen(key: str, predicted: Any, measured: Any) -> bool:
    """Say whether a prediction held; figures about which something lands have a range of bytes."""
    how = lookup(key).predicted
    if how == "about":
        return measured is not None
    return measured <= predicted if how == "at most" else measured == predicted


def within_its_range(plan: Plan, measured: Facts) -> None:
    picture = plan.picture
    assert picture is not None
    amount = picture.encoding.amount(picture.format, plan.frames)
    assert _holds(amount, measured, "picture.bit_rate", plan.seconds)
    for sound in plan.sounds:
        length = plan.seconds + (measured.fraction("sound.length_difference") or 0)
        amount = sound.encoding.amount(sound.format, plan.seconds)
        assert _holds(amount, measured, "sound.bit_rate", length)


def _holds(amount: Amount, measured: Facts, key: str, seconds: Fraction) -> bool:
    """Say whether a measured rate, which is rounded down to whole b/s, is within an amount."""
    rate = measured.fraction(key)
    assert rate is not None
    return amount.least <= (rate + 1) * seconds / 8 and rate * seconds / 8 <= amount.most


@cache
def seen(path: Path) -> int:
    """Sum up the decoded pictures of a file."""
    sums = 0
    with open_media(str(path)) as container:
        for frame in container.decode(video=0):
            for plane in frame.planes:
                # What stands behind a line to its full length is no picture.
                lines = np.frombuffer(bytes(plane), np.uint8).reshape(-1, plane.line_size)
                deep = 2 if frame.format.components[0].bits > 8 else 1
                sums = zlib.crc32(lines[:, : plane.width * deep].tobytes(), sums)
    return sums
