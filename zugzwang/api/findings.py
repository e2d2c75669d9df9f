"""All findings over HTTP. Each declaration yields a paginated list and a file to download; the catalog lists them all."""

import shutil
import tempfile
from collections.abc import Callable
from dataclasses import fields
from datetime import date
from pathlib import Path
from typing import Any, Literal, get_type_hints

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Field, Query, Router, Schema
from pydantic import BaseModel, create_model

from zugzwang import bounded
from zugzwang.api.problems import actor
from zugzwang.api.schemas import Days
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.exporting import as_table, csv_lines, json_of, xlsx_file
from zugzwang.findings import guide, methods, table, view
from zugzwang.findings.finding import NAMED, Finding
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.view import ViewOptions

router = Router()
IN_MEMORY_BYTES = 5_000_000
KINDS = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "json": "application/json",
}
_HINTS = get_type_hints(ViewOptions, include_extras=True)
_Fields: Any = create_model(
    "_Fields",
    __base__=Schema,
    **{one.name: (_HINTS[one.name], Field(one.default, description=one.metadata["words"])) for one in fields(ViewOptions)},  # type: ignore[call-overload]
)


class ViewParameters(_Fields):  # type: ignore[misc]
    """The query parameters that all findings share. Their names are those of the browser's address bar."""


class WindowParameters(ViewParameters):
    """`sort`: a column of the rows; by default the finding's own order."""

    sort: str = Field(default="", max_length=40)
    descending: bool = True
    offset: int = Field(default=0, ge=0, le=10**9)
    limit: int = Field(default=100, ge=1, le=500)
    row: str = Field(default="", max_length=200, description="the key of a row to return as well, wherever in the list it is")


class FileParameters(ViewParameters):
    format: Literal["csv", "xlsx", "json"] = "csv"


class PeriodShown(Schema):
    first: date
    last: date
    days: int
    by_day: bool
    sentence: str
    missing: str


class ComparisonShown(Schema):
    """How fair a comparison is: `days` of the period that can be compared, and the longest comparable period where those are
    too few.
    """

    sentence: str
    days: int
    fair: Days | None


class FindingAnswer(BaseModel):
    """What every finding returns with its rows. `behind`: how many rows the values were computed from. `lacking`: data that
    would allow it to say more.
    """

    period: PeriodShown
    before: PeriodShown | None
    comparison: ComparisonShown | None
    sentences: list[str]
    behind: dict[str, int]
    lacking: list[str]
    month_share: float
    total: int
    offset: int


class Facets(Schema):
    devices: list[str]
    countries: list[str]
    page_types: list[str]
    query_groups: list[str]


class MethodShown(Schema):
    """A rule in plain words: its slug, title, text and measured error rates (Markdown)."""

    name: str
    title: str
    text: str
    measured: str


class GuidePageShown(Schema):
    """A page of the user guide: its slug, title, the question it answers and its text (Markdown)."""

    name: str
    title: str
    question: str
    text: str


def row_model(finding: Finding) -> type[BaseModel]:
    """The type of a finding's rows in the API schema."""
    result: dict[str, Any] = {}
    for column in finding.columns:
        kinds = {column.name: column.python}
        if column.kind in NAMED:
            kinds[f"{column.name}_id"] = int
        for name, kind in kinds.items():
            result[name] = (kind | None, None) if column.optional else (kind, ...)
    # Not ninja's own, which handles every value like a Django model: that takes longer than finding the rows.
    return create_model(_named(finding, "Row"), __base__=BaseModel, **result)


def _named(finding: Finding, what: str) -> str:
    return "".join(word.capitalize() for word in finding.name.split("-")) + what


ROWS = {name: row_model(finding) for name, finding in FINDINGS.items()}


def options_of(payload: Schema) -> ViewOptions:
    names = ViewOptions.__dataclass_fields__
    return ViewOptions(**{name: value for name, value in payload.dict().items() if name in names})


def snapshot_of(request: HttpRequest, slug: str) -> Snapshot:
    return Snapshot(actor(request).site(slug))


def answer_to(request: HttpRequest, slug: str, finding: Finding, payload: Schema) -> table.Answer:
    return table.ask(snapshot_of(request, slug), finding, options_of(payload), timezone.localdate())


