"""What is done to a picture behind its filters, in the very samples that the encoder gets: levels
brought within limits, frames made between two for another rate, marks burnt in.
"""

from __future__ import annotations

from collections.abc import Callable

from av.video.frame import VideoFrame

from ..core.planning.places import BETWEEN, about
from ..core.planning.steps import Compensate, Legalise, PictureStep
from ..core.planning.streams import MadePicture, picture_after
from .blending import Blender, mixed
from .burning import Burner, copied
from .compensating import Compensator, between
from .legalising import legalised

BEHIND = BETWEEN | Legalise  # steps that no filter does; they are the last


def filtered(steps: tuple[PictureStep, ...]) -> tuple[PictureStep, ...]:
    """Leave out what no filter does."""
    return tuple(step for step in steps if not isinstance(step, BEHIND))


class Finishing:
    """Finishes the frames of a picture, in order.

    Args:
        made: the picture.
    """

    def __init__(self, made: MadePicture) -> None:
        blend = next((step for step in made.steps if isinstance(step, BETWEEN)), None)
        rest = filtered(made.steps)
        others = [one.model_copy(update={"steps": filtered(one.steps)}) for one in made.reframed]
        update = {"steps": rest, "reframed": tuple(others), "burnt": None}
        self.filtered = made.model_copy(update=update)
        self._have = picture_after(made.source, rest).rate
        self._format = made.format
        self._followed = isinstance(blend, Compensate)
        maker = Compensator if self._followed else Blender
        self._blender = None if blend is None else maker(self._have, made.format)
        self._burner = None if made.burnt is None else Burner(made.format, made.burnt)
        self._legal = any(isinstance(step, Legalise) for step in made.steps)
        self._place = 0

    def push(self, frame: VideoFrame) -> list[VideoFrame]:
        """Take the next frame that the filters give, and give those that are finished."""
        frame = self._within(frame)
        return [frame] if self._blender is None else self._blender.push(frame)

    def finish(self) -> list[VideoFrame]:
        """Give the rest."""
        return [] if self._blender is None else self._blender.finish()

    def marked(self, frame: VideoFrame, place: int, again: bool = False) -> VideoFrame:
        """Burn in what is burnt in.

        Args:
            frame: finished otherwise; it is changed.
            place: of it in the programme.
            again: whether the same frame is used again, and stays as it is.
        """
        if self._burner is None:
            return frame
        return self._burner.burn(copied(frame) if again else frame, place)

    def at(self, place: int, filtered: Callable[[int], VideoFrame]) -> VideoFrame:
        """Give the finished frame at a place.

        Args:
            place: of it in the programme.
            filtered: gives the frame at a place that the filters give, of which none are kept.
        """
        if self._blender is None:
            return self.marked(self._within(filtered(place)), place)
        if self._followed:
            shown = between(place, self._have, self._format, lambda n: self._within(filtered(n)))
            return self.marked(shown, place)
        first, share = about(place, self._have, self._format.rate)
        one = copied(self._within(filtered(first)))
        other = self._within(filtered(first + 1)) if share else one
        return self.marked(mixed(one, other, share, self._format), place)

    def _within(self, frame: VideoFrame) -> VideoFrame:
        return legalised(frame, self._format) if self._legal else frame
