"""The planner: from a master's facts, a spec and choices to a route."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction
from math import ceil, floor
from typing import Any, Literal, cast

from .. import formats
from ..errors import BadValue, Impossible
from ..facts import Facts
from ..facts.properties import lookup
from ..facts.span import Span
from ..formats import colour
from ..formats.wrapper import Contents
from ..ledger import ledger
from ..specs import naming
from ..specs.spec import Spec
from ..units import geometry
from ..units.values import Size, read_seconds, show_bit_rate
from . import programme
from .choices import open_choices
from .motion import plan_motion
from .plan import Operation, PictureSource, PictureTarget, Plan, Route
from .predict import predict
from .rate_control import over_cap, rate_control, size_cap, total_bytes
from .resolve import Notes, Resolver
from .share import bytes_left
from .sound import plan_sound


def plan_route(
    master: Facts,
    spec: Spec,
    choices: Mapping[str, Any] | None = None,
    master_name: str = "master",
    revision: int = 1,
    span: Span | None = None,
    given: Mapping[str, str] | None = None,
    share: int | None = None,
) -> Route:
    """Plan the way from a master to a deliverable that meets a spec.

    Args:
        master: facts of the master.
        spec: what the recipient asks.
        choices: values taken in the room that the spec leaves, as `Settled` has them.
        master_name: file name of the master, for the name of the deliverable.
        revision: revision of the crate, for the name.
        span: the named range to deliver, or None for the whole.
        given: more for the file name: production, date (as 20261123) and crate.
        share: bytes that the crate leaves this item; None where it is the only one.

    Returns:
        a route; where something makes it impossible, one whose caution blocks and whose plan is
        None.

    Raises:
        BadValue: a choice lies outside the room.
    """
    raw, master = master, programme.of(master, span, choices)
    settled, notes = Resolver(spec, master, choices or {}), Notes()
    spec = settled.spec
    if span is not None:
        master_name = f"{naming.stem(master_name)}_{span.name}"
        notes.step(
            f"The range '{span.name}'",
            f"Frames {span.first} to {span.last} of the master, as marked.",
            "motion.frames",
            "file.duration",
        )
    try:
        names = {
            "master": naming.stem(master_name),
            "recipient": spec.recipient,
            "revision": str(revision),
            "version": str(revision),
            "episode": naming.episode(master_name),
            **(given or {}),
            **settled.fields,
        }
        alone = bytes_left(spec) if share is None else share
        sources = programme.tracks(raw, str((choices or {}).get(programme.TRACKS, "")))
        return _plan(
            master, spec, settled, notes, names, 0 if span is None else span.first, alone, sources
        )
    except Impossible as error:
        notes.caution(
            "file.wrapper",
            error.what,
            "No file can be made this way.",
            "",
            error.way_out,
            blocks=True,
        )
        return Route(
            steps=notes.steps,
            cautions=notes.cautions,
            plan=None,
            predicted={},
            size=0,
            choices=open_choices(spec, settled, {}),
        )


def _plan(
    master: Facts,
    spec: Spec,
    settled: Resolver,
    notes: Notes,
    names: Mapping[str, str],
    first: int,
    share: int | None,
    sources: list[int] | None,
) -> Route:
    wrapper = cast(str, settled.get("file.wrapper", formats.USUAL_WRAPPER))
    place = formats.WRAPPERS.get(wrapper)
    if place is not None and not place.picture:
        raise Impossible(
            "The spec asks for sound alone, which cannot be made here.",
            "Hand over the sound as it is, if it meets the spec.",
        )
    source = _source(master, notes, first)
    size: Size = settled.get("picture.size")
    codec_name = cast(str, settled.get("picture.codec", formats.USUAL_PICTURE))
    codec = formats.PICTURE.get(codec_name)
    able = codec.made if codec is not None else None
    if codec is None or able is None:
        raise Impossible(
            f"The codec '{codec_name}' cannot be made here.",
            f"It can be one of {', '.join(formats.made_picture())}.",
        )
    interval = formats.interval_lines(codec_name, size)
    if interval:
        # Scaling the picture into those lines is the very thing that must not happen.
        raise Impossible(
            f"{size} has {interval} lines of vertical-interval data above the picture, which "
            f"cannot be made here.",
            "Take the picture alone, if the recipient allows it.",
        )
    if wrapper not in able.wrappers:
        raise Impossible(
            f"{codec.label} does not go into {formats.label(wrapper)} here.",
            f"Ask for one of {', '.join(sorted(able.wrappers))}.",
        )
    profile_level = str(settled.get("picture.profile_level", "") or "")
    profile = profile_level.split("@")[0] if profile_level else _profile(settled, able.usual)
    row = codec.profile(profile)
    if row is None or not row.made:
        raise Impossible(
            f"{codec.label} has no profile '{profile}' here.",
            f"It can be {', '.join(p.name for p in codec.profiles if p.made)}.",
        )
    chroma, depth, _ = row.made[0]
    motion = plan_motion(
        source,
        _above_nought(settled.get("motion.rate", source.rate), "frame rate"),
        str(settled.get("motion.scan", "progressive")),
        str(settled.get("motion.field_order", source.order)),
        notes,
    )
    aspect, fitted = _frame(master, spec, settled, source, size, motion.interlaced, chroma, notes)
    target_matrix = _matrix(settled, size)
    operations = [*motion.before, *_upright(master, notes)]
    operations += _reshape(fitted, master.value("picture.size"))
    if source.matrix != target_matrix:
        operations.append(Operation(kind="colour", source=source.matrix, target=target_matrix))
        notes.step(
            f"{source.matrix} to {target_matrix} colour",
            "High and standard definition weigh red, green and blue differently; left alone, skin "
            "and grass change hue.",
            "picture.matrix",
            "picture.primaries",
        )
    if fitted.bars:
        operations.append(_place("pad", fitted))
    operations += motion.after
    _bulk(master, chroma, depth, size, notes)
    seconds = _seconds(master)
    frames = max(1, round(seconds * motion.rate))
    length = Fraction(frames) / motion.rate
    sound = plan_sound(master, settled.get, spec, length, notes, sources)
    gop, b_frames = _gop(spec, settled, motion.rate, codec_name)
    contents = Contents(
        length,
        frames,
        ceil(Fraction(frames, gop)),
        b_frames > 0,
        ceil(length * sound.sample_rate / formats.SOUND[sound.codec].frame_samples) if sound else 0,
        2 if sound else 1,
    )
    picture = rate_control(
        spec,
        settled,
        notes,
        wrapper,
        contents,
        sound,
        PictureTarget(
            codec=codec_name,
            profile=profile,
            level=None,
            profile_level=profile_level,
            width=size.width,
            height=size.height,
            pixel_aspect=aspect,
            rate=motion.rate,
            interlaced=motion.interlaced,
            order=motion.order,
            chroma=chroma,
            bit_depth=depth,
            matrix=target_matrix,
            bit_rate=0,
            max_rate=0,
            buffer=0,
            constant=False,
            passes=spec.coding.passes if able.size.two_passes else 1,
            gop=gop,
            b_frames=b_frames,
            reference_frames=1 if gop == 1 else 4,
            slices=int(settled.get("picture.slices", 1)),
            named=bool([*settled.spec.on("picture.vbv"), *settled.spec.on("picture.vbv_rate")]),
        ),
        share,
    )
    notes.step(
        f"{codec.label} {profile} at {show_bit_rate(picture.bit_rate)}",
        (
            "Constant, so that every second weighs the same."
            if picture.constant
            else "Two passes: the first looks, the second spends."
            if picture.passes == 2
            else "One pass under a ceiling that holds over any second."
        ),
        "picture.codec",
        "picture.bit_rate",
    )
    index = (
        bool(settled.get("file.index_in_front", place.browsers))
        if place is not None and place.index
        else False
    )
    notes.step(
        formats.label(wrapper) + (", index in front" if index else ""),
        "The wrapper the recipient asks for.",
        "file.wrapper",
        "file.index_in_front",
    )
    plan = Plan(
        source=source,
        operations=operations,
        picture=picture,
        sound=sound,
        wrapper=wrapper,
        index_in_front=index,
        seconds=length,
        size_cap=size_cap(settled, share)[0],
        least_rate=settled.floor("picture.bit_rate"),
        most_rate=settled.cap("picture.bit_rate"),
    )
    total = total_bytes(plan, contents)
    name = _name(spec, wrapper, names, size, codec_name, motion.rate, notes)
    predicted = predict(plan, frames, total, name)
    over_cap(plan, settled, contents, total, share, notes)
    _at_odds(settled.spec, predicted, master, notes)
    return Route(
        steps=notes.steps,
        cautions=notes.cautions,
        plan=None if any(c.blocks for c in notes.cautions) else plan,
        predicted=predicted.as_json(),
        size=total,
        choices=open_choices(spec, settled, predicted),
    )


def _at_odds(spec: Spec, predicted: Facts, master: Facts, notes: Notes) -> None:
    """Say where a spec asks several things of one property that this master cannot meet
    together.
    """
    asked = [t for t in spec.tests if t.requirement.severity == "must"]
    for key in sorted({t.key for t in asked}):
        mine = [
            f
            for f in ledger(predicted, spec, master)
            if f.property == key and f.severity == "must" and f.applies
        ]
        if (
            len(mine) < 2
            or all(f.verdict != "breaks" for f in mine)
            or all(f.verdict == "breaks" for f in mine)
        ):
            continue
        notes.caution(
            key,
            f"The spec asks {len(mine)} things of the {lookup(key).label} that this master cannot "
            f"meet together.",
            "Whatever is made breaks one of them.",
            "; ".join(f.asked for f in mine),
            "Ask the recipient which one counts, and sign the other off after the run.",
        )


def _source(master: Facts, notes: Notes, first: int) -> PictureSource:
    size, rate = master.value("picture.size"), master.fraction("motion.rate")
    if size is None or rate is None:
        raise Impossible(
            "The master has no moving picture.", "Hand in a master with picture for this spec."
        )
    transfer = str(master.value("picture.transfer") or "BT.709")
    if transfer in colour.HDR_TRANSFERS:
        notes.caution(
            "picture.transfer",
            f"The master is HDR ({transfer}).",
            "Turning it into standard range without the published mapping changes every "
            "brightness.",
            f"transfer {transfer}",
            "Ask for a standard-range master.",
            blocks=True,
        )
    if transfer == "log":
        notes.caution(
            "picture.transfer",
            "The master is logarithmic.",
            "Its code values are densities, not a picture to be shown; converting them needs the "
            "film's own curve.",
            "transfer log",
            "Ask for a graded master, or correct the transfer if it is not logarithmic.",
            blocks=True,
        )
    if master.value("motion.steady") is False:
        notes.caution(
            "motion.steady",
            "The master's frames do not all last equally long.",
            "They are put on an even clock: some frames repeat, some are dropped.",
            f"{_average(master):.3f} fps on average, taken as {float(rate):.5g}",
            "Ask for a master of constant rate, or correct its rate if it is another.",
        )
    stated = master.value("picture.matrix")
    if stated is None:
        stated = "BT.709" if size.height > 576 else "BT.601"
        notes.caution(
            "picture.matrix",
            "The master does not say its colour matrix.",
            f"{stated} is taken, as is usual at this size; if that is wrong, hues shift.",
            str(size),
            "Ask the house that made it, or compare a known colour.",
        )
    if stated not in colour.CONVERTED:
        notes.caution(
            "picture.matrix",
            f"The master's colour matrix is {stated}.",
            "What turns it into another is not made here; taken for BT.709 every hue would shift.",
            f"matrix {stated}",
            "Ask for a BT.709 master, or correct the matrix if the header is wrong.",
            blocks=True,
        )
    primaries = str(master.value("picture.primaries") or stated)
    if primaries not in colour.CONVERTED:
        notes.caution(
            "picture.primaries",
            f"The master's primaries are {primaries}.",
            "They are taken as they are: on the recipient's screen colours look duller or shift.",
            f"primaries {primaries}",
            "Ask for a master in the recipient's primaries.",
        )
    for key in master.contradictions():
        if key in {"motion.scan", "motion.field_order", "motion.rate"}:
            fact, prop = master[key], lookup(key)
            notes.caution(
                key,
                f"Header and picture disagree on the {prop.label}.",
                "The route follows what decoding shows.",
                f"header {prop.kind.show(fact.declared)}, measured {prop.kind.show(fact.measured)}",
                "Step through the fields of a moving scene before running.",
            )
    interlaced = master.value("motion.scan") == "interlaced"
    said = {master.fact(key).provenance for key in ("motion.scan", "motion.field_order")}
    # A person who looked at the fields is believed over what the lines seem to show.
    if interlaced and "assumed" not in said and master.value("motion.lines") == "whole frames":
        interlaced = False
        notes.step(
            "Whole frames taken as they are",
            "The master carries frames in fields: there is nothing to deinterlace.",
            "motion.scan",
        )
    return PictureSource(
        rate=rate,
        interlaced=interlaced,
        order=str(master.value("motion.field_order") or "none"),
        pixel_aspect=master.fraction("picture.pixel_aspect") or Fraction(1),
        matrix=str(stated),
        primaries=primaries,
        transfer=transfer,
        full_range=master.value("picture.range") == "full",
        first=first,
        steady=master.fact("motion.steady").measured is True,
        reclock=_reclocked(master),
        uneven=master.value("motion.steady") is False,
    )


def _average(master: Facts) -> float:
    fact = master.fact("motion.rate")
    return float(fact.measured or fact.declared or fact.value)  # type: ignore[arg-type]


def _upright(master: Facts, notes: Notes) -> list[Operation]:
    """Turn the picture as its flag asks players to; the file made carries no flag."""
    degrees = programme.turned(master)
    if not degrees:
        return []
    if degrees % 90:
        raise Impossible(
            f"The master asks players to turn it by {degrees}°, which is no quarter of a turn.",
            "Ask for a master that is upright.",
        )
    notes.step(
        f"Turned upright, {degrees}° anticlockwise",
        "Most recipients ignore the flag that asks players to turn a picture: the picture itself "
        "is turned, and the flag dropped.",
        "picture.rotation",
        "picture.size",
    )
    return [Operation(kind="turn", degrees=degrees)]


def _name(
    spec: Spec,
    wrapper: str,
    names: Mapping[str, str],
    size: Size,
    codec: str,
    rate: Fraction,
    notes: Notes,
) -> str:
    """Make the file name; where fields are missing, a caution that blocks names them all, and a
    stand-in name is given.
    """
    place = formats.WRAPPERS.get(wrapper)
    ending = place.extension if place is not None else ""
    shown = f"{float(rate):.2f}".rstrip("0").rstrip(".")
    values = dict(names) | {"size": str(size), "codec": codec, "rate": shown}
    pattern = spec.delivery.pattern()
    try:
        wanting = pattern.wanting(values)
        if wanting:
            raise BadValue(
                f"The name still needs: {'; '.join(wanting)}.",
                f"Fill in the fields of the name: the recipient's pattern is {spec.delivery.name}.",
            )
        return pattern.name(values, ending)
    except BadValue as error:
        notes.caution(
            "file.name",
            error.what,
            "The recipient sorts by the name; without it the file is not found.",
            spec.delivery.name,
            error.way_out,
            blocks=True,
        )
        return naming.safe_name(f"{naming.slug(names['master'])}{ending}")


def _reclocked(master: Facts) -> bool:
    """Say whether a person gave the frames another rate than their time stamps have."""
    fact = master.fact("motion.rate")
    if master.value("motion.steady") is False:
        return False
    return fact.assumed is not None and fact.assumed != (fact.measured or fact.declared)


def _profile(settled: Resolver, usual: str) -> str:
    requirement = settled.spec.requirement("picture.profile")
    if requirement is None:
        return str(settled.chosen.get("picture.profile", usual))
    return str(settled.get("picture.profile", usual))


def _matrix(settled: Resolver, size: Size) -> str:
    usual = "BT.709" if size.height > 576 else "BT.601"
    return str(settled.get("picture.matrix", usual))


def _frame(
    master: Facts,
    spec: Spec,
    settled: Resolver,
    source: PictureSource,
    size: Size,
    interlaced: bool,
    chroma: str,
    notes: Notes,
) -> tuple[Fraction, geometry.Fit]:
    stored: Size = master.value("picture.size")
    interval = formats.interval_lines(master.value("picture.codec"), stored)
    have_size = Size(stored.width, stored.height - interval)
    shape = settled.spec.requirement("picture.display_aspect")
    active = spec.coding.active_width
    # A rule may say no value (that one be stated), and the master none either.
    pixel = (
        settled.get("picture.pixel_aspect")
        if spec.requirement("picture.pixel_aspect") is not None
        else None
    )
    wanted = settled.get("picture.display_aspect") if shape is not None and pixel is None else None
    if pixel is not None:
        aspect = Fraction(pixel)
    elif wanted is not None:
        aspect = geometry.pixel_aspect(
            _above_nought(wanted, "display aspect"), active or size.width, size.height
        )
    else:
        aspect = Fraction(1)
    _above_nought(aspect, "pixel aspect")
    step = 4 if interlaced and chroma == "4:2:0" else 2
    framing = cast(geometry.Framing, settled.framing)
    fitted = geometry.fit(
        geometry.Frame(have_size, source.pixel_aspect),
        geometry.Frame(size, aspect),
        framing,
        active,
        step,
    )
    if interval:
        cut = fitted.crop
        fitted = replace(fitted, crop=replace(cut, y=cut.y + interval))
        notes.step(
            f"The {interval} lines above the picture are cut",
            "They carry vertical-interval data, not picture.",
            "picture.size",
        )
    have = geometry.display_aspect(have_size, source.pixel_aspect)
    want = geometry.display_aspect(size, aspect)
    if have_size != size:
        enlarges = size.height > have_size.height
        notes.step(
            f"{have_size} to {size}",
            f"The spec's frame size, with pixels of {aspect.numerator}:{aspect.denominator} so "
            f"that circles stay round.",
            "picture.size",
            "picture.pixel_aspect",
        )
        if enlarges:
            notes.caution(
                "picture.size",
                "The picture is enlarged.",
                "No detail is gained; noise and edges grow softer.",
                f"{have_size} to {size}",
                "Ask for a larger master, or ask the recipient to take the size as it is.",
            )
    shape_differs = (
        fitted.bars or fitted.crop.width < have_size.width or fitted.crop.height < have_size.height
    )
    if shape_differs or (settled.framing == "stretch" and have != want):
        word = {
            "pad": "Bars are added",
            "crop": "The edges are cut",
            "stretch": "The picture is stretched",
        }[settled.framing]
        notes.step(
            word,
            f"The master is {float(have):.3f}:1 and the frame {float(want):.3f}:1.",
            "picture.display_aspect",
        )
        notes.caution(
            "picture.display_aspect",
            f"{word}, for the shapes differ.",
            "What is seen at the edges changes.",
            f"{float(have):.3f}:1 into {float(want):.3f}:1",
            "Choose pad, crop or stretch in the framing.",
        )
    return aspect, fitted


def _above_nought(value: Fraction, name: str) -> Fraction:
    if value <= 0:
        raise Impossible(
            f"No picture has a {name} of {float(value):g}.",
            "Look at the spec again: it asks for what cannot be.",
        )
    return Fraction(value)


def _place(kind: Literal["scale", "pad"], fitted: geometry.Fit) -> Operation:
    if kind == "scale":
        return Operation(kind="scale", width=fitted.place.width, height=fitted.place.height)
    return Operation(
        kind="pad",
        x=fitted.place.x,
        y=fitted.place.y,
        width=fitted.target.width,
        height=fitted.target.height,
    )


def _reshape(fitted: geometry.Fit, have: Size) -> list[Operation]:
    made: list[Operation] = []
    crop = fitted.crop
    if (crop.width, crop.height) != tuple(have):
        made.append(
            Operation(kind="crop", x=crop.x, y=crop.y, width=crop.width, height=crop.height)
        )
    if (crop.width, crop.height) != (fitted.place.width, fitted.place.height):
        made.append(_place("scale", fitted))
    return made


def _bulk(master: Facts, chroma: str, depth: int, size: Size, notes: Notes) -> None:
    finer = {"4:2:0": 0, "4:2:2": 1, "4:4:4": 2}
    theirs = str(master.value("picture.chroma") or chroma)
    if finer.get(chroma, 0) > finer.get(theirs, 0) and size == master.value("picture.size"):
        notes.caution(
            "picture.chroma",
            f"{chroma} is made from {theirs}.",
            "The file grows; no colour detail is gained.",
            f"{theirs} to {chroma}",
            "Nothing to do if the spec asks it.",
        )
    if depth > int(master.value("picture.bit_depth") or depth):
        notes.caution(
            "picture.bit_depth",
            f"{depth} bit is made from {master.value('picture.bit_depth')} bit.",
            "The file grows; no gradation is gained.",
            f"{master.value('picture.bit_depth')} to {depth} bit",
            "Nothing to do if the spec asks it.",
        )
    if master.value("picture.alpha"):
        notes.caution(
            "picture.alpha",
            "The master's transparency is dropped.",
            "This codec carries none; what was clear turns to the matte colour.",
            "alpha in the master",
            "Ask whether the recipient wants transparency.",
        )


def _seconds(master: Facts) -> Fraction:
    frames, rate = master.value("motion.frames"), master.fraction("motion.rate")
    if frames and rate and master.value("motion.steady") is not False:
        return Fraction(frames) / rate
    seconds = master.fraction("file.duration")
    if not seconds or seconds <= 0:
        raise Impossible(
            "The master's length is not known.",
            "Let it be measured first, or hand in a whole file.",
        )
    return seconds


def _gop(spec: Spec, settled: Resolver, rate: Fraction, codec: str) -> tuple[int, int]:
    if settled.get("motion.intra_only", False):
        return 1, 0
    usual = max(1, floor(read_seconds(spec.coding.key_frame_every) * rate))
    longest = max(1, int(settled.get("motion.longest_gop", usual)))
    return longest, max(0, int(settled.get("motion.b_frames", 2))) if longest > 2 else 0
