"""The application as gunicorn loads it: the database's address comes from $AMPLE_DATABASE."""

from __future__ import annotations

import os

from flask import Flask

from ..store.database import Database
from ..store.places import Folders
from ..work import logs
from .app import create


def application() -> Flask:
    """Make the application from the environment."""
    logs.set_up()
    url = os.environ["AMPLE_DATABASE"]
    return create(Database(url), Folders.from_environment())
