"""What a master's picture is taken to be, before anything is done to it."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from .. import formats
from ..errors import Impossible
from ..facts import Facts
from ..facts.properties import lookup
from ..formats import colour
from ..formats.pixels import RGB
from ..units.fields import FieldOrder, field_order
from ..units.values import Size
from . import programme
from .notes import NOTHING, Notes, caution, in_all, step
from .plan import Clock, Input
from .request import USUAL_RATE, Request, positive
from .steps import PictureFormat


@dataclass(frozen=True)
class Source:
    """A master's picture, and how its file is read."""

    format: PictureFormat
    input: Input
    notes: Notes

    @property
    def uneven(self) -> bool:
        """Say whether its frames do not last equally long."""
        return self.input.clock == "uneven"


def plan_source(request: Request) -> Source:
    """Say what the master's picture is taken to be.

    Raises:
        Impossible: it has none.
    """
    master = request.master
    size, rate = master.value("picture.size"), master.fraction("motion.rate")
    if programme.still(master):
        rate = positive(request.values.get("motion.rate", USUAL_RATE), "frame rate")
    if size is None or rate is None:
        raise Impossible(
            "The master has no moving picture.", "Hand in a master with picture for this spec."
        )
    matrix, unsaid = _matrix(master, size)
    whole, as_frames = _fields(master)
    notes = in_all(
        _steadiness(master, rate),
        unsaid,
        _matrix_known(matrix),
        _primaries(str(master.value("picture.primaries") or matrix)),
        _disagreements(master),
        as_frames,
        _joined(request, _clock(master)),
    )
    clock, speed = _clock(master), request.speed.times
    taken = Input(
        rate=rate, first=request.first, clock=clock, speed=speed, left_out=request.left_out
    )
    return Source(_format(master, size, rate, matrix, whole), taken, notes)


def format_of(still: Facts) -> PictureFormat:
    """Say what a picture is taken to be of which one frame is seen.

    Raises:
        Impossible: there is none.
    """
    size = still.value("picture.size")
    if size is None:
        raise Impossible("The file has no picture.", "Choose one that has.")
    rate = still.fraction("motion.rate") or USUAL_RATE
    return _format(still, size, rate, _matrix(still, size)[0], whole=False)


def _format(master: Facts, size: Size, rate: Fraction, matrix: str, whole: bool) -> PictureFormat:
    stored, aspect = _as_stored(master, size)
    chroma = str(master.value("picture.chroma") or "")
    order = field_order(master.value("motion.field_order"))
    interlaced = master.value("motion.scan") == "interlaced" and not whole
    transfer = str(master.value("picture.transfer"))
    return PictureFormat(
        width=stored.width,
        above=formats.interval_lines(master.value("picture.codec"), size),
        height=stored.height,
        pixel_aspect=aspect,
        rate=rate,
        fields=(order or FieldOrder.UPPER) if interlaced else None,
        colour=colour.colour_of(matrix, stored.height),
        transfer=transfer if transfer in colour.CARRIED else "",
        # R'G'B' in limited range is told from the full one by nobody.
        full_range=master.value("picture.range") == "full" or chroma == RGB,
        chroma=chroma,
        depth=int(master.value("picture.bit_depth") or 0),
        alpha=bool(master.value("picture.alpha")),
    )


def _as_stored(master: Facts, size: Size) -> tuple[Size, Fraction]:
    """Give size and pixel aspect as they lie in the file: before the picture is set upright."""
    aspect = master.fraction("picture.pixel_aspect") or Fraction(1)
    if programme.turned(master) in {90, 270}:
        return Size(size.height, size.width), 1 / aspect
    return size, aspect


def _clock(master: Facts) -> Clock:
    steady, fact = master.value("motion.steady"), master.fact("motion.rate")
    if steady is False:
        return "uneven"
    if fact.assumed is not None and fact.assumed != (fact.measured or fact.declared):
        return "given"
    return "even" if master.fact("motion.steady").measured is True else "unknown"


