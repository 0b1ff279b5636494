"""The application as gunicorn loads it: the database's address comes from $AMPLE_DATABASE."""

from __future__ import annotations

import os

from flask import Flask

from ..store.database import Database
from ..store.places import Folders
from .app import create


def application() -> Flask:
    """Make the application from the environment."""
    url = os.environ["AMPLE_DATABASE"]
    return create(Database(url), Folders.from_environment())
