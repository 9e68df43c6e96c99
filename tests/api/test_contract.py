"""The contract, from which the front end's types are made."""

import pytest

from ulvet.api.app import create_app
from ulvet.core.recipe.union import step_kinds


@pytest.fixture(scope="module")
def schemas(tmp_path_factory):
    return create_app(tmp_path_factory.mktemp("folder")).openapi()["components"]["schemas"]


def test_every_kind_of_step_is_in_it_with_all_its_fields(schemas):
    for kind, model in step_kinds().items():
        said = schemas.get(model.__name__) or schemas[f"{model.__name__}-Output"]
        assert said["properties"].keys() == model.model_fields.keys(), kind
        assert said["properties"]["kind"]["const"] == kind


def test_what_is_recorded_and_what_a_remedy_adds_are_steps_of_those_kinds(schemas):
    for where in (schemas["StepSentence"]["properties"]["step"], schemas["AddSteps"]["properties"]["steps"]["items"]):
        assert where["discriminator"]["mapping"].keys() == step_kinds().keys()
