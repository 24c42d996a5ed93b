"""A second pair of eyes: given to somebody, given back, let go, signed (handbook §11)."""

import json

import pytest

from nod.core.acts.refusals import NotFound, Refusal, RuleBroken, Stale
from nod.core.letters.kinds import DEFAULT_KINDS, kept_kinds
from nod.services.attachments.attachments import download_attachment, remove_attachment
from nod.services.desk import read_desk
from nod.services.letters import checks, drafts
from nod.services.trail.trail import TrailView, read_log
from tests.services.letters.acts import (
    add,
    begin,
    check,
    draft,
    give_back,
    half,
    keep,
    let_go,
    read,
    reply,
    send,
    take_back,
    texts,
    write,
)


def mails(world):
    return {payload["to_email"]: payload for key, payload in world.send() if key.startswith("mail:")}


def email(world, who):
    return world.sql("SELECT email FROM person WHERE id = ?", world.cast.people[who])[0][0]


def desk(world, who):
    return [line.detail for line in read_desk(world.context, world.actor(who), world.project_id).yours_now]


def test_it_is_let_go_by_another_and_goes_out_in_its_authors_name(world):
    begun = half(world)
    clip = add(world, begun)
    keep(world, begun, files=[clip])
    check(world, begun)
    assert any("waits for you before it goes" in each for each in desk(world, "rafael"))
    assert "asks you to look at it" in mails(world)[email(world, "rafael")]["text"]
    shown = draft(world, begun, "rafael")
    assert (shown.mine, shown.author.name, [each.name for each in shown.files]) == (
        False,
        "Marit Osei",
        ["clip.pdf"],
    )
    assert download_attachment(world.context, world.actor("rafael"), clip).name == "clip.pdf"
    letter = let_go(world, begun)
    (message,) = read(world, letter).messages
    assert (message.author.name, message.signatory, message.looked_at_by.name) == (
        "Marit Osei",
        "",
        "Rafael Nwosu",
    )
    assert [each.name for each in message.files] == ["clip.pdf"]
    assert read(world, letter, "ottilie").messages[0].looked_at_by is None
    assert desk(world, "rafael") == []
    sent = mails(world)
    assert "Marit Osei (HBC) writes:" in sent[email(world, "ottilie")]["text"]
    assert "let it go" in sent[email(world, "marit")]["text"]
    assert email(world, "rafael") not in sent


def test_whoever_signs_it_is_named_to_all(world):
    begun = half(world)
    check(world, begun, signs=True)
    letter = let_go(world, begun)
    assert read(world, letter, "ottilie").messages[0].signatory == "Rafael Nwosu"
    assert "Signed: Rafael Nwosu" in mails(world)[email(world, "ottilie")]["text"]


def test_it_is_given_back_with_what_is_to_change_and_given_again(world):
    begun = half(world)
    check(world, begun)
    with pytest.raises(RuleBroken) as refused:
        give_back(world, begun, "  ")
    assert refused.value.code == "note_missing"
    give_back(world, begun, "Name the clause.")
    assert "Name the clause." in mails(world)[email(world, "marit")]["text"]
    assert draft(world, begun).check_note == "Name the clause."
    assert any("given back to you" in each for each in desk(world, "marit"))
    with pytest.raises(NotFound):
        draft(world, begun, "rafael")
    keep(world, begun, page="<p>By clause 20.</p>")
    check(world, begun)
    assert texts(world, let_go(world, begun), "ottilie") == ["By clause 20."]


def test_whoever_did_not_let_it_go_has_no_part_in_what_is_sent(world):
    """Given back, or taken back, it may go without them: then nobody is said to have looked at it."""
    for end in (lambda begun: give_back(world, begun, "Name the clause."), lambda begun: take_back(world, begun)):
        begun = half(world)
        check(world, begun, signs=True)
        end(begun)
        (message,) = read(world, send(world, begun)).messages
        assert (message.looked_at_by, message.signatory) == (None, "")


def test_while_somebody_looks_at_it_nothing_of_it_is_changed_and_it_can_be_taken_back(world):
    begun = half(world)
    clip = add(world, begun)
    check(world, begun)
    for refused in (
        lambda: keep(world, begun, subject="Another"), lambda: send(world, begun), lambda: check(world, begun),
        lambda: drafts.drop_draft(world.context, world.actor("marit"), begun, _seen(world, begun)),
        lambda: add(world, begun), lambda: remove_attachment(world.context, world.actor("marit"), clip),
    ):  # fmt: skip
        with pytest.raises(Refusal, match=r"looking at it|may read this"):
            refused()
    seen = draft(world, begun, "rafael").version
    take_back(world, begun)
    with pytest.raises(NotFound):
        let_go(world, begun)
    keep(world, begun, subject="Another")
    check(world, begun)
    with pytest.raises(Stale):
        checks.let_go(world.context, world.actor("rafael"), begun, drafts.LetterDraftVersion(version=seen))


def _seen(world, message_id):
    return drafts.LetterDraftVersion(version=draft(world, message_id).version)


@pytest.mark.parametrize(("checker", "code"), [("marit", "checker_missing"), ("yusuf", "checker_unfit")])
def test_somebody_else_looks_at_it_who_signs_in(world, checker, code):
    with pytest.raises(RuleBroken) as refused:
        check(world, half(world), checker)
    assert refused.value.code == code


def test_what_could_not_be_sent_is_not_given_to_anybody(world):
    with pytest.raises(RuleBroken) as refused:
        check(world, begin(world))
    assert refused.value.code == "text_missing"


def test_a_kind_can_want_it_of_all_that_begin(world):
    kinds = [each.__class__(**{**each.__dict__, "looked_at": each.code == "I"}) for each in DEFAULT_KINDS]
    rules = json.dumps({"kinds": kept_kinds(kinds)})
    world.write(f"UPDATE project SET rules = json_set(rules, '$.letters', json('{rules}'))")
    begun = half(world, kind="I")
    with pytest.raises(RuleBroken) as refused:
        send(world, begun)
    assert refused.value.code == "check_missing"
    check(world, begun)
    letter = let_go(world, begun)
    assert reply(world, letter, "ottilie")
    write(world, subject="A letter needs nobody")


def test_how_it_came_about_is_in_the_trail_for_its_author_alone(world):
    begun = half(world, to=("ottilie", "tomasz"))
    check(world, begun)
    give_back(world, begun, "Name the clause.")
    check(world, begun)
    let_go(world, begun)

    def kinds(who):
        view = TrailView(project_id=world.project_id, subject_id=begun)
        return {entry.kind for entry in read_log(world.context, world.actor(who), view).entries}

    assert {"letter_check_asked", "letter_given_back", "letter_let_go", "letter_sent"} <= kinds("marit")
    for other in ("ottilie", "tomasz", "rafael"):
        assert kinds(other) & {"letter_check_asked", "letter_given_back", "letter_let_go"} == set()


def test_a_reply_is_looked_at_by_somebody_who_is_not_in_the_thread(world):
    letter = write(world, private=True)
    begun = drafts.begin_reply(world.context, world.actor("ottilie"), letter).message_id
    keep(world, begun, "ottilie", page="<p>As drawn.</p>")
    check(world, begun, "leilani", "ottilie")
    assert draft(world, begun, "leilani").written.page == "<p>As drawn.</p>"
    with pytest.raises(NotFound):
        read(world, letter, "leilani")
    let_go(world, begun, "leilani")
    assert texts(world, letter) == ["Please see below.", "As drawn."]
    for gone in (lambda: draft(world, begun, "leilani"), lambda: read(world, letter, "leilani")):
        with pytest.raises(NotFound):
            gone()
