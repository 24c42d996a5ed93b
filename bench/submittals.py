"""A log of 20,000 submittals: a page of 50 by float against the same SQL bare; all floats against numpy's functions."""

import io
import random
import sqlite3
from datetime import date, timedelta

import numpy as np
import pypdfium2 as pdfium
from reportlab.lib.pagesizes import A4, landscape
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import LongTable, SimpleDocTemplate

from bench.measure import tell, timed_pair
from nod.core.acts.working_days import Calendar
from nod.core.sheet.geometry import PageBox
from nod.core.sheet.placed_words import as_seen, size_seen_mm
from nod.core.submittals.arithmetic import Case, Times, columns_of, outlooks
from nod.core.submittals.spec_words import USUAL_WORDS
from nod.core.submittals.specification import read_specification
from nod.formats.files.list_report import Report, ReportColumn, ReportLine, write_list_report
from nod.formats.sheet.pdf_words import read_words
from nod.services.acts.seats import actor_of
from nod.services.submittals import log
from nod.services.submittals.outlooks import keep_worked_out

_LOG = 20_000
_NARROWED = {
    # What is asked, the same as conditions of the lines, those of them that do not narrow by state, and the order.
    "by float": ({}, "s.state <> 'void'", "1", "s.float_days"),
    "under review, by number": (
        {"state": "under review", "sort": "number"}, "s.state = 'under review'", "1", "s.number",
    ),
    "late": ({"late": True}, "s.state NOT IN ('closed', 'void') AND s.float_days < 0", "1", "s.float_days"),
    "by words": (
        {"words": "777"}, "s.state <> 'void' AND s.title LIKE '%777%'", "s.title LIKE '%777%'", "s.float_days",
    ),
}  # fmt: skip
_STATES = ("planned", "asked for", "under review", "answered", "closed")
_LINE = """
    SELECT s.*, c.code, c.name, p.name FROM submittal s JOIN company c ON c.id = s.company_id
    LEFT JOIN person p ON p.id = s.person_id WHERE s.project_id = :project AND {}
    ORDER BY {} IS NULL, {}, s.number LIMIT 50"""
_COUNT = """
    SELECT s.state, count(*), sum(s.float_days < 0 AND s.state NOT IN ('closed', 'void')) FROM submittal s
    WHERE s.project_id = :project AND {} GROUP BY s.state"""
_COMPANIES = "SELECT * FROM company WHERE id IN (SELECT company_id FROM submittal WHERE project_id = :project)"


def bench_submittals(context, cast):
    path = context.settings.data_dir / "nod.db"
    with context.database.read() as session:
        marit = actor_of(session, cast.people["marit"])
        company = actor_of(session, cast.people["ottilie"]).company_id
    _put(path, cast, company)
    keep_worked_out(context, cast.project_id)
    raw = sqlite3.connect(path)
    values = {"project": cast.project_id}
    for words, (asked, where, rest, by) in _NARROWED.items():

        def ours(asked=asked):
            log.list_submittals(context, marit, log.AskedSubmittals(cast.project_id, limit=50, **asked))

        def bare(where=where, rest=rest, by=by):
            raw.execute(_LINE.format(where, by, by), values).fetchall()
            raw.execute(_COUNT.format(rest), values).fetchall()
            raw.execute(_COMPANIES, values).fetchall()

        tell(f"log of {_LOG:,} submittals, {words}", *timed_pair(ours, bare, 7))
    raw.close()
    _floats()
    _report()
    _specification()


def _put(path, cast, company):
    """Written as rows: the acts that would make them take an hour."""
    chance = random.Random(1)  # noqa: S311 - rows to measure with
    people = [cast.people[each] for each in ("ottilie", "paolo", "saoirse", "leilani")]
    at = "2027-03-01T08:00:00.000000Z"
    with sqlite3.connect(path) as raw:
        rows = [
            (
                f"s{number:015}", cast.project_id, f"BEN-{number:05}", 0, f"Submittal {number}", "SD", 0, company,
                chance.choice(people), None, cast.people["marit"], cast.people["marit"], at,
                f"{date(2027, 4, 1) + timedelta(days=chance.randint(0, 400))}", chance.randint(5, 60), "working days",
                10, chance.randint(1, 3), 10, chance.choice(_STATES), at, 1,
            )
            for number in range(_LOG)
        ]  # fmt: skip
        columns = (
            "id, project_id, number, revision, title, kind, for_information, company_id, person_id, approver_id,"
            " keeper_id, made_by, made_at, required_on, lead, lead_in, review_days, rounds, preparation, state,"
            " since_at, version"
        )
        rest = (
            "section, paragraph, description, reference, category, location, verdict, why_void, worked_from, expected"
        )
        blanks = ", ".join("''" for _ in range(9))
        marks = ", ".join("?" for _ in rows[0])
        raw.executemany(f"INSERT INTO submittal ({columns}, {rest}) VALUES ({marks}, {blanks}, 0)", rows)


