"""Adding people, invitations, changing and removing members, companies, the workspace."""

import json
from datetime import timedelta

import pytest
from sqlalchemy import select

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.people import key_links, members, newcomers, people, sign_in
from nod.services.people.key_links import link_token
from nod.services.people.newcomers import AddPeople, NewCompany, PersonToAdd
from nod.services.people.sign_in import DEMO_PASSWORD, Browser, SignIn
from nod.services.setup import workspace
from nod.store.tables import PersonRow
from tests.world import name

PASSWORD = "quiet tidal estuary"


def _person(email, **more):
    more = {"name": "New Person", "roles": ["reviewer"], **more}
    return PersonToAdd(email=email, **more)


def _add(world, *given, who="rafael", message=""):
    command = AddPeople(project_id=world.project_id, people=list(given), message=message)
    return newcomers.add_people(world.context, world.actor(who), command).people


def _company(world, who="leilani"):
    return world.actor(who).company_id


def _mails(world):
    return [json.loads(row[0]) for row in world.sql("SELECT payload FROM outbox WHERE kind = 'mail' ORDER BY seq")]


def _link(world):
    return link_token(world.context, _mails(world)[-1]["link"]["of"].removeprefix("key link:"))


def _members(world, who="rafael"):
    listed = people.list_people(world.context, world.actor(who), world.project_id)
    return {each.email: each for each in listed.members}


def test_several_are_added_invited_and_go_in_by_the_link(world):
    added = _add(
        world,
        _person("ida@palefire.example", company=NewCompany(name="Palefire Glazing", code="XXX", part="subcontractor")),
        _person("odo@newco.example", company=NewCompany(name="New Co", code="NWC", part="supplier"), roles=["author"]),
        _person("una@newco.example", company=NewCompany(name="new co", code="NWC", part="supplier"), name=""),
        message="Welcome to the quay.",
    )
    assert [(each.name, each.state) for each in added] == [
        ("New Person", "invited"), ("New Person", "invited"), ("Una", "invited"),
    ]  # fmt: skip
    companies = {each.email: each.who.company for each in _members(world).values()}
    assert companies["ida@palefire.example"] == "PFG"
    assert companies["odo@newco.example"] == companies["una@newco.example"] == "NWC"
    assert [mail["to_email"] for mail in _mails(world)] == [each.email for each in added]
    assert "Welcome to the quay." in _mails(world)[0]["text"]
    assert "{link}" in _mails(world)[0]["text"]
    shown = key_links.read_link(world.context, _link(world))
    assert (shown.name, shown.project) == ("Una", "BFT Brackwater Ferry Terminal")
    command = key_links.UseKeyLink(password=PASSWORD, name="Una Quill")
    token = key_links.use_link(world.context, _link(world), command, "here")
    assert sign_in.who_is(world.context, token).actor.name == "Una Quill"
    assert _members(world)["una@newco.example"].state == "active"
    assert sign_in.sign_in(world.context, SignIn(email="una@newco.example", password=PASSWORD), Browser("here"))


def test_a_link_works_once_runs_out_and_is_replaced_by_a_newer_one(world):
    (added,) = _add(world, _person("ida@x.example", company_id=_company(world)))
    first = _link(world)
    newcomers.send_again(world.context, world.actor("rafael"), world.project_id, added.person_id)
    second = _link(world)
    for token, code in ((first, "link_used"),):
        with pytest.raises(RuleBroken) as refused:
            key_links.read_link(world.context, token)
        assert refused.value.code == code
    key_links.use_link(world.context, second, key_links.UseKeyLink(password=PASSWORD), "here")
    with pytest.raises(RuleBroken):
        key_links.use_link(world.context, second, key_links.UseKeyLink(password=PASSWORD + "!"), "here")
    _add(world, _person("odo@x.example", company_id=_company(world)))
    world.clock.advance(timedelta(days=15))
    with pytest.raises(RuleBroken) as refused:
        key_links.read_link(world.context, _link(world))
    assert refused.value.code == "link_outworn"
    for guess in ("", "x", f"{second.partition('.')[0]}.{'0' * 64}"):
        with pytest.raises(NotFound):
            key_links.read_link(world.context, guess)


