"""The application, as a client of its addresses sees it."""

import pytest
from fastapi.testclient import TestClient

from tests.conftest import NOON
from tin_bucket.engine.clock import SetClock
from tin_bucket.web.app import create_app


@pytest.fixture
def client(workspace):
    with TestClient(create_app(workspace, clock=SetClock(NOON)), base_url="http://127.0.0.1") as made:
        yield made
