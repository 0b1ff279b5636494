"""How near a deliverable stays to what its route gives of the master."""

from .figures import (
    HEADLINE,
    MEASURES,
    MOST_MOMENTS,
    RANKED,
    Figures,
    Likeness,
    Measure,
    figures,
    lows,
    moments,
    stretch,
    summary,
    worst,
)

__all__ = [
    "HEADLINE",
    "MEASURES",
    "MOST_MOMENTS",
    "RANKED",
    "Figures",
    "Likeness",
    "Measure",
    "figures",
    "lows",
    "moments",
    "stretch",
    "summary",
    "worst",
]
