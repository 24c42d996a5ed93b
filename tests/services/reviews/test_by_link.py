"""An outside contact's part in a review: asked by name, mailed a link, sees what goes round and nothing else."""

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.links import links
from nod.services.links.visits import LookAtLink, look_at_link
from nod.services.mail.mails import SecretLink
from nod.services.marks.marks import NewMark
from nod.services.reviews import (
    asking_outside,
    by_link,
    changing,
    comment_sheet,
    comments,
    marks_by_link,
    reminding,
    reviews,
)
from nod.services.reviews.asking_outside import AskResponses
from nod.services.reviews.begun import BegunAnswer, KeepBegun
from nod.services.reviews.by_link import GuestResponds, read_part
from nod.services.reviews.changing import CancelReview, HandOn, PutIn
from nod.services.reviews.comments import AddComment
from nod.services.reviews.reviews import DocumentAnswer, HandIn
from tests.services.links.visiting import enter
from tests.services.reviews.test_route_editing import make, start_on, step, tried
from tests.world import OTHER_NUMBER, name

YUSUF = "yusuf@sparrowgate.example"


def _mails(world, to=YUSUF):
    return [payload for key, payload in world.send() if key.startswith("mail:") and payload["to_email"] == to]


def _token(world, mail):
    return SecretLink(**mail["link"]).token(world.context)


def _asked(world, *steps, filed=None):
    """A review of one sheet that asks Yusuf first: its id, and the token of the link in his mail."""
    route = make(world, *(steps or (step(world, "yusuf", named="Shop check", act="decide"),)))
    review = start_on(world, route, *(filed or world.file(name())))
    (mail,) = _mails(world)
    return review, _token(world, mail), mail


def _answers(part, verdict="A", comment=""):
    return HandIn(
        answers=[
            DocumentAnswer(
                document_id=each.document_id, revision_id=each.revision_id, verdict=verdict, comment=comment
            )
            for each in part.documents
        ],
        note="From the shop",
    )  # fmt: skip


def test_is_asked_by_name_and_never_by_a_company_or_a_role(world):
    company = next(id for id, code in world.sql("SELECT id, code FROM company") if code == "SGS")
    by_company = tried(world, step(world, whom=[("company", company)]))[0].steps[0]
    by_name = tried(world, step(world, "yusuf"))[0].steps[0]
    assert (by_company.people, by_name.people, by_name.trouble) == (0, 1, "")
    assert by_company.trouble


def test_the_mail_brings_the_link_and_the_link_the_sheet(world):
    review, token, mail = _asked(world)
    assert "answer here, without a sign-in:" in mail["text"]
    assert "{link}" in mail["text"]
    front = look_at_link(world.context, LookAtLink(token=token), "10.0.0.1")
    assert (front.kind, front.to.name, front.closed) == ("review", "Yusuf Haldane", "")
    part = read_part(world.context, enter(world, token))
    assert (part.step, part.act, part.state, part.guest) == ("Shop check", "decide", "asked", "Yusuf Haldane")
    assert [each.number for each in part.documents] == [world.review(review).documents[0].number]
    assert part.documents[0].pages[0].width_mm > 0


def test_what_is_handed_in_is_theirs_on_the_slip_and_in_the_trail(world):
    review, token, _ = _asked(world)
    guest = enter(world, token)
    part = read_part(world.context, guest)
    by_link.hand_in(world.context, guest, part.step_id, _answers(part, "B", "Weld W7 is missing"))
    shown = world.review(review)
    assert (shown.state, shown.slip[0].places[0].who.name) == ("closed", "Yusuf Haldane")
    ((body, person),) = world.sql("SELECT body, person_id FROM audit_entry WHERE kind = 'verdicts_handed_in'")
    assert person == world.cast.people["yusuf"]
    assert '"link ' in body.decode()
    # It is over: nothing is there any more, and nothing can be said twice.
    with pytest.raises(NotFound):
        read_part(world.context, guest)
    with pytest.raises(NotFound):
        by_link.hand_in(world.context, guest, part.step_id, _answers(part))


def test_after_it_the_link_says_thanks_while_the_review_goes_on(world):
    _, token, _ = _asked(world, step(world, "yusuf", named="Look"), step(world, "anouk", named="Decide", act="decide"))
    guest = enter(world, token)
    part = read_part(world.context, guest)
    by_link.hand_in(world.context, guest, part.step_id, _answers(part, "", "Weld W7"))
    after = read_part(world.context, guest)
    assert (after.state, after.documents) == ("handed_in", [])
    with pytest.raises(RuleBroken) as refused:
        by_link.hand_in(world.context, guest, part.step_id, _answers(part, "", "Again"))
    assert refused.value.code in ("handed_in_already", "step_over")


