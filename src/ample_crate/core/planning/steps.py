"""Conversions of a picture, one a type: what each does to its format; `sound_steps` has those of
sound.

`after` gives the format that comes out: a prediction folds the steps over the master's format.
`media.lowering` has the filters of each type. A new conversion is a type here, and its filters
there.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field

from ..formats.colour import matrix_of
from ..formats.pixels import RGB
from ..units.fields import FieldOrder
from ..units.parts import Exact, Part
from ..units.values import Size


class PictureFormat(Part):
    """A picture at one place of its way.

    Attributes:
        width, height: stored samples.
        pixel_aspect: width of a sample by its height.
        rate: frames a second; interlaced ones have two fields each.
        fields: which field is first; None for whole frames.
        colour: the set of matrix, primaries and transfer, as `colour_of` names it.
        transfer: where it is another than the set's; else empty.
        full_range: whether code values use the full range.
        chroma, depth, alpha: how samples lie; an empty chroma and a depth of 0 are not known.
        above: of its lines, those above the picture with vertical-interval data.
    """

    width: int
    height: int
    pixel_aspect: Exact = Fraction(1)
    rate: Exact
    fields: FieldOrder | None = None
    colour: str = "BT.709"
    transfer: str = ""
    full_range: bool = False
    chroma: str = ""
    depth: int = 0
    alpha: bool = False
    above: int = 0

    @property
    def size(self) -> Size:
        """Give the frame size."""
        return Size(self.width, self.height)

    @property
    def picture_size(self) -> Size:
        """Give the part of the frame that is picture."""
        return Size(self.width, self.height - self.above)

    @property
    def sample_aspect(self) -> Fraction:
        """Give the pixel aspect that makes all stored lines as wide as the picture: what files
        state where lines lie above it.
        """
        return self.pixel_aspect * Fraction(self.height, self.height - self.above)

    @property
    def matrix(self) -> str:
        """Name the colour matrix."""
        return matrix_of(self.colour)

    def having(self, **values: object) -> PictureFormat:
        """Give the same picture with other values."""
        return self.model_copy(update=values)


class ToLimitedRange(Part):
    """Code values from full to limited range."""

    kind: Literal["to limited range"] = "to limited range"

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(full_range=False)


class ToFullRange(Part):
    """Code values from limited to full range."""

    kind: Literal["to full range"] = "to full range"

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(full_range=True)


class Deinterlace(Part):
    """Whole frames from fields: one a field, or one a frame."""

    kind: Literal["deinterlace"] = "deinterlace"
    every_field: bool

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(fields=None, rate=2 * f.rate if self.every_field else f.rate)


FIELDS_MATCHED_IN = 8  # bits: what the codec library's filters for it take
FILM_OF_FIELDS = Fraction(4, 5)  # frames of film for one of two fields


class UndoPulldown(Part):
    """Frames of film found again in fields that carry them by two and three: four of five."""

    kind: Literal["undo pulldown"] = "undo pulldown"

    def after(self, f: PictureFormat) -> PictureFormat:
        depth = min(f.depth, FIELDS_MATCHED_IN) if f.depth else 0
        return f.having(fields=None, rate=f.rate * FILM_OF_FIELDS, depth=depth)


class Retime(Part):
    """Another frame rate, by repeating and dropping frames."""

    kind: Literal["retime"] = "retime"
    rate: Exact

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(rate=self.rate)


class Blend(Part):
    """Whole frames at another rate, each mixed of the two about its moment. It is the last step,
    and no filter's: `media.blending`.
    """

    kind: Literal["blend"] = "blend"
    rate: Exact

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(rate=self.rate)


FOLLOWED_IN = 8  # bits: what the codec library's filter that follows motion takes


class Compensate(Part):
    """Whole frames at another rate, each made between the two about its moment along what moves.
    As `Blend` it is the last step: `media.compensating`.
    """

    kind: Literal["compensate"] = "compensate"
    rate: Exact

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(rate=self.rate)


class Legalise(Part):
    """Levels brought within EBU R 103, softly. It is no filter's: `media.legalising`."""

    kind: Literal["legalise"] = "legalise"

    def after(self, f: PictureFormat) -> PictureFormat:
        return f


class Hold(Part):
    """A still shown for so many frames."""

    kind: Literal["hold"] = "hold"
    frames: int

    def after(self, f: PictureFormat) -> PictureFormat:
        return f


class Turn(Part):
    """Turned anticlockwise."""

    kind: Literal["turn"] = "turn"
    degrees: Literal[90, 180, 270]

    def after(self, f: PictureFormat) -> PictureFormat:
        if self.degrees == 180:
            return f
        return f.having(width=f.height, height=f.width, pixel_aspect=1 / f.pixel_aspect)


