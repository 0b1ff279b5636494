"""Picture: from the master's to the one that the codec gets."""

from __future__ import annotations

from dataclasses import dataclass

from .. import formats
from ..errors import Impossible
from ..formats.colour import colour_of
from ..formats.pixels import FINENESS, RGB, Pixels
from ..units.geometry import Alignment
from ..units.values import Size
from . import programme, pulldown, reframing
from .alpha import plan_alpha
from .coding import Coding, fields_asked
from .curve import plan_curve, plan_mapping
from .framing import Framing, Seen, plan_framing
from .legal import KEY as LEVELS_OUT
from .legal import plan_legal
from .motion import Asked, plan_motion
from .notes import NOTHING, Notes, caution, in_all, step
from .region import alignment_of
from .request import Request, positive
from .resolve import Resolver
from .retiming import way_for
from .source import Source, usual_matrix
from .steps import (
    Colour,
    Crop,
    Pad,
    PictureFormat,
    PictureStep,
    PixelAspect,
    Samples,
    ToFullRange,
    ToLimitedRange,
    Turn,
)
from .streams import Reframed, picture_after


@dataclass(frozen=True)
class Video:
    """The picture's way: what is done to the master's, and what the encoder gets; and what is done
    instead in ranges that are framed otherwise.
    """

    source: PictureFormat
    steps: tuple[PictureStep, ...]
    notes: Notes
    reframed: tuple[Reframed, ...] = ()

    @property
    def format(self) -> PictureFormat:
        """Give the format that the encoder gets."""
        return picture_after(self.source, self.steps)


def plan_video(request: Request, source: Source, coding: Coding, wrapper: str) -> Video:
    """Plan the picture's way from the master to the encoder.

    Raises:
        Impossible: fields, or a turn, that cannot be made.
    """
    values, master = request.values, request.master
    size: Size = values.get("picture.size")
    rate = positive(values.get("motion.rate", source.format.rate), "frame rate")
    turn, turned = _upright(programme.turned(master))
    above = coding.codec.interval_lines(size)
    mapping = plan_mapping(request, source.format, usual_matrix(size))
    untouched = not (turn or mapping or source.format.alpha) and _untouched(
        request, source.format, coding, size
    )
    fields = fields_asked(request)
    film = pulldown.undoes(master, values.pulldown, coding.pixels.depth, rate, fields)
    motion = plan_motion(
        source.format,
        source.uneven,
        Asked(rate, fields, way_for(values.retime, coding.pixels)),
        untouched=untouched,
        film=pulldown.told(master, source.format) if film else None,
    )
    flat, laid = plan_alpha(request, source.format, coding)
    opaque = picture_after(source.format, flat)
    full = opaque.full_range and opaque.chroma != RGB
    steps: list[PictureStep] = [*flat, *([ToLimitedRange()] if full else [])]
    steps += [*motion.before, *turn]
    upright = picture_after(source.format, tuple(steps))
    fields_made = bool(motion.after)
    alignment = _alignment(upright, coding, fields_made or upright.fields is not None)
    usual, otherwise = _framings(values)
    if otherwise:
        reframing.check(values.reframed, request.whole, source.uneven)
    framing = plan_framing(request, upright, size, above, alignment, usual)
    _states_fields(coding, wrapper, fields_made)
    shown = picture_after(upright, mapping)
    colour, recoloured = _colour(request, shown, size, coding.pixels, coding.making.matrix)

    def way(framing: Framing) -> list[PictureStep]:
        whole = [*steps, *framing.steps, *mapping, *colour]
        whole += [*framing.bars, *motion.after, *framing.above]
        whole += _finish(picture_after(source.format, tuple(whole)), coding.pixels, framing.aspect)
        if coding.making.full_range and not picture_after(source.format, tuple(whole)).full_range:
            whole.append(ToFullRange())
        return whole

    plain = tuple(way(framing))
    made = picture_after(source.format, plain)
    legal, levelled = plan_legal(values.levels, made, master, request.spec.on(LEVELS_OUT))
    behind = (*legal, *([motion.blend] if motion.blend is not None else []))
    reframed = [
        Reframed(
            ranges=tuple(ranges),
            steps=(*way(plan_framing(request, upright, size, above, alignment, seen)), *behind),
        )
        for seen, ranges in otherwise.items()
    ]
    every = (*plain, *behind)
    notes = in_all(
        laid,
        motion.notes,
        framing.notes,
        reframing.told(values.reframed, values.framing),
        turned,
        recoloured,
        levelled,
        plan_curve(request, upright, picture_after(source.format, every), coding),
        _bulk(source.format, coding, size == upright.size),
    )
    return Video(source.format, every, notes, tuple(reframed))


def _framings(values: Resolver) -> tuple[Seen, dict[Seen, list[tuple[int, int]]]]:
    """Give how the picture is framed, and how ranges of it are that are framed otherwise."""
    usual = Seen(values.region, values.framing)
    otherwise: dict[Seen, list[tuple[int, int]]] = {}
    for one in values.reframed:
        seen = Seen(one.region, one.framing or values.framing)
        if seen != usual:
            otherwise.setdefault(seen, []).append((one.first, one.last))
    return usual, otherwise


def _untouched(request: Request, have: PictureFormat, coding: Coding, size: Size) -> bool:
    """Say whether the lines of a picture in fields stay where they are: neither framing nor another
    layout of chroma moves them.
    """
    chroma = coding.pixels.chroma
    halved = "4:2:0" in {have.chroma, chroma}
    recoloured = have.matrix != str(request.values.get("picture.matrix", usual_matrix(size)))
    if halved and (have.chroma != chroma or recoloured or have.full_range):
        return False
    alignment = _alignment(have, coding, fields=True)
    above = coding.codec.interval_lines(size)
    usual, otherwise = _framings(request.values)
    framings = [
        plan_framing(request, have, size, above, alignment, seen) for seen in (usual, *otherwise)
    ]
    return all(
        isinstance(step, Crop | Pad) and not step.y % alignment.lines
        for framing in framings
        for step in (*framing.steps, *framing.bars)
    )