def _joined(request: Request, clock: Clock) -> Notes:
    """Say where ranges cannot be joined: what is left out of the sound goes by the picture's
    clock.
    """
    if not request.left_out or clock not in ("uneven", "unknown"):
        return NOTHING
    return caution(
        "motion.steady",
        "Its ranges cannot be joined.",
        "Its frames are not known to last equally long, and sound is cut where they begin.",
        f"{len(request.left_out) + 1} ranges",
        "Deliver each range by itself, or join them in a master of constant rate.",
        blocks=True,
    )


def _steadiness(master: Facts, rate: Fraction) -> Notes:
    if master.value("motion.steady") is not False:
        return NOTHING
    fact = master.fact("motion.rate")
    average = float(fact.measured or fact.declared or fact.value)  # type: ignore[arg-type]
    return caution(
        "motion.steady",
        "The master's frames do not all last equally long.",
        "They are put on an even clock: some frames repeat, some are dropped.",
        f"{average:.3f} fps on average, taken as {float(rate):.5g}",
        "Ask for a master of constant rate, or correct its rate if it is another.",
    )


def usual_matrix(size: Size) -> str:
    """Give the matrix that is usual at a size: high definition has BT.709 (common practice)."""
    return "BT.709" if size.height > 576 else "BT.601"


def _matrix(master: Facts, size: Size) -> tuple[str, Notes]:
    stated = master.value("picture.matrix")
    if stated is None and master.value("picture.chroma") == RGB:
        return usual_matrix(size), NOTHING  # it has none: what is made of it has
    if stated is not None:
        return str(stated), NOTHING
    matrix = usual_matrix(size)
    return matrix, caution(
        "picture.matrix",
        "The master does not say its colour matrix.",
        f"{matrix} is taken, as is usual at this size; if that is wrong, hues shift.",
        str(size),
        "Ask the house that made it, or compare a known colour.",
    )


def _matrix_known(matrix: str) -> Notes:
    if matrix in colour.CONVERTED:
        return NOTHING
    return caution(
        "picture.matrix",
        f"The master's colour matrix is {matrix}.",
        "What turns it into another is not made here; taken for BT.709 every hue would shift.",
        f"matrix {matrix}",
        "Ask for a BT.709 master, or correct the matrix if the header is wrong.",
        blocks=True,
    )


def _primaries(primaries: str) -> Notes:
    if primaries in colour.CONVERTED:
        return NOTHING
    return caution(
        "picture.primaries",
        f"The master's primaries are {primaries}.",
        "They are taken as they are: on the recipient's screen colours look duller or shift.",
        f"primaries {primaries}",
        "Ask for a master in the recipient's primaries.",
    )


def _disagreements(master: Facts) -> Notes:
    mine = {"motion.scan", "motion.field_order", "motion.rate"}
    return in_all(*(_disagreement(master, k) for k in master.contradictions() if k in mine))


def _disagreement(master: Facts, key: str) -> Notes:
    fact, prop = master[key], lookup(key)
    show = prop.kind.show
    return caution(
        key,
        f"Header and picture disagree on the {prop.label}.",
        "The route follows what decoding shows.",
        f"header {show(fact.declared)}, measured {show(fact.measured)}",
        "Step through the fields of a moving scene before running.",
    )


def _fields(master: Facts) -> tuple[bool, Notes]:
    """Say whether what is coded in fields are whole frames.

    A person who looked at the fields is believed over what the lines seem to show.
    """
    said = {master.fact(key).provenance for key in ("motion.scan", "motion.field_order")}
    carried = master.value("motion.scan") == "interlaced"
    whole = carried and "assumed" not in said and master.value("motion.lines") == "whole frames"
    if not whole:
        return False, NOTHING
    return True, step(
        "Whole frames taken as they are",
        "The master carries frames in fields: there is nothing to deinterlace.",
        "motion.scan",
    )
