"""Routes: the API, the application's files, and the single page for everything else."""

import sys

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import URLPattern, URLResolver, path, re_path
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe

from zugzwang.api.problems import answer, of_storage
from zugzwang.api.reports import read_report
from zugzwang.api.routes import api


@require_safe
@never_cache
def application(request: HttpRequest) -> HttpResponse:
    """The single page; its router reads the address."""
    index = settings.WEB_DIST / "index.html"
    if not index.is_file():
        return HttpResponse("The front end is not built yet: run `make setup`.", status=503, content_type="text/plain")
    return HttpResponse(index.read_bytes(), content_type="text/html; charset=utf-8")


def no_such_call(request: HttpRequest) -> HttpResponse:
    return answer(404, f"There is nothing at {request.path}.")


urlpatterns: list[URLPattern | URLResolver] = [
    path("api/", api.urls),
    re_path(r"^api(?:/|$)", no_such_call),
    path("read/<str:token>", read_report),
    re_path(r"^(?!static/).*$", application),
]


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    return answer(400, "The request is not one that a browser would send.")


def broken(request: HttpRequest) -> HttpResponse:
    result = of_storage(sys.exc_info()[1])
    if result is not None:
        return result
    return answer(500, "Something went wrong. Nothing was changed.", "Try again; if it stays so, look at the server's log.")


handler400, handler500 = bad_request, broken
