"""A client of the running house, for every test of the API."""

from __future__ import annotations

import pytest
from client import Client

from support import House


@pytest.fixture(scope="module")
def client(house: House) -> Client:
    return Client(house.address)