def _alignment(have: PictureFormat, coding: Coding, fields: bool) -> Alignment:
    """Give the steps in which neither the master's samples nor the encoder's are moved against each
    other; `fields` says whether there are any where that is done.
    """
    ends = (alignment_of(chroma, fields) for chroma in (have.chroma, coding.pixels.chroma))
    return Alignment(*map(max, *ends))


def _states_fields(coding: Coding, wrapper: str, fields: bool) -> None:
    making, profile = coding.making, coding.codec.profile(coding.profile)
    if fields and not (making.fields and (profile is None or profile.fields)):
        raise Impossible(
            f"{coding.said} in fields is not made here.",
            "Ask for whole frames, or for another codec or profile.",
        )
    if fields and wrapper in making.whole_frames_in:
        others = sorted(making.wrappers - making.whole_frames_in)
        raise Impossible(
            f"{coding.codec.label} in fields does not go into {formats.label(wrapper)} here: its "
            f"header would call them whole frames.",
            f"Ask for {' or '.join(map(formats.label, others))}, or for whole frames.",
        )


def _upright(degrees: int) -> tuple[tuple[PictureStep, ...], Notes]:
    """Turn the picture as its flag asks players to; the file made carries no flag."""
    if not degrees:
        return (), NOTHING
    if degrees % 90:
        raise Impossible(
            f"The master asks players to turn it by {degrees}°, which is no quarter of a turn.",
            "Ask for a master that is upright.",
        )
    said = step(
        f"Turned upright, {degrees}° anticlockwise",
        "Most recipients ignore the flag that asks players to turn a picture: the picture itself "
        "is turned, and the flag dropped.",
        "picture.rotation",
        "picture.size",
    )
    return (Turn.model_validate({"degrees": degrees}),), said


def _colour(
    request: Request, have: PictureFormat, size: Size, pixels: Pixels, fixed: str
) -> tuple[tuple[PictureStep, ...], Notes]:
    # What is handed on as it is keeps its own, where nobody asks for another.
    usual = have.matrix if have.transfer else usual_matrix(size)
    want = fixed or str(request.values.get("picture.matrix", usual))
    if have.matrix == want:
        return (), NOTHING
    said = step(
        f"{have.matrix} to {want} colour",
        "High and standard definition weigh red, green and blue differently; left alone, skin "
        "and grass change hue.",
        "picture.matrix",
        "picture.primaries",
    )
    # What was mapped has fine gradation, of which none is given away before the last.
    through = FINE._replace(alpha=pixels.alpha) if have.chroma == RGB else _convertible(pixels)
    return (_samples(through), Colour(to=colour_of(want, size.height))), said


FINE = Pixels("4:4:4", 10)


def _convertible(pixels: Pixels) -> Pixels:
    """Give the layout in which colour is converted: Y'CbCr, no coarser."""
    if pixels.chroma == "4:1:1":
        return pixels._replace(chroma="4:2:2")
    return FINE._replace(alpha=pixels.alpha) if pixels.chroma == RGB else pixels


def _samples(pixels: Pixels) -> Samples:
    return Samples(chroma=pixels.chroma, depth=pixels.depth, alpha=pixels.alpha)


def _finish(have: PictureFormat, pixels: Pixels, aspect: object) -> list[PictureStep]:
    """Lay the samples out for the encoder, and say the pixel aspect, where they are not so yet."""
    steps: list[PictureStep] = []
    if (have.chroma, have.depth, have.alpha) != pixels:
        steps.append(_samples(pixels))
    if have.pixel_aspect != aspect:
        steps.append(PixelAspect.model_validate({"aspect": aspect}))
    # The same matrix goes with other primaries at 525 lines than at 625: left as they are.
    named = colour_of(have.matrix, have.height)
    if have.colour != named:
        steps.append(Colour(to=named, converts=False))
    return steps


def _bulk(have: PictureFormat, coding: Coding, same_size: bool) -> Notes:
    """Tell of what grows and gains nothing, and of what is lost."""
    return in_all(
        _finer(have.chroma, coding.pixels.chroma) if same_size else NOTHING,
        _deeper(have.depth, coding),
    )


def _finer(have: str, chroma: str) -> Notes:
    if not have or FINENESS.get(chroma, 0) <= FINENESS.get(have, 0):
        return NOTHING
    return caution(
        "picture.chroma",
        f"{chroma} is made from {have}.",
        "The file grows; no colour detail is gained.",
        f"{have} to {chroma}",
        "Nothing to do if the spec asks it.",
    )


def _deeper(have: int, coding: Coding) -> Notes:
    depth, profile = coding.pixels.depth, coding.codec.profile(coding.profile)
    if 0 < have < depth:
        return caution(
            "picture.bit_depth",
            f"{depth} bit is made from {have} bit.",
            "The file grows; no gradation is gained.",
            f"{have} to {depth} bit",
            "Nothing to do if the spec asks it.",
        )
    if profile is None or profile.read_depth is None or have <= depth:
        return NOTHING
    return caution(
        "picture.bit_depth",
        f"{have} bit are rounded to {depth}.",
        f"The encoder here takes {depth} bit, though the file is read as "
        f"{profile.read_depth}: fine gradation is lost.",
        f"{have} to {depth} bit",
        "Ask the recipient whether that is enough.",
    )
