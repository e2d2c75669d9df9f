"""The one format for HTTP errors: problem details after RFC 9457 (application/problem+json)."""

import json
import re
from collections.abc import Callable
from difflib import get_close_matches
from http.client import responses
from typing import Any, cast
from urllib.parse import urlsplit

from django.conf import settings
from django.contrib.auth.models import User
from django.db import DatabaseError, DataError
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.openapi.schema import REF_TEMPLATE, OpenAPISchema
from ninja.operation import Operation
from ninja.router import BoundRouter

from zugzwang.access import Actor
from zugzwang.bounded import LimitReached, person
from zugzwang.data.storage_errors import storage_words
from zugzwang.errors import Busy, Conflict, FileRefused, Invalid, NotAllowed, NotFound, ProductError, TooMany


class FieldProblem(Schema):
    field: str
    message: str


class FileProblem(Schema):
    line: int | None
    column: str
    value: str
    message: str
    remedy: str


class Problem(Schema):
    """The body of every response with a status of 400 or more."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str = ""
    remedy: str = ""
    fields: list[FieldProblem] = []
    problems: list[FileProblem] = []


# Statuses that every call may return in addition to its own.
STATUSES = (400, 401, 403, 404, 409, 413, 422, 429, 503)


class Api(NinjaAPI):
    """The API. Every operation may return a problem, which is declared here once: a model for each status of each operation
    took half of every command's start-up time.
    """

    def _get_bound_routers(self) -> list[BoundRouter]:
        is_new = self._bound_routers_cache is None
        routers = super()._get_bound_routers()
        for operation in (one for router in routers for view in router.path_operations.values() for one in view.operations):
            if is_new:
                operation.run = _with_known_parameters(operation)  # type: ignore[method-assign]
        return routers

    def get_openapi_schema(self, **result: Any) -> OpenAPISchema:
        schema = super().get_openapi_schema(**result)
        described = Problem.model_json_schema(ref_template=REF_TEMPLATE, mode="serialization")
        schema["components"]["schemas"] |= described.pop("$defs") | {"Problem": described}
        content = {self.renderer.media_type: {"schema": {"$ref": REF_TEMPLATE.format(model="Problem")}}}
        schema["components"]["responses"] = {
            str(status): {"description": responses[status], "content": content} for status in STATUSES
        }
        for operation in (operation for path in schema["paths"].values() for operation in path.values()):
            _describe(operation)
            for status in STATUSES:
                operation["responses"].setdefault(status, {"$ref": f"#/components/responses/{status}"})
        _share_parameters(schema)
        return schema


def _describe(operation: dict[str, Any]) -> None:
    """A plain id, a tag and a summary: the function's name, its module, and the first sentence of its docstring."""
    module, _, name = operation["operationId"].removeprefix("zugzwang_api_").partition("_")
    if operation["operationId"].startswith("zugzwang_api_"):
        operation["operationId"] = name
        operation["summary"] = operation.get("description", "").partition("\n\n")[0].replace("\n", " ").rstrip(".")
    operation["tags"] = [TAGS.get(module, "Findings")]


def _share_parameters(schema: OpenAPISchema) -> None:
    """Declare each parameter once, as a component: the fields of a view are those of a hundred operations."""
    shared: dict[str, dict[str, Any]] = {}
    names: dict[str, str] = {}
    for operation in (operation for path in schema["paths"].values() for operation in path.values()):
        for index, parameter in enumerate(operation.get("parameters", [])):
            text = json.dumps(parameter, sort_keys=True)
            if text not in names:
                name = parameter["name"]
                while name in shared:
                    name += "_"
                names[text], shared[name] = name, parameter
            operation["parameters"][index] = {"$ref": f"#/components/parameters/{names[text]}"}
    schema["components"]["parameters"] = shared


# The module of an operation → how the documentation groups it.
TAGS = {
    "people": "People", "intake": "Data", "routes": "Sites", "subjects": "Pages and queries", "plan": "Plan",
    "drafts": "Drafts", "trials": "Tests", "reports": "Reports", "watching": "Operation",
}  # fmt: skip
TITLES = {
    400: "The request cannot be read",
    401: "Sign in first",
    403: "Not allowed",
    404: "Not found",
    405: "Method not allowed",
    409: "Not possible in the current state",
    413: "Too large",
    422: "The request has an error",
    429: "Too many requests",
    500: "Something broke here",
    503: "Busy",
}
STATUS_OF: dict[type[ProductError], int] = {
    NotFound: 404,
    NotAllowed: 403,
    Invalid: 422,
    Conflict: 409,
    FileRefused: 422,
    Busy: 503,
    TooMany: 429,
    LimitReached: 422,
}


