"""What a route does to the frame: which part of the master's is seen, and where it comes to lie."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

from ..units.geometry import Rect
from .steps import Crop, LinesAbove, Pad, PictureFormat, PictureStep, Scale, Turn
from .streams import AnyPicture, MadePicture


@dataclass(frozen=True)
class Framed:
    """How a picture is framed.

    Attributes:
        master: the upright master's picture.
        crop: what is seen of it, in its samples.
        place: where that lies in the frame made, in its samples.
        made: the picture that is made.
    """

    master: PictureFormat
    crop: Rect
    place: Rect
    made: PictureFormat

    def shape(self, active_width: int | None = None) -> Fraction:
        """Give the shape of the frame made, width by height as shown; `active_width` are the
        samples that it is spread over, where they are not all.
        """
        size = self.made.picture_size
        return Rect(0, 0, active_width or size.width, size.height).shape(self.made.pixel_aspect)

    @property
    def roundness(self) -> Fraction:
        """Give a circle's width by its height as shown: 1 where circles stay round."""
        return self.place.shape(self.made.pixel_aspect) / self.crop.shape(self.master.pixel_aspect)


def framed(picture: AnyPicture, frame: int | None = None) -> Framed:
    """Follow a picture through the steps that move its samples, as they move those of a frame of
    its master's file; with none, those of most.
    """
    steps: tuple[PictureStep, ...] = ()
    if isinstance(picture, MadePicture):
        steps = picture.ways[0 if frame is None else picture.way(frame)]
    start = picture.source if isinstance(picture, MadePicture) else picture.format
    now = upright = start
    crop = place = _whole(start)
    for step in steps:
        now = step.after(now)
        if isinstance(step, Turn):
            upright, crop, place = now, _whole(now), _whole(now)
        elif isinstance(step, Crop):
            crop = Rect(step.x, step.y, step.width, step.height)
        place = _placed(step, place, now)
    return Framed(upright, crop, place, now)


def _placed(step: PictureStep, place: Rect, now: PictureFormat) -> Rect:
    if isinstance(step, Crop | Scale):
        return _whole(now)
    if isinstance(step, Pad):
        return replace(place, x=step.x, y=step.y)
    if isinstance(step, LinesAbove):
        return replace(place, y=place.y + step.lines)
    return place


def _whole(picture: PictureFormat) -> Rect:
    return Rect(0, 0, picture.width, picture.height)
