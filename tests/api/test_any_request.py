"""Requests generated from the API's own schema (schemathesis): none causes an error, and every refusal has the same format."""

import json
import os
from collections.abc import Iterator
from datetime import timedelta

import pytest
import schemathesis
from django.contrib.auth.models import User
from django.core.signals import request_finished, request_started
from django.core.wsgi import get_wsgi_application
from django.db import close_old_connections
from django.test import Client
from django.utils import timezone
from hypothesis import HealthCheck, settings
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance

from tests.planted import PlantedSite
from zugzwang.access import Actor
from zugzwang.api.routes import api
from zugzwang.data.models import Membership, Site
from zugzwang.people.tokens import add_token

DOCUMENT = json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/")))
# Signing out would end the session that the rest is asked with; files have tests of their own.
# Of each route and role; `ZUGZWANG_TEST_REQUESTS=55 ZUGZWANG_TEST_ROLES=no one,reader,…` asks some 10,000 times a
# role. Owners are not among the usual, for what they alone may do has tests of its own.
EXAMPLES = int(os.environ.get("ZUGZWANG_TEST_REQUESTS", "3"))
ROLES = os.environ.get("ZUGZWANG_TEST_ROLES", "analyst,reader").split(",")
LEFT_OUT = r"/api/session$|/uploads$|/logo$|/site-archives$|/archive/file$"
CONFIG = schemathesis.Config.from_dict({"phases": {"coverage": {"enabled": False}, "examples": {"enabled": False}}})
SCHEMA = schemathesis.openapi.from_dict(DOCUMENT, config=CONFIG).exclude(path_regex=LEFT_OUT)


Sent = tuple[str, dict[str, str], dict[str, str]]


@pytest.fixture(params=ROLES)
def asking(
    request: pytest.FixtureRequest, signed_in: Client, planted: PlantedSite, site: Site, analyst: User
) -> Iterator[Sent]:
    """The caller (anonymous, reader, analyst, owner, administrator, script), with its headers and cookies."""
    role = request.param if request.param in Membership.Role.values else Membership.Role.OWNER
    Membership.objects.filter(site=site, user=analyst).update(role=role)
    User.objects.filter(id=analyst.id).update(is_superuser=request.param == "administrator")
    headers: dict[str, str] = {}
    cookies = {"sessionid": signed_in.cookies["sessionid"].value, "csrftoken": "c" * 32}
    if request.param == "token":
        _, secret = add_token(Actor(analyst), "script", [site.slug], "analyst", timezone.localdate() + timedelta(days=9))
        headers = {"Authorization": f"Bearer {secret}"}
    # As Django's own client does: the connection of a test outlives its requests.
    signals = (request_started, request_finished)
    for signal in signals:
        signal.disconnect(close_old_connections)
    yield request.param, headers, {} if request.param in ("nobody", "token") else cookies
    for signal in signals:
        signal.connect(close_old_connections)


@SCHEMA.parametrize()
@settings(max_examples=EXAMPLES, deadline=None, database=None, suppress_health_check=list(HealthCheck))
def test_any_request(case: schemathesis.Case, asking: Sent) -> None:
    who, headers, cookies = asking
    if "slug" in case.path_parameters:
        case.path_parameters["slug"] = "shop"
    own = {
        name: value
        for name, value in (case.headers or {}).items()
        if name.lower() not in ("cookie", "authorization", "accept-encoding", "x-csrftoken")
    }
    case.headers = {**own, **headers, "Accept-Encoding": "identity", "X-CSRFToken": "c" * 32}
    case.cookies = cookies
    application = get_wsgi_application()
    response = case.call(app=application, base_url="http://localhost")
    assert response.status_code < 500, response.text
    # Anyone who is someone is taken for it, so more than the door is tried.
    assert (response.status_code == 401) <= (who == "nobody" or case.path.startswith(("/api/account", "/api/invitations")))
    case.validate_response(response, checks=[status_code_conformance, response_schema_conformance])
    if response.status_code >= 400:
        assert response.headers["content-type"][0] == "application/problem+json", (
            response.status_code,
            case.method,
            response.text,
        )


def test_a_parameter_that_there_is_not_is_refused_and_the_nearest_named(signed_in: Client, site: Site) -> None:
    """Before, a misspelt filter was ignored and everything was returned."""
    for path, said, remedy in (
        ("findings/low-ctr?evidense=firm", "evidense", "Did you mean “evidence”?"),
        ("facets?first=2026-01-01", "first", "Parameters: none."),
    ):
        refused = signed_in.get(f"/api/sites/shop/{path}")
        assert refused.status_code == 422
        assert refused.json()["detail"] == f"There is no parameter “{said}”."
        assert refused.json()["remedy"] == remedy
    assert signed_in.get("/api/sites/shop/nothing-here").status_code == 404
    assert signed_in.get("/api").status_code == 404
