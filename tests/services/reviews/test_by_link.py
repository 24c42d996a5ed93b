"""An outside contact's part in a review: asked by name, mailed a link, sees what goes round and nothing else."""

import pytest

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.services.links import links
from nod.services.links.visits import LookAtLink, look_at_link
from nod.services.mail.mails import SecretLink
from nod.services.reviews import by_link, changing, reminding, reviews
from nod.services.reviews.begun import BegunAnswer, KeepBegun
from nod.services.reviews.by_link import read_part
from nod.services.reviews.changing import CancelReview, HandOn, PutIn
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
    shown = by_link.read_marks(world.context, guest, filed[0][1]).marks
    assert [each.text for each in shown] == ["In ink"]
    assert by_link.read_page(world.context, world.press, guest, filed[0][1], (0, 8)).is_file()
    assert by_link.read_tile(world.context, world.press, guest, filed[0][1], (0, 11, 0, 0)).is_file()
    assert by_link.download_sheet(world.context, guest, filed[0][1]).name.endswith(".pdf")
    for read in (
        lambda: by_link.read_marks(world.context, guest, other[1]),
        lambda: by_link.read_page(world.context, world.press, guest, other[1], (0, 8)),
        lambda: by_link.read_tile(world.context, world.press, guest, other[1], (0, 11, 0, 0)),
        lambda: by_link.download_sheet(world.context, guest, other[1]),
    ):
        with pytest.raises(NotFound):
            read()
    assert world.kinds()[-1] == "revision_downloaded"


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