def _floats():
    chance = random.Random(2)  # noqa: S311 - rows to measure with
    first, today = date(2027, 4, 1), date(2027, 3, 9)
    cases = [
        Case(
            first + timedelta(days=chance.randint(0, 400)),
            Times(chance.randint(5, 60), 10, chance.randint(1, 3), 10, 5), chance.randint(5, 20),
        )
        for _ in range(_LOG)
    ]  # fmt: skip
    columns, calendar = columns_of(cases), Calendar(holidays=frozenset({date(2027, 3, 26), date(2027, 3, 29)}))
    days = np.busdaycalendar(holidays=sorted(calendar.holidays))
    required = columns.required.astype("datetime64[D]")
    back = columns.lead + columns.review * columns.rounds + columns.preparation * (columns.rounds - 1) + columns.buffer
    ahead = columns.expected * columns.rounds + columns.preparation * (columns.rounds - 1) + columns.lead
    one = np.timedelta64(1, "D")

    def bare():
        latest = np.busday_offset(required, -back, roll="backward", busdaycal=days)
        there = np.busday_offset(np.datetime64(today), ahead, roll="forward", busdaycal=days)
        spare = np.busday_offset(required, -columns.buffer, roll="backward", busdaycal=days)
        to_latest = np.busday_count(np.datetime64(today) + one, latest + one, busdaycal=days)
        return np.minimum(to_latest, np.busday_count(there + one, spare + one, busdaycal=days))

    tell(f"floats of {_LOG:,}, from arrays", *timed_pair(lambda: outlooks(columns, today, calendar), bare, 7))
    tell(f"floats of {_LOG:,}, from cases", *timed_pair(lambda: outlooks(columns_of(cases), today, calendar), bare, 7))


_PRINTED = 2_000


def _report():
    """A log of 2,000 lines as a PDF against the same cells in the bare library's long table."""
    dice = random.Random(11)  # noqa: S311 - a repeatable log, no secret
    rows = [
        [
            f"HBC-{place:04d}", f"Wall panels of bay {place}", "shop drawing", "08 44 13", "HBC", "Marit Osei",
            f"{1 + dice.randrange(28)} Jun 2027", "under review", f"{1 + dice.randrange(28)} Jul 2027",
            f"{1 + dice.randrange(28)} May 2027", f"{1 + dice.randrange(28)} Jul 2027", f"{dice.randrange(60)} d",
        ]
        for place in range(_PRINTED)
    ]  # fmt: skip
    columns = [ReportColumn(f"Column {place}", 10) for place in range(12)]
    lines = [ReportLine(row, f"http://nod.example/submittals/{place}") for place, row in enumerate(rows)]
    report = Report("Submittals", "BFT", "all", [(_PRINTED, "planned")], "Taken", columns, lines)

    def bare():
        heads = [[each.head for each in columns]]
        SimpleDocTemplate(io.BytesIO(), pagesize=landscape(A4)).build([LongTable(heads + rows, repeatRows=1)])

    tell(f"PDF of {_PRINTED:,} submittals (limit 2)", *timed_pair(lambda: write_list_report(report), bare, 3))


def _specification():
    """Reading a specification of some 600 pages, against the bare library that finds its words."""
    content = _sections(150)
    with pdfium.PdfDocument(content) as file:
        pages = []
        for page in file:
            box = PageBox(*page.get_cropbox(), page.get_rotation())
            pages.append((as_seen(read_words(page), box, 1.0), size_seen_mm(box, 1.0)))
        found = []

        def ours():
            found[:] = read_specification(pages, USUAL_WORDS)

        def bare():
            for page in file:
                text = page.get_textpage()
                text.get_text_bounded()
                text.close()

        tell(f"reading a specification of {len(pages)} pages", *timed_pair(ours, bare, 3))
        print(f"{len(found)} items of {150 * 4}", flush=True)


def _sections(count):
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=A4)
    for section in range(count):
        for page in range(4):
            canvas.drawString(70, 800, f"SECTION 05 {section // 100:02} {section % 100:02} - WORKS")
            lines = [
                f"{chr(65 + at)}. Energy absorbed at least {at} kNm, reaction at most {at} kN." for at in range(26)
            ]
            if page == 0:
                items = ("A. Product Data: For each.", "B. Shop drawings.", "C. Samples.", "D. Test reports.")
                head = (f"SECTION 05 {section // 100:02} {section % 100:02}", "Works", "PART 1 - GENERAL")
                lines = [*head, "1.3 SUBMITTALS", *items, "PART 2 - PRODUCTS", "2.1 FENDERS", *lines]
            for at, line in enumerate(lines):
                canvas.drawString(70, 740 - 16 * at, line)
            canvas.showPage()
    canvas.save()
    return out.getvalue()
