"""Quality over time: how near what a run made stays to its master, taken through the route."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core import quality as rules
from ..core.planning import stored
from ..core.quality import MEASURES, Likeness, Measure
from ..store.models import Run
from ..work import quality, reporting, sampling
from .schemas import Out
from .services import give
from .studies import Asked, StudyOut, add, standing

api = APIBlueprint("quality", __name__, url_prefix="/api/runs", abp_tags=[Tag(name="runs")])

POINTS = 800  # of a curve, more than a page is wide


class MeasureOut(Out):
    """A measure: what it is called and means, its source; of all frames the mean, what 19 in 20
    reach, and the worst; and its curve, of which each point is the lowest of its frames.
    """

    key: str
    label: str
    unit: str
    digits: int
    says: str
    source: str
    mean: float
    p5: float
    worst: float
    curve: list[float]
    foretold: float | None = Field(description="its mean, as it was foretold before the run")


class MomentOut(Out):
    """A moment at which the picture suffers most: a frame of the file, and its figures by
    measure.
    """

    frame: int
    timecode: str
    figures: dict[str, float]


class QualityOut(StudyOut):
    """A comparison and where it stands; `state` is "none" where there never was one. Of so many
    frames, which begin at frame `first` of the file; `each` is how many a point of a curve stands
    for, `seconds` what it took.
    """

    frames: int
    first: int
    identical: int
    each: int
    seconds: float
    measures: list[MeasureOut]
    worst: list[MomentOut]
    notes: list[str]
    interlaced: bool = Field(description="whether the file's frames are two fields each")
    alpha: bool = Field(description="whether the file carries transparency")


def _given(session: Session, run: Run) -> Response:
    row = quality.of(session, run)
    found = None if row is None or row.found is None else Likeness.from_json(row.found)
    frames = 0 if found is None else found.frames
    plan = stored.route_of(run.route).plan
    picture = plan.picture if plan is not None else None
    return give(
        QualityOut(
            **standing(row),
            frames=frames,
            first=0 if found is None else found.of_file(0),
            identical=0 if found is None else found.identical,
            each=rules.stretch(frames, POINTS),
            seconds=0.0 if found is None else found.seconds,
            measures=[] if found is None else _measures(found, sampling.foretold(session, run)),
            worst=[] if found is None else _worst(found, run),
            notes=[] if found is None else list(found.notes),
            interlaced=picture is not None and picture.format.fields is not None,
            alpha=picture is not None and picture.format.alpha,
        )
    )


def _measures(found: Likeness, foretold: Mapping[str, float]) -> list[MeasureOut]:
    figures = rules.summary(found.of_programme)
    return [_measure(MEASURES[key], found, figures[key], foretold.get(key)) for key in figures]


def _measure(
    measure: Measure, found: Likeness, figures: dict[str, float], foretold: float | None
) -> MeasureOut:
    return MeasureOut(
        key=measure.key,
        label=measure.label,
        unit=measure.unit,
        digits=measure.digits,
        says=measure.says,
        source=measure.source,
        curve=rules.lows(found.curves[measure.key], POINTS),
        foretold=None if foretold is None else round(foretold, measure.digits + 1),
        **figures,
    )


def _worst(found: Likeness, run: Run) -> list[MomentOut]:
    return [
        MomentOut(
            frame=one["frame"],
            timecode=one["timecode"],
            figures={key: one[key] for key in found.curves},
        )
        for one in reporting.moments(found, run)
    ]


add(
    api,
    Asked(
        name="quality",
        of=Run,
        study=quality.STUDY,
        begin=quality.begin,
        given=_given,
        out=QualityOut,
        shows="Quality over time",
        begins="Compare with the master",
        stops="Stop comparing",
    ),
)