def test_a_code_is_proposed_or_the_known_one_given(world):
    def propose(name):
        found = people.propose(world.context, world.actor("rafael"), world.project_id, name)
        return found.code, found.known

    assert propose(" palefire  GLAZING ") == ("PFG", True)
    assert propose("Tallow Rope Anchors") != ("TRA", False)
    assert propose("Marsh and Daughters") == ("MAD", False)


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"email": "marit@hollinbrook.example"}, "in_project_already"),
        ({"email": "not an address"}, "email_invalid"),
        ({"roles": []}, "role_missing"),
        ({"roles": ["king"]}, "role_unknown"),
        ({"tools": ["hammer"]}, "tool_unknown"),
        ({"company_id": ""}, "company_missing"),
        ({"company_id": "", "company": NewCompany(name="Z", code="HBC", part="supplier")}, "code_taken"),
        ({"company_id": "", "company": NewCompany(name="Z", code="h", part="supplier")}, "company_code"),
        ({"company_id": "", "company": NewCompany(name="Z", code="ZED", part="friend")}, "part_unknown"),
    ],
)
def test_one_wrong_line_is_named_and_nobody_is_added(world, change, code):
    before, mails = world.kinds(), len(_mails(world))
    good = _person("good@x.example", company_id=_company(world))
    wrong = {"email": "wrong@x.example", "company_id": _company(world), **change}
    with pytest.raises(RuleBroken) as refused:
        _add(world, good, _person(**wrong))
    assert refused.value.code == code
    assert refused.value.about
    assert (world.kinds(), len(_mails(world))) == (before, mails)


def test_the_same_address_twice(world):
    twice = [_person(each, company_id=_company(world)) for each in ("a@x.example", " A@x.example ")]
    with pytest.raises(RuleBroken) as refused:
        _add(world, *twice)
    assert (refused.value.code, refused.value.about) == ("email_twice", "a@x.example")


def test_a_known_person_is_active_at_once_and_an_outside_contact_gets_no_mail(world):
    _add(world, _person("ines@hollinbrook.example"), _person("kit@x.example", company_id=_company(world), contact=True))
    states = {each.email: each.state for each in _members(world).values()}
    assert (states["ines@hollinbrook.example"], states["kit@x.example"]) == ("active", "contact")
    assert [mail["to_email"] for mail in _mails(world)] == ["ines@hollinbrook.example"]
    assert "{link}" not in _mails(world)[0]["text"]


def test_access_and_tools_can_be_set_while_adding(world):
    _add(world, _person("ida@x.example", company_id=_company(world), level="none", tools=["reviews"]))
    line = _members(world)["ida@x.example"]
    assert (line.level, line.tools, line.own_tools) == ("none", ["reviews"], True)


def test_whoever_was_removed_comes_back(world):
    assert _members(world)["bronwen@palefire.example"].state == "removed"
    _add(world, _person("bronwen@palefire.example", roles=["author"]))
    assert _members(world)["bronwen@palefire.example"].state == "active"


def test_suggestions_know_the_workspace_by_the_beginning_of_a_word(world):
    def names(words):
        found = people.suggest_people(world.context, world.actor("rafael"), world.project_id, words)
        return [(each.name, each.state) for each in found.people]

    assert names("car") == [("Ines Carvalho", "")]
    assert names("ines@") == [("Ines Carvalho", "")]
    assert names("mar") == [("Marit Osei", "active"), ("Paolo Marchetti", "active")]
    assert names("a") == names("%%") == names("arvalho") == []
    with pytest.raises(NotAllowed):
        people.suggest_people(world.context, world.actor("marit"), world.project_id, "car")


def test_pasted_lines_say_who_is_known_and_what_is_wrong(world):
    command = people.ReadPeople(
        project_id=world.project_id,
        text="Marit Osei <marit@hollinbrook.example>\nInes ines@hollinbrook.example\nNo One\nx@y",
    )
    lines = people.read_pasted(world.context, world.actor("rafael"), command).people
    assert [(each.name, bool(each.known), each.trouble) for each in lines] == [
        ("Marit Osei", True, "In this project already."),
        ("Ines Carvalho", True, ""),
        ("No One", False, "An e-mail address is missing."),
        ("X", False, "“x@y” is not an e-mail address."),
    ]