def test_what_is_begun_is_kept_and_picks_up_where_any_one_answers(world):
    review, token, _ = _asked(world, step(world, "yusuf", "anouk", named="Either", act="decide", quota="any"))
    guest = enter(world, token)
    part = read_part(world.context, guest)
    begun = BegunAnswer(document_id=part.documents[0].document_id, verdict="C", comment="Half a thought")
    by_link.keep_begun(world.context, guest, part.step_id, KeepBegun(answers=[begun]))
    assert world.review(review).slip[0].taken_by.name == "Yusuf Haldane"
    assert [each.comment for each in read_part(world.context, enter(world, token)).begun] == ["Half a thought"]


def test_what_another_has_picked_up_is_said(world):
    review, token, _ = _asked(world, step(world, "yusuf", "anouk", named="Either", act="decide", quota="any"))
    step_id = world.review(review, who="anouk").slip[0].id
    reviews.pick_up(world.context, world.actor("anouk"), review, step_id)
    guest = enter(world, token)
    part = read_part(world.context, guest)
    assert (part.state, part.taken_by) == ("taken", "Anouk Ferreira")
    with pytest.raises(RuleBroken) as refused:
        by_link.hand_in(world.context, guest, step_id, _answers(part))
    assert refused.value.code == "step_taken"


def test_sees_the_ink_the_page_and_the_file_of_what_goes_round_and_of_nothing_else(world):
    filed = world.file(name())
    other = world.file(name(OTHER_NUMBER))[0]
    world.draw(filed[0][1], "marit", text="In pencil")
    inked = world.draw(filed[0][1], "marit", text="In ink")
    world.ink(filed[0][1], inked, who="marit")
    _, token, _ = _asked(world, filed=filed)
    guest = enter(world, token)
    shown = marks_by_link.read_marks(world.context, guest, filed[0][1]).marks
    assert [each.text for each in shown] == ["In ink"]
    assert by_link.read_page(world.context, world.press, guest, filed[0][1], (0, 8)).is_file()
    assert by_link.read_tile(world.context, world.press, guest, filed[0][1], (0, 11, 0, 0)).is_file()
    assert by_link.download_sheet(world.context, guest, filed[0][1]).name.endswith(".pdf")
    for read in (
        lambda: marks_by_link.read_marks(world.context, guest, other[1]),
        lambda: by_link.read_page(world.context, world.press, guest, other[1], (0, 8)),
        lambda: by_link.read_tile(world.context, world.press, guest, other[1], (0, 11, 0, 0)),
        lambda: by_link.download_sheet(world.context, guest, other[1]),
    ):
        with pytest.raises(NotFound):
            read()
    assert world.kinds()[-1] == "revision_downloaded"


PIN = {"page": 0, "kind": "pin", "points": [(40, 40)]}


def _draw(world, guest, revision_id, text="Bolt too short"):
    command = marks_by_link.DrawInPart(marks=[NewMark(**PIN, text=text)])
    return marks_by_link.draw_by_link(world.context, guest, revision_id, command)


def test_marks_in_ink_as_themselves_and_takes_it_away_until_it_is_answered(world):
    filed = world.file(name())
    _, token, _ = _asked(world, filed=filed)
    guest = enter(world, token)
    drawn = _draw(world, guest, filed[0][1])
    assert drawn.mine == [each.id for each in drawn.marks]
    (mark,) = world.marks(filed[0][1], "marit")
    assert (mark.author.name, mark.author.way, mark.text) == ("Yusuf Haldane", "person", "Bolt too short")
    assert world.kinds()[-2:] == ["mark_drawn", "mark_inked"]
    ((body,),) = world.sql("SELECT body FROM audit_entry ORDER BY seq DESC LIMIT 1")
    assert b'"link ' in body
    # Answered, it stays; until then its author takes it away, and nobody else by a link.
    (other,) = [each for each in _draw(world, guest, filed[0][1], "And this").marks if each.text == "And this"]
    marks_by_link.remove_by_link(world.context, guest, other.id, marks_by_link.SeenMark(version=other.version))
    assert [each.text for each in world.marks(filed[0][1], "marit")] == ["Bolt too short"]
    world.reply(mark, "It comes longer", "marit")
    assert marks_by_link.read_marks(world.context, guest, filed[0][1]).mine == []
    with pytest.raises(RuleBroken) as refused:
        marks_by_link.remove_by_link(world.context, guest, mark.id, marks_by_link.SeenMark(version=mark.version))
    assert refused.value.code == "mark_answered"
    world.ink(filed[0][1], world.draw(filed[0][1], "marit", text="Marit's"), who="marit")
    theirs = next(each for each in world.marks(filed[0][1], "marit") if each.text == "Marit's")
    with pytest.raises(NotAllowed):
        marks_by_link.remove_by_link(world.context, guest, theirs.id, marks_by_link.SeenMark(version=theirs.version))
    # When it is handed in, nothing is asked on the sheet any more.
    part = read_part(world.context, guest)
    by_link.hand_in(world.context, guest, part.step_id, _answers(part))
    with pytest.raises((NotAllowed, NotFound)):
        _draw(world, guest, filed[0][1])


