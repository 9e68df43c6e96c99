import httpx
import pytest

from ulvet.api.guard import WRITE_HEADER


@pytest.fixture
def client(served):
    with httpx.Client(base_url=f"{served}/api", timeout=60, headers={WRITE_HEADER: "test"}) as client:
        yield client