def _change(world, who, roles, tools=None, by="rafael", **more):
    line = next(each for each in _members(world, by).values() if each.who.id == world.cast.people[who])
    command = members.ChangeMember(version=line.version, roles=roles, tools=tools, job=line.who.job, **more)
    members.change_member(world.context, world.actor(by), world.project_id, line.who.id, command)


def test_the_link_of_somebody_removed_before_accepting_is_worth_nothing(world):
    (added,) = _add(world, _person("ida@x.example", company_id=_company(world)))
    link, line = _link(world), _members(world)["ida@x.example"]
    command = members.RemoveMember(version=line.version)
    members.remove_member(world.context, world.actor("rafael"), world.project_id, added.person_id, command)
    with pytest.raises(RuleBroken) as refused:
        key_links.use_link(world.context, link, key_links.UseKeyLink(password=PASSWORD), "here")
    assert refused.value.code == "link_used"


def test_a_lead_makes_another_and_the_last_one_stays(world):
    with pytest.raises(RuleBroken) as refused:
        _change(world, "rafael", ["reader"])
    assert refused.value.code == "last_lead"
    _change(world, "marit", ["controller", "lead"])
    _change(world, "rafael", ["reader"], by="marit")
    with pytest.raises(NotAllowed):
        _change(world, "anouk", ["lead"], by="rafael")
    with pytest.raises(RuleBroken):
        _remove(world, "marit", by="marit")


def test_the_last_tool_is_taken_only_if_that_is_meant(world):
    with pytest.raises(RuleBroken) as refused:
        _change(world, "anouk", ["reviewer"], [])
    assert refused.value.code == "last_tool"
    _change(world, "anouk", ["reviewer"], [], even_without_tools=True)
    assert _members(world)["anouk@brackwater.example"].tools == []


def test_a_tool_that_is_off_answers_nothing(world):
    from nod.services.reviews import log
    from nod.services.transmittals import log as sent_log

    _change(world, "anouk", ["reviewer"], ["transmittals"])
    with pytest.raises(NotAllowed) as refused:
        log.list_log(world.context, world.actor("anouk"), log.AskedLog(world.project_id))
    assert refused.value.code == "tool_off"
    asked = sent_log.AskedLog(world.project_id)
    assert sent_log.list_log(world.context, world.actor("anouk"), asked).lines == []


def test_a_change_by_two_the_second_is_told(world):
    line = _members(world)["anouk@brackwater.example"]
    command = members.ChangeMember(version=line.version, roles=["author"], tools=None, job="")
    members.change_member(world.context, world.actor("rafael"), world.project_id, line.who.id, command)
    with pytest.raises(Stale):
        members.change_member(world.context, world.actor("ines"), world.project_id, line.who.id, command)


def _remove(world, who, heir="", by="rafael"):
    line = next(each for each in _members(world, by).values() if each.who.id == world.cast.people[who])
    command = members.RemoveMember(version=line.version, heir_id=world.cast.people[heir] if heir else "")
    members.remove_member(world.context, world.actor(by), world.project_id, line.who.id, command)


def test_removing_lists_what_is_open_and_hands_it_over(world):
    (document,) = world.file(name())
    review = world.start(document)
    world.pick_up(review, "leilani")
    listed = members.list_open_work(
        world.context, world.actor("rafael"), world.project_id, world.cast.people["leilani"]
    )
    assert [(each.step, each.state, each.alone) for each in listed.steps] == [("Check", "running", False)]
    assert listed.routes == ["Check and decide"]
    with pytest.raises(RuleBroken) as refused:
        _remove(world, "leilani")
    assert refused.value.code == "open_work"
    with pytest.raises(RuleBroken) as refused:
        _remove(world, "leilani", "junpei")
    assert refused.value.code == "heir_cannot_mark"
    with pytest.raises(RuleBroken) as refused:
        _remove(world, "saoirse", "marit")
    assert refused.value.code == "heir_is_author"
    _remove(world, "leilani", "dede")
    slip = world.review(review).slip[0]
    assert slip.taken_by.name == "Dede Okonkwo"
    assert [(each.who.name, each.for_whom and each.for_whom.name) for each in slip.places] == [
        ("Dede Okonkwo", "Leilani Brandt"),
        ("Anouk Ferreira", None),
        ("Rafael Nwosu", None),
    ]
    assert "dede@nettlecombe.example" in [mail["to_email"] for mail in _mails(world)]
    with pytest.raises(NotFound):
        world.marks(document[1], "leilani")
    assert "Leilani Brandt" in world.sql("SELECT body FROM audit_entry WHERE kind = 'step_picked_up'")[0][0].decode()


