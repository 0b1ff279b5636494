"""The codec library's own words: they go to standard error from its own code, never through the
interpreter.

A decoder thread that logged through the interpreter would wait for it, while it may be waiting for
that very thread.
"""

from __future__ import annotations

END = "\x1e"
"""A line of its own that ends the words of one request (the record separator of ASCII)."""


def to_standard_error() -> None:
    """Let the library write its errors to standard error."""
    # Imported here: whoever only listens needs no codec library.
    import av

    av.logging.set_level(None)
    av.logging.set_skip_repeated(False)  # what is wrong with two files alike is said of both
    av.logging.restore_default_callback()
    av.logging.set_libav_level(av.logging.ERROR)