def _add(finding: Finding) -> None:
    """Add the routes of one finding."""
    more: dict[str, Any] = {name: (kind, ...) for name, kind in finding.more.items()}
    rows = ROWS[finding.name]
    listed_row = create_model(_named(finding, "ListedRow"), __base__=rows, key=(str, ...))
    picked = create_model(
        _named(finding, "PickedRow"), __base__=BaseModel, place=(int, ...), row=(listed_row, ...), example=(str, ...)
    )
    own: dict[str, Any] = {"rows": (list[listed_row], ...), "picked": (picked | None, None), **more}  # type: ignore[valid-type]
    model = create_model(_named(finding, "Answer"), __base__=FindingAnswer, **own)

    def listed(request: HttpRequest, slug: str, options: Query[WindowParameters]) -> Any:
        answer = answer_to(request, slug, finding, options)
        return answer.shown(options.sort, options.descending, options.offset, options.limit, options.row)

    def file(request: HttpRequest, slug: str, options: Query[FileParameters]) -> HttpResponse:
        return _file(actor(request).site(slug), finding, options_of(options), options.format)

    path = f"/sites/{{slug}}/findings/{finding.name}"
    routes: tuple[tuple[str, Callable[..., Any], Any, str], ...] = (
        (path, listed, model, "list"), (f"{path}/file", file, str | dict[str, Any], "file")
    )  # fmt: skip
    for address, act, response, what in routes:
        name = f"{what}_{finding.name.replace('-', '_')}"
        router.get(address, response={200: response}, operation_id=name, summary=finding.question)(act)


for _finding in FINDINGS.values():
    _add(_finding)


def _file(site: Site, finding: Finding, options: ViewOptions, kind: str) -> HttpResponse:
    """A finding's complete rows as a file. It is written in a bounded process, because lists can be long, and streamed from
    disk.
    """
    folder = Path(tempfile.mkdtemp(dir=settings.DATA_DIR, prefix=".export-"))
    try:
        until = bounded.run(bounded.EXPORT, _write, site.id, finding.name, options, timezone.localdate(), kind, folder / "file")
        return sent(folder / "file", f"{site.slug}-{finding.name}-{until}.{kind}", KINDS[kind])
    finally:
        shutil.rmtree(folder)  # the response closes the file


def sent(path: Path, name: str, kind: str) -> HttpResponse:
    """A file to download; large files are streamed from disk."""
    if path.stat().st_size > IN_MEMORY_BYTES:
        return FileResponse(path.open("rb"), as_attachment=True, filename=name, content_type=kind)  # type: ignore[return-value]
    disposition = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(path.read_bytes(), content_type=kind, headers=disposition)


def _write(site: int, finding: str, options: ViewOptions, today: date, kind: str, out: Path) -> str:
    """Write the file and return the last day of its period."""
    answer = table.ask(Snapshot(Site.objects.get(id=site)), FINDINGS[finding], options, today)
    found = table.whole_file(answer)
    made_by = table.made_by(found)
    with out.open("wb") as file:
        if kind == "xlsx":
            file.write(xlsx_file(as_table(found["rows"]), made_by))
        elif kind == "json":
            file.write(json_of(found).encode())
        else:
            file.write("\ufeff".encode())  # spreadsheets recognise UTF-8 only with this mark
            file.writelines(line.encode() for line in csv_lines(as_table(found["rows"]), made_by))
    return str(found["period"]["to"])


@router.get("/sites/{slug}/facets", response={200: Facets})
def show_facets(request: HttpRequest, slug: str) -> Any:
    """Devices, countries, page types, query groups and topics that views can be filtered by."""
    return view.facets(snapshot_of(request, slug))


@router.get("/methods", response={200: list[MethodShown]})
def list_methods(request: HttpRequest) -> Any:
    """How everything is calculated, as docs/methods.md explains it."""
    return methods.sections()


@router.get("/guide", response={200: list[GuidePageShown]})
def show_guide(request: HttpRequest) -> Any:
    """The pages of the user guide, as Markdown."""
    return guide.pages()


@router.get("/guide/pictures/{name}", include_in_schema=False)
def show_picture(request: HttpRequest, name: str) -> FileResponse:
    """A picture of the user guide, as PNG."""
    return FileResponse(guide.picture(name).open("rb"), content_type="image/png")
