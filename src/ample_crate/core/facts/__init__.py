"""What is known of a media file, property by property."""

from .facts import PROVENANCES, Fact, Facts

__all__ = ["PROVENANCES", "Fact", "Facts"]