def actor(request: HttpRequest) -> Actor:
    """The actor of a request, for use cases to check; bounded work is queued under this person's name."""
    person.set(f"user {request.user.pk}")
    return Actor(cast(User, request.user), getattr(request, "personal_token", None))


def _with_known_parameters(operation: Operation) -> Callable[..., HttpResponseBase]:
    """Reject unknown query parameters: ignoring a misspelt one would answer a different question."""
    known = sorted({name for model in operation.models if model.__ninja_param_source__ == "query"
                    for name in model.__ninja_flatten_map__})  # fmt: skip
    run = operation.run

    def checked(request: HttpRequest, **values: Any) -> HttpResponseBase:
        unknown = next((name for name in request.GET if name not in known), None)
        if unknown is None:
            return run(request, **values)
        near = get_close_matches(unknown, known, 1)
        remedy = f"Did you mean “{near[0]}”?" if near else f"Parameters: {', '.join(known) or 'none'}."
        fields = [FieldProblem(field=unknown[:100], message="There is no such parameter.")]
        return answer(422, f"There is no parameter “{unknown[:100]}”.", remedy, fields=fields)

    return checked


def answer(status: int, detail: str = "", remedy: str = "", **more: Any) -> HttpResponse:
    problem = Problem(title=TITLES.get(status, "Not possible"), status=status, detail=detail, remedy=remedy, **more)
    return JsonResponse(problem.model_dump(), status=status, content_type="application/problem+json")


def csrf_refused(request: HttpRequest, reason: str = "") -> HttpResponse:
    return answer(403, "The request came from another site.", "Reload the page and try again.")


def locked_out(request: HttpRequest, *_: object, **__: object) -> HttpResponse:
    return answer(429, "Too many wrong passwords.", "Wait fifteen minutes, then try again.")


