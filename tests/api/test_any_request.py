"""Requests made up from the API's own schema (schemathesis): none breaks it, and every refusal has the one shape."""

import json
import os
from collections.abc import Iterator

import pytest
import schemathesis
from django.contrib.auth.models import User
from django.core.signals import request_finished, request_started
from django.core.wsgi import get_wsgi_application
from django.db import close_old_connections
from django.test import Client
from hypothesis import HealthCheck, settings
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance

from tests.planted import PlantedSite
from zugzwang.api.routes import api
from zugzwang.data.models import Membership, Site

DOCUMENT = json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/")))
# Signing out would end the session that the rest is asked with; the file upload has tests of its own.
# Of each route and role; more than the usual few by `ZUGZWANG_TEST_REQUESTS`.
EXAMPLES = int(os.environ.get("ZUGZWANG_TEST_REQUESTS", "3"))
LEFT_OUT = r"/api/session$|/uploads$"
CONFIG = schemathesis.Config.from_dict({"phases": {"coverage": {"enabled": False}, "examples": {"enabled": False}}})
SCHEMA = schemathesis.openapi.from_dict(DOCUMENT, config=CONFIG).exclude(path_regex=LEFT_OUT)


@pytest.fixture(params=["analyst", "reader"])
def asking(
    request: pytest.FixtureRequest, signed_in: Client, planted: PlantedSite, site: Site, analyst: User
) -> Iterator[Client]:
    Membership.objects.filter(site=site, user=analyst).update(role=request.param)
    # As Django's own client does: the connection of a test outlives its requests.
    signals = (request_started, request_finished)
    for signal in signals:
        signal.disconnect(close_old_connections)
    yield signed_in
    for signal in signals:
        signal.connect(close_old_connections)


@SCHEMA.parametrize()
@settings(max_examples=EXAMPLES, deadline=None, database=None, suppress_health_check=list(HealthCheck))
def test_any_request(case: schemathesis.Case, asking: Client) -> None:
    if "slug" in case.path_parameters:
        case.path_parameters["slug"] = "shop"
    cookie = {"Cookie": f"sessionid={asking.cookies['sessionid'].value}"}
    case.headers = {**{k: v for k, v in (case.headers or {}).items() if k.lower() != "cookie"}, **cookie}
    case.cookies = {}
    application = get_wsgi_application()
    response = case.call(app=application, base_url="http://127.0.0.1")
    assert response.status_code < 500, response.text
    case.validate_response(response, checks=[status_code_conformance, response_schema_conformance])
    if response.status_code >= 400:
        assert response.headers["content-type"][0] == "application/problem+json", (
            response.status_code,
            case.method,
            response.text,
        )
