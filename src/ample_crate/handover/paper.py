"""A page of the report on paper, as PDF."""

from __future__ import annotations

from typing import Any

from ..core.errors import Impossible


def pdf(html: str) -> bytes:
    """Lay a page out on paper. What it shows stands in it: nothing is fetched.

    Raises:
        Impossible: this machine has no means of it.
    """
    try:
        # Large, and only wanted here; it brings in libraries of the system's.
        from weasyprint import HTML
        from weasyprint.urls import URLFetcher
    except OSError as error:
        raise Impossible(
            "This machine cannot lay out a PDF: the text layout library Pango is missing.",
            "Install Debian's libpango-1.0-0 and libpangoft2-1.0-0, or print the page.",
        ) from error
    made: Any = HTML(string=html, url_fetcher=URLFetcher(allowed_protocols=["data"])).write_pdf()
    return bytes(made)