def own_origin(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: block changes requested by other sites. A browser names the origin of a request (Origin, else
    Sec-Fetch-Site). A client that names none is a program, and sends JSON, which another site's form cannot. In addition,
    requests with a session must return its token (ninja's session authentication).
    """

    def middleware(request: HttpRequest) -> HttpResponse:
        if request.method in SAFE or not request.path.startswith("/api/") or _is_own(request):
            return get_response(request)
        return csrf_refused(request)

    return middleware


SAFE = ("GET", "HEAD", "OPTIONS", "TRACE")


def _is_own(request: HttpRequest) -> bool:
    if request.headers.get("Authorization", "").lower().startswith("bearer "):
        return True  # a header that other sites cannot send without asking
    origin = request.headers.get("Origin")
    if origin is not None:
        return urlsplit(origin).netloc == request.get_host() or origin in settings.CSRF_TRUSTED_ORIGINS
    if request.headers.get("Sec-Fetch-Site", "same-origin") not in ("same-origin", "none"):
        return False
    # A form cannot send a request without a body, except for the session's own token.
    return request.content_type in ("application/json", "multipart/form-data") or not request.META.get("CONTENT_LENGTH")


_NO_ID = re.compile(r"/\d{19,}(?:/|$)")


def one_shape(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: give errors of the framework (a wrong method, say) the API's error format, and answer 404 for ids that are
    too large for any row before they reach the database.
    """

    def middleware(request: HttpRequest) -> HttpResponse:
        if request.path.startswith("/api/") and _NO_ID.search(request.path):
            return answer(404, "Nothing has this number.", "Check the list.")
        response = get_response(request)
        ours = response.get("Content-Type", "").startswith("application/problem+json")
        if response.status_code < 400 or ours or not request.path.startswith("/api/"):
            return response
        worded = answer(response.status_code, response.reason_phrase)
        if "Allow" in response:
            worded["Allow"] = response["Allow"]
        return worded

    return middleware


def of_storage(error: BaseException | None) -> HttpResponse | None:
    """The response for a locked database, a full disk or read-only storage; None for other errors."""
    words = storage_words(error)
    return None if words is None else answer(503, *words)


# Pydantic's messages in our words; others are used unchanged.
WRONG = {
    "missing": "it is needed",
    "string_too_long": "it may have {max_length} letters at most",
    "string_too_short": "it needs {min_length} letters at least",
    "too_long": "it may have {max_length} entries at most",
    "too_short": "it needs {min_length} entries at least",
    "greater_than_equal": "it must be {ge} or more",
    "greater_than": "it must be more than {gt}",
    "less_than_equal": "it must be {le} or less",
    "less_than": "it must be less than {lt}",
    "int_parsing": "it must be a whole number",
    "int_type": "it must be a whole number",
    "float_parsing": "it must be a number",
    "date_from_datetime_parsing": "it must be a day, as 2026-11-15",
    "date_parsing": "it must be a day, as 2026-11-15",
    "literal_error": "it must be one of {expected}",
    "enum": "it must be one of {expected}",
    "bool_parsing": "it must be true or false",
    "string_type": "it must be a text",
    "extra_forbidden": "unknown name",
}


def _field(wrong: dict[str, Any]) -> str:
    return ".".join(str(part) for part in wrong["loc"][1:])


def _in_words(wrong: dict[str, Any]) -> str:
    words = WRONG.get(wrong["type"])
    return words.format(**wrong.get("ctx", {})) if words else str(wrong["msg"])


def _sentence(fields: list[FieldProblem]) -> str:
    """What is wrong, one sentence a field; only the first error of each, because the rest follow from it."""
    result: dict[str, str] = {}
    for wrong in fields:
        names = [part for part in wrong.field.split(".") if not part.isdigit()]
        result.setdefault(names[-1].replace("_", " ") if names else "the request", wrong.message)
    return "; ".join(f"{name}: {message}" for name, message in result.items()) + "."


def install(api: NinjaAPI) -> None:
    """Give every error of the API this format."""

    @api.exception_handler(ProductError)
    def product_error(request: HttpRequest, error: ProductError) -> HttpResponse:
        status = next((code for kind, code in STATUS_OF.items() if isinstance(error, kind)), 409)
        more: dict[str, Any] = {}
        if isinstance(error, Invalid) and error.field:
            more["fields"] = [FieldProblem(field=error.field, message=error.message)]
        if isinstance(error, Conflict):
            more["fields"] = [FieldProblem(field=name, message=error.message) for name in error.fields]
        if isinstance(error, FileRefused):
            more["problems"] = [FileProblem(**vars(problem)) for problem in error.refusals.first]
        return answer(status, error.message, error.remedy, **more)

    @api.exception_handler(ValidationError)
    def not_valid(request: HttpRequest, error: ValidationError) -> HttpResponse:
        fields = [FieldProblem(field=_field(wrong), message=_in_words(wrong)) for wrong in error.errors]
        return answer(422, _sentence(fields), "Change that and try again.", fields=fields)

    @api.exception_handler(OverflowError)
    def too_large_a_number(request: HttpRequest, error: OverflowError) -> HttpResponse:
        return answer(422, "A number in the request is too large.", "Check the numbers in the address.")

    @api.exception_handler(DataError)
    def no_value_of_a_database(request: HttpRequest, error: DataError) -> HttpResponse:
        message = "A value in the request is too large, or a text has an invalid character."
        return answer(422, message, "Check its numbers and texts.")

    @api.exception_handler(DatabaseError)
    @api.exception_handler(OSError)
    def storage(request: HttpRequest, error: DatabaseError | OSError) -> HttpResponse:
        result = of_storage(error)
        if result is None:
            raise error
        return result

    @api.exception_handler(AuthenticationError)
    def not_signed_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        # RFC 9110, 11.6.1, and RFC 6750, 3: the response names the accepted authentication.
        refused = answer(401, "This needs a signed-in user.", "Sign in, or send a token: Authorization: Bearer zz_….")
        refused["WWW-Authenticate"] = 'Bearer realm="Zugzwang"'
        return refused

    @api.exception_handler(HttpError)
    def http_error(request: HttpRequest, error: HttpError) -> HttpResponse:
        return answer(error.status_code, str(error))