@pytest.mark.parametrize(("first", "review"), [("", False), ("company", True)])
def test_ink_is_for_the_people_of_the_review_where_the_project_inks_for_fewer_first(world, first, review):
    world.write(f"UPDATE project SET rules = json_set(rules, '$.ink_for', '{first}')")
    filed = world.file(name())
    _, token, _ = _asked(world, step(world, "yusuf", "leilani", quota="all"), filed=filed)
    drawn = _draw(world, enter(world, token), filed[0][1])
    assert drawn.for_review is review
    readers = {who: len(world.marks(filed[0][1], who)) for who in ("leilani", "marit", "anouk")}
    assert readers == {"leilani": 1, "marit": 1, "anouk": 0 if review else 1}


def test_draws_on_what_goes_round_alone_and_where_marks_are_asked_for(world):
    filed, other = world.file(name()), world.file(name(OTHER_NUMBER))[0]
    _, token, _ = _asked(world, step(world, "yusuf", marking=False), filed=filed)
    guest = enter(world, token)
    with pytest.raises(NotFound):
        _draw(world, guest, other[1])
    with pytest.raises(RuleBroken) as refused:
        _draw(world, guest, filed[0][1])
    assert refused.value.code == "words_only"


def test_the_link_closes_with_the_part(world):
    """Put out by a lead, cancelled, withdrawn, removed from the project: each shuts it at once."""
    review, token, _ = _asked(world)
    guest = enter(world, token)
    shown = world.review(review)
    put = PutIn(gone_id=world.cast.people["yusuf"], person_id=world.cast.people["anouk"], reason="Out of the office")
    changing.put_in(world.context, world.actor("marit"), review, shown.slip[0].id, put)
    with pytest.raises(NotFound):
        read_part(world.context, guest)
    assert look_at_link(world.context, LookAtLink(token=token), "10.0.0.1").closed


def test_a_withdrawn_link_opens_nothing_and_the_next_mail_brings_another(world):
    review, token, _ = _asked(world)
    guest = enter(world, token)
    (line,) = links.list_links(world.context, world.actor("marit"), world.project_id, own=False).links
    links.withdraw_link(world.context, world.actor("marit"), line.id)
    with pytest.raises(NotFound):
        read_part(world.context, guest)
    reminding.remind_now(
        world.context, world.actor("marit"), reminding.RemindNow(project_id=world.project_id, reviews=[review])
    )
    again = _token(world, _mails(world)[-1])
    assert again != token
    assert read_part(world.context, enter(world, again)).state == "asked"


def test_is_told_when_nothing_is_wanted_any_more(world):
    review, _, _ = _asked(world)
    version = world.review(review).version
    changing.cancel_review(
        world.context, world.actor("marit"), review, CancelReview(version=version, reason="Wrong sheet")
    )
    mail = _mails(world)[-1]
    assert "Nothing is wanted of you any more" in mail["text"]
    assert mail["link"] is None


def test_only_who_runs_the_project_puts_somebody_outside_in(world):
    route = make(world, step(world, "anouk", named="Look"))
    review = start_on(world, route, *world.file(name()))
    step_id = world.review(review, who="anouk").slip[0].id
    yusuf = world.cast.people["yusuf"]
    assert yusuf not in {
        each.id for each in changing.list_newcomers(world.context, world.actor("anouk"), review, step_id)
    }
    with pytest.raises(NotFound):
        changing.hand_on(world.context, world.actor("anouk"), review, step_id, HandOn(person_id=yusuf, note="Yours?"))
    offered = changing.list_newcomers(world.context, world.actor("marit"), review, step_id)
    assert yusuf in {each.id for each in offered}
    put = PutIn(gone_id=world.cast.people["anouk"], person_id=yusuf, reason="Knows the welds")
    changing.put_in(world.context, world.actor("marit"), review, step_id, put)
    assert _mails(world)[-1]["link"]


def _said_of(world, *from_whom, who="marit"):
    """Two sheets, the first said to have come from `from_whom` (company, person), each with a comment of Anouk's."""
    filed = world.file(name(), name(OTHER_NUMBER), who="paolo")
    company, person = from_whom
    world.write(f"UPDATE revision SET came_from = '{company}', came_person = '{person}' WHERE id = '{filed[0][1]}'")
    route = make(world, step(world, "anouk", named="Check"), step(world, "saoirse", named="Decide", act="decide"))
    review = start_on(world, route, *filed, who=who)
    shown = world.review(review, "anouk")
    answers = [
        DocumentAnswer(document_id=each.document_id, comment=f"About {each.number}", grave="must")
        for each in shown.documents
    ]
    reviews.hand_in(world.context, world.actor("anouk"), review, world.step(review, "anouk"), HandIn(answers=answers))
    return review, filed


