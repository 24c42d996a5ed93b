"""The register over HTTP: its list, its columns, views that are kept, lists taken away."""

from __future__ import annotations

import io
from typing import Literal

from flask import Response, send_file
from pydantic import Field, RootModel

from nod.services.acts.answers import FromOutside
from nod.services.register import changes, chosen, exports, register_list, saved_views
from nod.services.register.changes import Changed, ChangeDocuments
from nod.services.register.chosen import Choose, Chosen
from nod.services.register.register_list import AskedView, GroupShown, RegisterColumns, RegisterPage
from nod.services.register.saved_views import KeepView, ListOf, SavedView, SeenView
from nod.web.answers import TABLES, answers, feature, file_answers
from nod.web.guard import actor, context, permission

api = feature("register")


class OfProject(FromOutside):
    project_id: str


class OfList(OfProject):
    of: ListOf = "register"


class RegisterQuery(FromOutside):
    """`words` filters by number, title and fields; `filters` and `sorts` are JSON: [[column, op, value, …], …] and

    [[column, "down" or "up"], …]. `shut` is a JSON list of the groups whose lines are left out; `cursor` continues;

    `from_end` begins with the last page.
    """

    project_id: str
    words: str = ""
    filters: str = ""
    sorts: str = ""
    group: str = ""
    shut: str = ""
    cursor: str = ""
    limit: int = Field(default=100, ge=1, le=500)
    from_end: bool = False

    def asked(self) -> AskedView:
        return AskedView(**self.model_dump())


class ValuesQuery(FromOutside):
    project_id: str
    column: str


class Groups(RootModel[list[GroupShown]]):
    pass


class ExportForm(FromOutside):
    """As a form of the browser sends it; `columns` are keys with commas between."""

    project_id: str
    words: str = ""
    filters: str = ""
    sorts: str = ""
    group: str = ""
    columns: str = ""
    form: Literal["xlsx", "csv"] = "xlsx"


class ViewPath(FromOutside):
    view_id: str


class SavedViews(RootModel[list[SavedView]]):
    pass


@api.get("/api/documents", responses=answers(RegisterPage))
@permission("member")
def list_register(query: RegisterQuery) -> RegisterPage:
    """A page of the register."""
    return register_list.list_register(context(), actor(), query.asked())


@api.get("/api/register/columns", responses=answers(RegisterColumns))
@permission("member")
def read_columns(query: OfProject) -> RegisterColumns:
    """The columns a list of the register can show."""
    return register_list.read_columns(context(), actor(), query.project_id)


@api.get("/api/register/values", responses=answers(Groups))
@permission("member")
def list_values(query: ValuesQuery) -> list[GroupShown]:
    """The values a column has, with counts."""
    return register_list.list_values(context(), actor(), query.project_id, query.column)


@api.post("/api/documents/change", responses=answers(Changed))
@permission("file")
def change_documents(body: ChangeDocuments) -> Changed:
    """Change many documents in one act that can be taken back."""
    return changes.change_documents(context(), actor(), body)


@api.post("/api/documents/chosen", responses=answers(Chosen))
@permission("member")
def choose_documents(body: Choose) -> Chosen:
    """What acts on chosen documents need to know of them. A POST, as there may be thousands of ids."""
    return chosen.choose(context(), actor(), body)


@api.post("/api/register/export", responses=file_answers(*TABLES))
@permission("member")
def export_register(form: ExportForm) -> Response:
    """The whole list as a file. A POST, because each download is recorded."""
    keys = [key for key in form.columns.split(",") if key]
    asked = AskedView(form.project_id, form.words, form.filters, form.sorts, form.group)
    made = exports.export_register(context(), actor(), asked, keys, form.form)
    content = io.BytesIO(made.content)
    return send_file(content, mimetype=made.media_type, as_attachment=True, download_name=made.name)


@api.get("/api/register/views", responses=answers(SavedViews))
@permission("member")
def list_views(query: OfList) -> list[SavedView]:
    """One's own views of a list and those that are shared."""
    return saved_views.list_views(context(), actor(), query.project_id, query.of)


@api.post("/api/register/views", responses=answers(SavedView))
@permission("member")
def keep_view(body: KeepView) -> SavedView:
    """Keep a view, or change one of one's own."""
    return saved_views.keep_view(context(), actor(), body)


@api.post("/api/register/views/<view_id>/remove", responses=answers())
@permission("member")
def remove_view(path: ViewPath, body: SeenView) -> None:
    """Remove a view."""
    saved_views.remove_view(context(), actor(), path.view_id, body)
