"""Copies: streams of a master that meet what is asked of them go over as they are coded, without
loss.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from .. import formats
from ..facts import Facts
from ..facts.captions import KEY as CAPTIONS
from ..facts.properties import lookup, track_key
from ..formats.codec import PictureCodec, PictureMaking, SoundCodec
from ..formats.colour import CARRIED
from ..formats.pixels import RGB, Pixels
from ..formats.size import FixedPerFrame, Frame
from ..units.fields import field_order
from ..units.values import show_bytes
from . import captions, curve, programme
from .budget import size_cap
from .loudness import LEVELS
from .notes import NOTHING, Notes, caution, step
from .obstacles import (
    Obstacle,
    corrected,
    decide,
    insisted,
    otherwise,
    unasked,
    unjudged,
    why_copied,
)
from .request import Request
from .resolve import Way
from .sound_steps import SoundFormat
from .source import plan_source
from .streams import HEADS, CopiedPicture, CopiedSound

PICTURE, SOUND = ("picture.", "motion."), ("sound.",)
# Of a range: how far its bytes may be from the master's average (common practice).
FACTOR = 4
UNSOUGHT = "It is made to the frame: where its key frames lie is sought when a copy is chosen."
STANDARD = "BT.709"  # what is meant where nobody names a transfer (common practice)
APART = Fraction(1, 25)  # seconds; what sound may begin or end beside the picture


@dataclass(frozen=True)
class Copies:
    """What is copied.

    Attributes:
        picture: None where it is encoded.
        sounds: None where they are encoded.
        ways: "copied" or "encoded", by "picture" and "sound", where it may be chosen.
        of_picture, of_sound: what is to be said of them.
    """

    picture: CopiedPicture | None = None
    sounds: tuple[CopiedSound, ...] | None = None
    ways: Mapping[str, Way] = field(default_factory=dict)
    of_picture: Notes = NOTHING
    of_sound: Notes = NOTHING

    @property
    def nothing(self) -> bool:
        """Say whether everything is encoded."""
        return self.picture is None and self.sounds is None


def plan_copies(request: Request, wrapper: str, count: int) -> Copies:
    """Say which streams are copied into a wrapper.

    Args:
        request: what is planned.
        wrapper: what they go into.
        count: sound tracks that are wanted.
    """
    picture, sound = _picture(request, wrapper), _sound(request, wrapper, count)
    ways = {name: one.way for name, one in (("picture", picture), ("sound", sound)) if one.offered}
    copied, tracks = picture.stream, sound.streams
    return Copies(copied, tracks, ways, picture.notes, sound.notes)


@dataclass(frozen=True)
class _Answer:
    """Whether one kind of stream is copied, and what is to be said of it."""

    offered: bool = False
    way: Way = "encoded"
    notes: Notes = NOTHING
    stream: CopiedPicture | None = None
    streams: tuple[CopiedSound, ...] | None = None


def _picture(request: Request, wrapper: str) -> _Answer:
    master, chosen = request.master, request.values.ways.get("picture")
    row = formats.PICTURE.get(str(master.value("picture.codec")))
    if row is None or not _goes_over(master, row, wrapper):
        if chosen != "copied":
            return _Answer()
        label = formats.label(str(master.value("picture.codec")))
        away = f"{label} is not put into {formats.label(wrapper)} here without encoding it."
        return _Answer(notes=insisted("Picture", Obstacle("file.wrapper", away, bars=True)))
    obstacles = list(_picture_obstacles(request, row, wrapper))
    way, notes = decide("Picture", chosen, obstacles)
    if way == "encoded":
        return _Answer(True, way, notes)
    said = step(
        f"{row.label} picture copied", why_copied(obstacles), "picture.codec", "picture.profile"
    )
    return _Answer(True, way, said + _cut(request) + notes, _copy(request, row))


def _taken_faster(request: Request, beside: bool = False) -> Iterator[Obstacle]:
    """Say that a film is taken at another speed; sound that lies beside it is not."""
    if request.speed.times != 1 and not beside:
        why = "It is taken at another speed than its own, which needs encoding."
        yield Obstacle("motion.rate", why, True)


def _led(request: Request) -> Iterator[Obstacle]:
    if request.values.leader or request.values.tail:
        around = "A leader, or black after it, is set around it, which needs encoding."
        yield Obstacle("motion.leader", around, True)


def _burnt(request: Request) -> Iterator[Obstacle]:
    if request.values.burn_in or request.values.watermark:
        yield Obstacle("picture.codec", "It is burnt into, which needs encoding.", True)


def _legalised(request: Request) -> Iterator[Obstacle]:
    if request.values.levels:
        yield Obstacle("picture.excursion", "Its levels are changed, which needs encoding.", True)


def _reframed(request: Request) -> Iterator[Obstacle]:
    if programme.turned(request.master):
        yield Obstacle("picture.rotation", "It is turned upright, which needs encoding.", True)
    if request.values.pulldown:
        yield Obstacle("motion.rate", "Its 2:3 pulldown is undone, which needs encoding.", True)
    if request.values.region or request.values.reframed:
        yield Obstacle("picture.size", "A part of it was chosen, which needs encoding.", True)


def _goes_over(master: Facts, row: PictureCodec, wrapper: str) -> bool:
    """Say whether coded frames of a master have a place in a wrapper: an image is made anew, and
    those of a stream are no files of images, for what they share may stand elsewhere.
    """
    profile = str(master.value("picture.profile") or "")
    place, source = formats.WRAPPERS[wrapper], programme.place_of(master)
    image = place.still or (source is not None and source.still)
    alike = place.numbered == (source is not None and source.numbered)
    return not image and alike and wrapper in formats.copied_in(row, profile)


def _cut(request: Request) -> Notes:
    span, cut = request.span, request.cut
    if span is None or cut is None or (span.first, span.frames) == (cut.first, cut.frames):
        return NOTHING
    before = span.first - cut.first
    after = cut.frames - span.frames - before
    return caution(
        "motion.frames",
        f"The copy begins at frame {cut.first}, {before} before the range, and ends {after} after "
        f"it.",
        "Frames lean on each other: a copy begins at a key frame, and ends where nothing that it "
        "needs is missing.",
        f"{cut.frames} frames for {span.frames}",
        "Have the picture encoded for the range to the frame, or mark it at key frames.",
    )


def _picture_obstacles(request: Request, row: PictureCodec, wrapper: str) -> Iterator[Obstacle]:
    master = request.master
    yield from _taken_faster(request)
    yield from corrected(master, PICTURE)
    yield from otherwise(request, PICTURE)
    yield from unjudged(request, PICTURE, master)
    yield from unasked(request, "picture.codec", row.key, formats.USUAL_PICTURE)
    making = row.made
    fields = master.value("motion.scan") == "interlaced"
    if fields and making is not None and wrapper in making.whole_frames_in:
        yield Obstacle(
            "motion.scan", f"{formats.label(wrapper)} would call its fields whole frames.", True
        )
    level = row.levels and master.value(row.levels.key)
    if row.levels is not None and level in row.levels.untold.get(wrapper, ()):
        untold = f"{formats.label(wrapper)} has no label for {level}."
        yield Obstacle(row.levels.key, untold, True)
    if not _even_enough(master, making, wrapper):
        uneven = f"Its frames do not have the bytes that all have in {formats.label(wrapper)}."
        yield Obstacle("picture.bit_rate", uneven, True)
    yield from _reframed(request)
    yield from _burnt(request)
    yield from _legalised(request)
    yield from _led(request)
    if captions.in_picture(request.whole) and captions.unwanted(request):
        yield Obstacle(CAPTIONS, "Its coded frames carry captions, and none are wanted.")
    yield from _loose(request)
    if not _counted(request.whole):
        yield Obstacle("motion.frames", "Its frames and bytes are not measured yet.", True)
    elif (over := _too_much(request)) is not None:
        yield Obstacle("file.size", over, True)
    yield from _code_values(request, making)
    for key in master.contradictions():
        if key.startswith(PICTURE):
            yield Obstacle(key, f"Its header is wrong about the {lookup(key).label}.")
    yield from _range(request)


def _code_values(request: Request, making: PictureMaking | None) -> Iterator[Obstacle]:
    """List what code values stand for, and are not meant to."""
    master = request.master
    always = (making is not None and making.full_range) or master.value("picture.chroma") == RGB
    if master.value("picture.range") == "full" and not always:
        yield Obstacle("picture.range", "It uses the full range, and video is in limited range.")
    transfer = str(master.value(curve.KEY))
    if transfer in CARRIED and request.values.get(curve.KEY, STANDARD) != transfer:
        meant = f"Its transfer is {transfer}, and standard range is meant."
        yield Obstacle(curve.KEY, meant)


def _even_enough(master: Facts, making: PictureMaking | None, wrapper: str) -> bool:
    """Say whether coded frames have the bytes that a kind of wrapper wants of all."""
    model = making.sizes.get(wrapper) if making is not None else None
    size, rate = master.value("picture.size"), master.fraction("motion.rate")
    if not isinstance(model, FixedPerFrame) or size is None or not rate:
        return True
    pixels = Pixels(
        str(master.value("picture.chroma")), int(master.value("picture.bit_depth") or 8)
    )
    order = field_order(master.value("motion.field_order"))
    held = model.sizes(str(master.value("picture.profile")), Frame(size, rate, order, pixels))
    return master.value("picture.bit_rate") in {int(8 * bytes * rate) for bytes in held}


def _loose(request: Request) -> Iterator[Obstacle]:
    """List what keeps coded frames from being put elsewhere one by one."""
    master = request.whole
    if request.span is None and master.value("motion.starts_on_key") is False:
        leans = "Its first coded frame leans on one that is not there."
        yield Obstacle("motion.starts_on_key", leans, True)
    if master.value("motion.steady") is False:
        yield Obstacle("motion.steady", "Its frames do not all last equally long.", True)
    if master.value("motion.hidden_frames"):
        hidden = "An edit list hides some of its coded frames; a copy would show them."
        yield Obstacle("motion.hidden_frames", hidden, True)
    if master.value("motion.timed") is False:
        yield Obstacle("motion.timed", "Not every coded frame says when it is shown.", True)


def _range(request: Request) -> Iterator[Obstacle]:
    span, cut = request.span, request.cut
    if request.left_out:
        yield Obstacle("motion.frames", "Ranges are joined, which needs encoding.", True)
        return
    if span is None or request.whole.value("motion.intra_only") is True:
        return
    if cut is None:
        yield Obstacle("motion.frames", UNSOUGHT, True)
    elif (span.first, span.frames) != (cut.first, cut.frames):
        yield Obstacle("motion.frames", "The range begins or ends between its key frames.")


def _counted(master: Facts) -> bool:
    wanted = ("motion.frames", "motion.rate", "picture.bit_rate", "picture.size")
    return all(master.value(key) for key in wanted)


def _too_much(request: Request) -> str | None:
    cap, whose = size_cap(request.values, request.share)
    size = _bytes(request)[1]
    if cap is None or size < cap:
        return None
    return f"Its coded frames alone have {show_bytes(size)}, and {whose} is {show_bytes(cap)}."


def _bytes(request: Request) -> tuple[int, int, int]:
    """Give the bytes of the coded frames, as (least, expected, most)."""
    whole, rate = request.whole, request.master.fraction("motion.rate") or Fraction(25)
    frames = int(request.master.value("motion.frames"))
    if request.span is not None and request.cut is not None:
        frames = request.cut.frames
    expected = int(Fraction(whole.value("picture.bit_rate")) * frames / rate / 8)
    if request.span is not None or whole.fact("picture.bit_rate").measured is None:
        return expected // FACTOR, expected, FACTOR * expected
    return max(0, expected - HEADS * frames), expected, expected + HEADS * frames


def _copy(request: Request, row: PictureCodec) -> CopiedPicture:
    master = request.whole
    profile = str(master.value("picture.profile") or "")
    known = row.profile(profile)
    intra = row.intra or master.value("motion.intra_only") is True
    return CopiedPicture(
        codec=row.key,
        profile=profile,
        tag=(known.tag if known is not None else "") or (row.strings or ("",))[0],
        format=plan_source(request).format,
        gop=1 if intra else int(master.value("motion.longest_gop") or 1),
        reordered=not intra and master.value("motion.b_frames") != 0,
        bytes=_bytes(request),
    )


def _sound(request: Request, wrapper: str, count: int) -> _Answer:
    chosen = request.values.ways.get("sound")
    tracks = _tracks(request, count)
    facts = request.all_sound
    rows = [formats.SOUND.get(str(facts.value(track_key("sound.codec", n)))) for n in tracks]
    place = formats.WRAPPERS[wrapper]
    counts = [int(facts.value(track_key("sound.channels", n)) or 0) for n in tracks]
    few = all(count <= place.channels for count in counts)
    if place.one_track:
        few = len(counts) == 1 and counts[0] in place.one_track
    known = [row for row in rows if row is not None and few and wrapper in formats.made_in(row)]
    if not tracks or len(known) < len(rows):
        if chosen != "copied":
            return _Answer()
        away = f"It has no place in {formats.label(wrapper)} here as it is, track by track."
        return _Answer(notes=insisted("Sound", Obstacle("sound.codec", away, bars=True)))
    obstacles = list(_sound_obstacles(request, known, tracks, wrapper))
    way, notes = decide("Sound", chosen, obstacles)
    if way == "encoded":
        return _Answer(True, way, notes)
    labels = " and ".join(dict.fromkeys(row.label for row in known))
    said = step(f"{labels} sound copied", why_copied(obstacles), "sound.codec", "sound.bit_rate")
    streams = tuple(_copied(facts, row, n) for row, n in zip(known, tracks, strict=True))
    return _Answer(True, way, said + notes, streams=streams)


def _tracks(request: Request, count: int) -> list[int]:
    """List the tracks that could be copied: the one that is wanted, or all."""
    every = list(range(1, int(request.all_sound.value("sound.tracks") or 0) + 1))
    if count == len(every) and request.tracks in (None, [], every):
        return every
    return request.tracks or [] if count == 1 and len(request.tracks or []) == 1 else []


def _sound_obstacles(
    request: Request, rows: Sequence[SoundCodec], tracks: Sequence[int], wrapper: str
) -> Iterator[Obstacle]:
    master = request.master if len(tracks) == 1 else request.all_sound
    facts = master.with_values("measured", {"sound.tracks": len(tracks)})
    yield from _taken_faster(request, beside=request.laying is not None)
    yield from _led(request)
    yield from corrected(facts, SOUND)
    yield from otherwise(request, SOUND)
    as_mixed = request.values.loudness == "untouched"
    for obstacle in unjudged(request, SOUND, facts):
        if not (as_mixed and obstacle.row in LEVELS):
            yield obstacle
    asked = any(request.spec.on(key) for key in LEVELS)
    if asked and not as_mixed and all(master.value(key) is None for key in LEVELS):
        yield Obstacle(LEVELS[0], "Its loudness is not known yet.")
    for row in dict.fromkeys(row.key for row in rows):
        yield from unasked(request, "sound.codec", row, *formats.USUAL_SOUND)
    if any(row.plain for row in rows) and formats.WRAPPERS[wrapper].browsers:
        yield Obstacle("sound.codec", "Hardly a player takes plain samples there.")
    yield from _remixed(request)
    if request.span is not None:
        yield Obstacle("sound.start_offset", "Sound of a range is cut to the sample.", True)
    for key, apart in _apart(facts, tracks).items():
        # Sound alone has no place to say that it begins late.
        if apart > (APART if formats.WRAPPERS[wrapper].picture else 0):
            yield Obstacle(key, "It does not begin and end with the picture.")


def _remixed(request: Request) -> Iterator[Obstacle]:
    if request.values.mix:
        yield Obstacle("sound.layout", "Its channels are mixed, which needs encoding.", True)
    if request.channels is not None:
        yield Obstacle("sound.channels", "Only some of its channels go out.", True)


def _apart(facts: Facts, tracks: Sequence[int]) -> dict[str, Fraction]:
    """Give by how much sound begins, and ends, beside the picture at most."""
    return {
        key: max(abs(facts.fraction(track_key(key, n)) or Fraction(0)) for n in tracks)
        for key in ("sound.start_offset", "sound.length_difference")
    }


def _copied(facts: Facts, row: SoundCodec, track: int) -> CopiedSound:
    def fact(name: str) -> object:
        return facts.value(track_key(f"sound.{name}", track))

    rate, channels = int(str(fact("sample_rate"))), int(str(fact("channels")))
    made = SoundFormat(sample_rate=rate, layout=str(fact("layout") or ""), channels=channels)
    known = fact("bit_rate")
    bits = int(str(known)) if known is not None else None
    return CopiedSound(
        track=track, codec=row.key, format=made, rate=row.rate_of(rate, channels, bits)
    )