def _ask(world, review, who="marit", person="yusuf"):
    command = AskResponses(person_id=world.cast.people[person], message="Before Friday, please.")
    asking_outside.ask_responses(world.context, world.actor(who), review, command)


def _sheet(world, review, who="marit"):
    return comment_sheet.read_comments(world.context, world.actor(who), review)


def test_an_author_outside_responds_to_what_was_said_of_theirs_and_sees_nothing_else(world):
    review, filed = _said_of(world, "Sparrowgate Steel", "")
    assert [(each.who.name, each.open, each.asked) for each in _sheet(world, review).may_ask] == [
        ("Yusuf Haldane", 1, False)
    ]
    _ask(world, review)
    (mail,) = _mails(world)
    number = next(each.document for each in _sheet(world, review).comments if each.document_id == filed[0][0])
    assert "Before Friday, please." in mail["text"]
    assert f"About {number}" in mail["text"]
    assert "About" not in mail["text"].replace(f"About {number}", "")
    guest = enter(world, _token(world, mail))
    part = read_part(world.context, guest)
    assert (part.state, [each.document_id for each in part.documents]) == ("none", [filed[0][0]])
    (comment,) = part.comments
    by_link.respond(world.context, guest, comment.id, GuestResponds(version=comment.version, text="Moved 40 mm."))
    line = next(each for each in _sheet(world, review).comments if each.id == comment.id)
    assert (line.response, line.responded_by.name, line.state) == ("Moved 40 mm.", "Yusuf Haldane", "open")
    assert _sheet(world, review).may_ask[0].asked
    other = next(each for each in _sheet(world, review).comments if each.id != comment.id)
    with pytest.raises(NotFound):
        by_link.respond(world.context, guest, other.id, GuestResponds(version=other.version, text="Mine too?"))
    with pytest.raises(NotFound):
        marks_by_link.read_marks(world.context, guest, filed[1][1])
    assert marks_by_link.read_marks(world.context, guest, filed[0][1]).marks == []


def test_what_is_said_after_they_were_asked_waits_for_the_next_time(world):
    review, filed = _said_of(world, "Sparrowgate Steel", "")
    _ask(world, review)
    guest = enter(world, _token(world, _mails(world)[-1]))
    more = AddComment(document_id=filed[0][0], text="And the weld?", grave="note")
    comments.add_comment(world.context, world.actor("anouk"), review, more)
    assert [(each.open, each.unsent, each.asked) for each in _sheet(world, review).may_ask] == [(2, 1, True)]
    assert len(read_part(world.context, guest).comments) == 1
    late = next(each for each in _sheet(world, review).comments if each.text == "And the weld?")
    assert late.released_at is None
    with pytest.raises(NotFound):
        by_link.respond(world.context, guest, late.id, GuestResponds(version=late.version, text="Which one?"))
    _ask(world, review)
    assert [each.text for each in read_part(world.context, guest).comments][1:] == ["And the weld?"]
    assert [each.unsent for each in _sheet(world, review).may_ask] == [0]


def test_the_link_outlives_the_review_for_the_response_and_two_in_one_moment_are_told(world):
    review, _ = _said_of(world, "Sparrowgate Steel", "")
    _ask(world, review)
    guest = enter(world, _token(world, _mails(world)[-1]))
    (comment,) = read_part(world.context, guest).comments
    world.hand_in(review, "saoirse", "C")
    assert world.review(review).state == "closed"
    said = GuestResponds(version=comment.version, text="Moved 40 mm.")
    by_link.respond(world.context, guest, comment.id, said)
    with pytest.raises(Stale):
        by_link.respond(world.context, guest, comment.id, said)


def test_only_whose_documents_they_are_is_asked_and_only_by_who_may(world):
    review, _ = _said_of(world, "Somebody Else", "")
    assert _sheet(world, review).may_ask == []
    with pytest.raises(RuleBroken) as refused:
        _ask(world, review)
    assert refused.value.code == "nothing_to_respond_to"
    with pytest.raises(NotAllowed):
        _ask(world, review, who="anouk")
    with pytest.raises(NotFound):
        _ask(world, review, person="anouk")


def test_whom_a_sheet_came_from_by_name_is_its_author_and_decides_nothing_on_it(world):
    review, filed = _said_of(world, "Somebody Else", "Yusuf Haldane")
    assert [each.open for each in _sheet(world, review).may_ask] == [1]
    world.hand_in(review, "saoirse", "C")
    route = make(world, step(world, "yusuf", named="Shop", act="decide"), named="Shop alone")
    with pytest.raises(RuleBroken) as refused:
        start_on(world, route, filed[0])
    assert refused.value.code == "separation_of_duties"
