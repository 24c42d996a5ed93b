"""The log of submittals as a PDF: as it is narrowed, sorted and grouped, as far as the viewer sees it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import date
from zoneinfo import ZoneInfo

from nod.core.acts.counted import counted
from nod.core.acts.refusals import RuleBroken
from nod.core.submittals.states import State
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.list_report import Paper, Report, ReportColumn, ReportLine, write_list_report
from nod.services.acts.context import Context, acting, today_in
from nod.services.acts.seats import Actor
from nod.services.files.tables_out import MEDIA, Exported
from nod.services.submittals.log import AskedSubmittals, SubmittalLine, SubmittalLog, list_submittals
from nod.services.submittals.outlooks import submittal_rules

MOST_PRINTED = 5000
_PAGE = 200
_COLUMNS = (
    ReportColumn("Number", 18), ReportColumn("Title", 36), ReportColumn("Kind", 16), ReportColumn("Section", 11),
    ReportColumn("From", 7), ReportColumn("With", 21), ReportColumn("Due", 14), ReportColumn("State", 16),
    ReportColumn("Required", 15), ReportColumn("Send in by", 14), ReportColumn("Forecast", 14),
    ReportColumn("Float", 10),
)  # fmt: skip
_DUE, _FLOAT = 6, 11
_VIEWS = {"mine": "with me", "copied": "where I am copied in", "company": "of my company"}
_SORTS = {
    "float": "by float", "number": "by number", "required": "by the day on site", "latest": "by the latest send-in",
    "due": "by the day due", "section": "by section",
}  # fmt: skip


def take_report(context: Context, actor: Actor, asked: AskedSubmittals, paper: Paper) -> Exported:
    """Recorded as its taking. Raises RuleBroken for more than anybody would print."""
    log = list_submittals(context, actor, replace(asked, shut=(), start=0, limit=1))
    if log.total > MOST_PRINTED:
        words = f"The log has {log.total:,} submittals; at most {MOST_PRINTED:,} go into one PDF. Narrow it first."
        raise RuleBroken("list_large", words)
    with acting(context, actor) as act:
        project = act.enter(asked.project_id).project
        at, zone, today = act.at.astimezone(ZoneInfo(project.time_zone)), project.time_zone, today_in(project, act.at)
        about = f"{project.number} {project.name}"
        kind = next((each.words for each in submittal_rules(project).kinds if each.code == asked.kind), asked.kind)
        after = {"lines": log.total, "as": f"PDF {paper}"}
        fact = Fact(FactKind.SUBMITTAL_LOG_TAKEN, Subject("project", project.id), project.name, after=after)
        act.record(project.id, fact)
        stem = f"{project.number} submittals {today.isoformat()}"
    lines = list(_lines(context, actor, asked, log, today))
    report = Report(
        title="Submittals", about=about, narrowed=narrowed_words(asked, log, kind),
        counts=_counts(log), taken=f"Taken by {actor.name} on {at:%-d %b %Y, %H:%M} ({zone})", columns=_COLUMNS,
        lines=lines, paper=paper,
    )  # fmt: skip
    return Exported(write_list_report(report), f"{stem}.pdf", MEDIA["pdf"])


def narrowed_words(asked: AskedSubmittals, log: SubmittalLog, kind: str) -> str:
    """Which lines these are, and in what order: `12 submittals: under review, late, from GME; by float`."""
    company = next((f"from {each.code} {each.name}" for each in log.companies if each.id == asked.company), "")
    said = [
        _VIEWS.get(asked.view, ""), asked.state, "late" if asked.late else "", company,
        kind,
        f"with “{asked.words.strip()}”" if asked.words.strip() else "",
    ]  # fmt: skip
    narrowed = ", ".join(filter(None, said)) or "all but what is void"
    order = _SORTS[asked.sort] + (", the other way round" if asked.down else "")
    grouped = f"under each {asked.group} {order}" if asked.group else order
    return f"{counted(log.total, 'submittal')}: {narrowed}; {grouped}"


def _counts(log: SubmittalLog) -> list[tuple[int, str]]:
    return [(each.count, each.state) for each in log.states if each.count] + [(log.late, "late")]


def _lines(
    context: Context, actor: Actor, asked: AskedSubmittals, log: SubmittalLog, today: date
) -> Iterator[ReportLine]:  # fmt: skip
    headings = {each.key: f"{each.words}, {each.count:,}" for each in log.groups}
    before: str | None = None
    for start in range(0, log.total, _PAGE):
        found = list_submittals(context, actor, replace(asked, shut=(), start=start, limit=_PAGE))
        for line in found.lines:
            if asked.group and (key := getattr(line, asked.group)) != before:
                before = key
                yield ReportLine((), heading=headings.get(key, key))
            yield _line(line, context.settings.resolved_public_url, today)


def _line(line: SubmittalLine, address: str, today: date) -> ReportLine:
    due = line.standing.due_on
    on_site = f"there {_day(line.delivered_on)}" if line.delivered_on else _day(line.required_on)
    late = {_DUE} if due is not None and due < today else set()
    if line.float_days is not None and line.float_days < 0 and line.state not in (State.CLOSED.value, State.VOID.value):
        late.add(_FLOAT)
    return ReportLine(
        cells=(
            line.shown, line.title, line.kind_words, line.section, line.company, line.standing.with_whom, _day(due),
            f"{line.state}, {line.verdict}" if line.verdict else line.state, on_site, _day(line.latest_on),
            _day(line.forecast_on), _float(line),
        ),
        address=f"{address}/submittals/{line.id}", stands_out=frozenset(late),
    )  # fmt: skip


def _day(on: date | None) -> str:
    return f"{on:%-d %b %Y}" if on else ""


def _float(line: SubmittalLine) -> str:
    if line.float_days is None:
        return "not known" if line.unknown else ""
    if line.float_days < 0:
        return f"{-line.float_days} d late"
    return f"{line.float_days} d" if line.float_days else "last day"
