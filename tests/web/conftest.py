"""The application, as a client of its addresses sees it."""

import pytest
from fastapi.testclient import TestClient

from tests.conftest import NOON
from tin_bucket.engine.clock import SetClock
from tin_bucket.web.app import create_app


@pytest.fixture
def client(workspace):
    with client_of(workspace, clock=SetClock(NOON)) as made:
        yield made


def client_of(workspace, **options):
    """A client that has access to a workspace."""
    headers = {"Authorization": f"Bearer {workspace.access.token}"}
    return TestClient(create_app(workspace, **options), base_url="http://127.0.0.1", headers=headers)