class _Resized(Part):
    """More or fewer samples, none of which changes."""

    x: int
    y: int
    width: int
    height: int

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(width=self.width, height=self.height, above=0)


class Crop(_Resized):
    """A rectangle cut out, in samples from the top left."""

    kind: Literal["crop"] = "crop"


class Scale(Part):
    """Another number of samples for the same picture."""

    kind: Literal["scale"] = "scale"
    width: int
    height: int

    def after(self, f: PictureFormat) -> PictureFormat:
        aspect = f.pixel_aspect * Fraction(f.width, self.width) * Fraction(self.height, f.height)
        return f.having(width=self.width, height=self.height, pixel_aspect=aspect)


class Pad(_Resized):
    """Black about the picture, whose top left comes to lie at `x`, `y`."""

    kind: Literal["pad"] = "pad"


class LinesAbove(Part):
    """Black lines above the picture, where others have vertical-interval data."""

    kind: Literal["lines above"] = "lines above"
    lines: int

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(height=f.height + self.lines, above=self.lines)


class PixelAspect(Part):
    """Samples called another shape: what rounding to whole samples leaves, or a stretch."""

    kind: Literal["pixel aspect"] = "pixel aspect"
    aspect: Exact

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(pixel_aspect=self.aspect)


class Colour(Part):
    """Another set of matrix, primaries and transfer.

    Attributes:
        converts: whether code values change; else the set is only called by another name.
    """

    kind: Literal["colour"] = "colour"
    to: str
    converts: bool = True

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(colour=self.to)


class ToneMap(Part):
    """High dynamic range shown in standard range (`units.tone_mapping`): BT.2020 in R'G'B'.

    Attributes:
        peak: cd/m2 of the display that it was graded on.
    """

    kind: Literal["tone map"] = "tone map"
    transfer: Literal["PQ", "HLG"]
    peak: int

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(colour="BT.2020", transfer="", chroma=RGB, depth=16, full_range=True)


class Unpremultiply(Part):
    """Colour divided by the transparency that it was multiplied by."""

    kind: Literal["unpremultiply"] = "unpremultiply"

    def after(self, f: PictureFormat) -> PictureFormat:
        return f


class Samples(Part):
    """Samples laid out for the encoder; transparency that it does not carry is dropped.

    R'G'B' uses the full range, and Y'CbCr made from it the limited one.
    """

    kind: Literal["samples"] = "samples"
    chroma: str
    depth: int
    alpha: bool = False

    def after(self, f: PictureFormat) -> PictureFormat:
        full = f.full_range
        if RGB in {self.chroma, f.chroma}:
            full = self.chroma == RGB
        return f.having(chroma=self.chroma, depth=self.depth, alpha=self.alpha, full_range=full)


class Still(Part):
    """The first picture of another file, brought to a picture's size in R'G'B' of 16 bit.

    Attributes:
        input: the file, by its place in the plan.
        source: what its picture is taken to be.
    """

    input: int
    source: PictureFormat
    steps: tuple[Samples | Crop | Scale, ...]


class Flatten(Part):
    """Transparency laid over a background, with all the colour and depth that it has.

    Attributes:
        over: "black", "white", "checker", R'G'B' of 8 bit in hexadecimal, "#204060", or "still".
        still: the picture of another file that is laid under it, if there is one.
    """

    kind: Literal["flatten"] = "flatten"
    over: str
    still: Still | None = None

    def after(self, f: PictureFormat) -> PictureFormat:
        if f.chroma == RGB:
            return f.having(alpha=False, depth=16)
        return f.having(alpha=False, chroma="4:4:4", depth=10, full_range=False)


class Interlace(Part):
    """Fields from whole frames: alternate lines of two successive ones."""

    kind: Literal["interlace"] = "interlace"
    first: FieldOrder

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(fields=self.first, rate=f.rate / 2)


class ShiftLine(Part):
    """The other field first, each at its own moment: the picture a line higher or lower."""

    kind: Literal["shift line"] = "shift line"
    first: FieldOrder

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(fields=self.first)


class SegmentedFrames(Part):
    """Whole frames carried as two fields of one moment."""

    kind: Literal["segment"] = "segment"
    first: FieldOrder

    def after(self, f: PictureFormat) -> PictureFormat:
        return f.having(fields=self.first)


PictureStep = Annotated[
    ToLimitedRange
    | ToFullRange
    | Deinterlace
    | UndoPulldown
    | Retime
    | Blend
    | Compensate
    | Legalise
    | Hold
    | Turn
    | Crop
    | LinesAbove
    | Scale
    | Pad
    | PixelAspect
    | Colour
    | ToneMap
    | Unpremultiply
    | Flatten
    | Samples
    | Interlace
    | ShiftLine
    | SegmentedFrames,
    Field(discriminator="kind"),
]
