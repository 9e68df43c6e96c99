"""Whatever is sent to the API, it answers by its contract and never with a mistake of its own."""

import httpx
import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance

from tests.api.conftest import finished
from tests.conftest import sent
from tests.depth import of_all
from ulvet.api.guard import WRITE_HEADER

HEADERS = {WRITE_HEADER: "test", "Host": "localhost"}


@pytest.fixture
def contract(served, clean_stl):
    job = sent(served, clean_stl.name, clean_stl.read_bytes()).json()
    with httpx.Client(base_url=f"{served}/api", timeout=60, headers={WRITE_HEADER: "test"}) as client:
        figure = finished(client, job)["made"]["figure"]
        finished(client, client.get(f"/figures/{figure}").json()["job"])
    # The stream of events never ends, so nothing can be said of its whole.
    return schemathesis.openapi.from_url(f"{served}/api/openapi.json").exclude(path_regex="/events$")


def test_whatever_is_sent_is_answered_by_the_contract(contract):
    operations = [found.ok() for found in contract.get_all_operations()]
    assert len(operations) > 20
    for operation in operations:

        @given(case=operation.as_strategy())
        @settings(max_examples=of_all(15), deadline=None, suppress_health_check=list(HealthCheck), derandomize=True)
        def answered(case):
            answer = case.call(headers=HEADERS, timeout=60)
            case.validate_response(answer, checks=[not_a_server_error, response_schema_conformance])

        answered()