def test_a_removed_persons_route_goes_on_with_the_heir(world):
    _remove(world, "saoirse", "dede")
    (document,) = world.file(name())
    review = world.review(world.start(document))
    assert review.slip[1].asks == "Dede Okonkwo"


def _space(world):
    return workspace.read_workspace(world.context, world.actor("ines"))


def test_the_workspace_is_for_stewards(world):
    for who in ("rafael", "marit", "leilani"):
        with pytest.raises(NotAllowed):
            workspace.read_workspace(world.context, world.actor(who))
    assert [each.number for each in _space(world).projects] == ["BFT"]


def test_two_companies_are_merged_with_their_people_and_access(world):
    _add(world, _person("ida@x.example", company=NewCompany(name="Nettlecomb Fire", code="NCF", part="consultant")))
    codes = {each.code: each.id for each in _space(world).companies}
    command = workspace.MergeCompanies(from_id=codes["NFA"], into_id=codes["NCF"])
    workspace.merge_companies(world.context, world.actor("ines"), command)
    assert "NFA" not in {each.code for each in _space(world).companies}
    assert _members(world)["dede@nettlecombe.example"].who.company == "NCF"
    granted = world.sql("SELECT level FROM access_grant WHERE to_kind = 'company' AND to_id = ?", codes["NCF"])
    assert granted == [(3,)]
    with pytest.raises(RuleBroken):
        workspace.merge_companies(
            world.context, world.actor("ines"), workspace.MergeCompanies(from_id=codes["NCF"], into_id=codes["NCF"])
        )


def _steward(world, who, **change):
    line = next(each for each in _space(world).people if each.who.id == world.cast.people[who])
    company = next(each.id for each in _space(world).companies if each.code == line.who.company)
    given = {"name": line.who.name, "company_id": company, "steward": line.steward, "state": "active", **change}
    workspace.change_person(world.context, world.actor("ines"), line.who.id, workspace.ChangePerson(**given))


def test_the_last_steward_stays(world):
    for change in ({"steward": False}, {"state": "removed"}):
        with pytest.raises(RuleBroken) as refused:
            _steward(world, "ines", **change)
        assert refused.value.code == "last_steward"
    _steward(world, "rafael", steward=True)
    _steward(world, "ines", steward=False)


def test_nobody_leaves_the_workspace_out_of_a_project(world):
    with pytest.raises(RuleBroken) as refused:
        _steward(world, "anouk", state="removed")
    assert refused.value.code == "still_in_projects"


def test_the_first_steward_comes_by_the_command_line(world):
    link = workspace.make_steward(world.context, "First One", "first@own.example", ("OWN", "Own Company", "client"))
    token = link_token(world.context, link)
    cookie = key_links.use_link(world.context, token, key_links.UseKeyLink(password=PASSWORD), "here")
    assert sign_in.who_is(world.context, cookie).actor.steward
    with world.context.database.read() as session:
        assert session.scalars(select(PersonRow).where(PersonRow.email == "first@own.example")).one().steward


def test_a_steward_goes_into_every_project_without_being_in_it(world):
    me = sign_in.sign_in(
        world.context, SignIn(email="ines@hollinbrook.example", password=DEMO_PASSWORD), Browser("here")
    )[0]
    projects = sign_in.read_me(world.context, sign_in.who_is(world.context, me)).projects
    assert [(each.number, each.leads, each.level) for each in projects] == [("BFT", True, "keep")]
