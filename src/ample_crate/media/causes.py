"""Causes: what a library raised, turned into an error that says what is wrong and what to do."""

from __future__ import annotations

import errno
import os
import traceback

import av

from ..core.errors import AmpleError, BadMedia, NoRoom, OverLimit


def told(error: Exception, path: str) -> AmpleError:
    """Give one clear message for every cause; the traceback of what nobody foresaw stands beside
    it, among the child's words.
    """
    if isinstance(error, AmpleError):
        return error
    if not isinstance(error, av.FFmpegError | MemoryError | OSError):
        traceback.print_exception(error)
    return explained(error, path)


def explained(error: Exception, path: str) -> AmpleError:
    """Turn what a library raised into an error with a cause and a way out."""
    name = os.path.basename(path)
    number = getattr(error, "errno", None)
    if number == errno.ENOSPC:
        return NoRoom(
            "The disk is full.",
            "Free some room and run again; nothing was left under a final name.",
        )
    if number == errno.EFBIG:
        return OverLimit(
            "The file grew past its size limit.",
            "Look at the bit rate the route gives and run again.",
        )
    if isinstance(error, MemoryError) or number == errno.ENOMEM:
        return OverLimit(
            f"'{name}' needs more memory than a child process may use.",
            "The header may claim a picture larger than it is; ask for a sound file.",
        )
    if number == errno.EACCES:
        return BadMedia(
            f"'{name}' may not be read.", "Give the application read access to the file."
        )
    if isinstance(error, FileNotFoundError):
        return BadMedia(
            f"'{name}' is not there any more.", "Put the file back, or hand it in again."
        )
    if isinstance(error, av.InvalidDataError):
        return BadMedia(
            f"'{name}' is not a readable media file: its bytes follow no format that can be read.",
            "Check that it is whole and what it says it is, and hand it in again.",
        )
    if isinstance(error, av.FFmpegError):
        return BadMedia(
            f"'{name}' could not be worked on: {error.strerror or error}.",
            "Its own words tell more; hand in the file again, or change the route.",
        )
    return AmpleError(
        f"Something unforeseen went wrong with '{name}'.",
        "Its own words, kept with the run and in the worker's log, tell more.",
    )
