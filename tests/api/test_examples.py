"""Every stateless endpoint's worked example, as the OpenAPI document gives it, really asked.

The answers stand in the examples as they were derived by hand from the formula named at the
endpoint (levers, chords of a circle, sums), or, for the fits, as regression.
"""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from vivid_arm.api.examples import EXAMPLES

PREFIX = "/api/compute/"


@pytest.mark.slow
def test_every_stateless_endpoint_has_one(client: TestClient) -> None:
    paths = client.get("/api/openapi.json").json()["paths"]
    computed = {p.removeprefix(PREFIX) for p in paths if p.startswith(PREFIX)}
    assert computed == set(EXAMPLES)
    for name in computed:
        operation = paths[PREFIX + name]["post"]
        assert operation["x-worked-example"]["asked"] == EXAMPLES[name][0]


def agrees(found: Any, told: Any) -> bool:
    """Whether an answer holds what was told of it, figures within a millionth."""
    if isinstance(told, dict):
        return all(agrees(found[k], v) for k, v in told.items())
    if isinstance(told, list):
        return len(found) == len(told) and all(map(agrees, found, told))
    if isinstance(told, float):
        return bool(found == pytest.approx(told, abs=2e-6))
    return bool(found == told)


@pytest.mark.parametrize("name", EXAMPLES)
def test_the_worked_example_gives_what_it_says(client: TestClient, name: str) -> None:
    asked, told = EXAMPLES[name]
    answer = client.post(PREFIX + name, json=asked)
    assert answer.status_code == 200, answer.text
    assert agrees(answer.json(), told), answer.json()
