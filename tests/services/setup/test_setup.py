"""Setting a project up, starters, and the numbering editor's explanations."""

from datetime import date

import pytest

from nod.core.acts.refusals import NotAllowed, RuleBroken, Stale
from nod.services.access import folders
from nod.services.intake import intake
from nod.services.setup import answer_times, distribution, setup, setup_view, starters, working_days, workspace
from nod.services.setup.answer_times import SetTerms, TermGiven
from nod.services.setup.distribution import DistributionLine, SetDistribution, ShareSet
from nod.services.setup.setup_view import CodeWords, Holiday, NumberFieldSet, Profile, TypedField
from tests.world import NUMBER, name, pdf


def _setup(world, who="rafael", project=""):
    return setup_view.read_setup(world.context, world.actor(who), project or world.project_id)


def _save(world, act, command, who="rafael", **values):
    values = {"version": _setup(world).version, **values}
    return act(world.context, world.actor(who), world.project_id, command(**values))


def _codes(world, **change):
    shown = _setup(world)
    given = {
        "revision_scheme": shown.revision_scheme,
        "statuses": shown.statuses,
        "verdict_set": shown.verdict_set,
        **change,
    }
    return _save(world, setup.set_codes, setup.SetCodes, **given)


def test_the_profile_is_saved_and_recorded(world):
    profile = Profile(
        address="Quay Road", starts_on="2027-01-04", ends_on="2029-06-01", value="41,000,000", currency="GBP"
    )
    saved = _save(world, setup.set_profile, setup.SetProfile, name="Ferry", time_zone="Europe/Oslo", profile=profile)
    shown = _setup(world)
    assert (shown.name, shown.time_zone, shown.profile.starts_on) == ("Ferry", "Europe/Oslo", date(2027, 1, 4))
    assert saved.version == shown.version
    assert world.kinds()[-1] == "project_changed"


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"time_zone": "Mars/Base"}, "zone_unknown"),
        ({"name": "  "}, "name_missing"),
        ({"profile": Profile(starts_on="2027-02-01", ends_on="2027-01-01")}, "ends_before"),
    ],
)
def test_a_wrong_profile_is_named(world, change, code):
    given = {"name": "Ferry", "time_zone": "Europe/London", "profile": Profile(), **change}
    with pytest.raises(RuleBroken) as refused:
        _save(world, setup.set_profile, setup.SetProfile, **given)
    assert refused.value.code == code


def test_two_leads_saving_the_second_is_told(world):
    fields = [TypedField(name="Package", kind="text", choices=[])]
    _save(world, setup.set_fields, setup.SetFields, fields=fields)
    with pytest.raises(Stale):
        _save(world, setup.set_fields, setup.SetFields, version=1, fields=[])
    assert [each.name for each in _setup(world).fields] == ["Package"]


def test_controllers_see_the_set_up_and_leads_change_it(world):
    assert _setup(world, "marit").number == "BFT"
    with pytest.raises(NotAllowed):
        _save(world, setup.set_fields, setup.SetFields, who="marit", fields=[])
    with pytest.raises(NotAllowed):
        _setup(world, "leilani")


def _figures(name="number", shortest=4, longest=4, kind="figures"):
    return NumberFieldSet(name=name, codes=[], kind=kind, shortest=shortest, longest=longest)


def _coded(name, **codes):
    return NumberFieldSet(name=name, codes=[CodeWords(code=c, words=w) for c, w in codes.items()], kind="codes")


def _try(world, *fields, number="", separator="-"):
    command = setup.TryNumber(separator=separator, number_fields=list(fields), number=number)
    return setup.try_number(world.context, world.actor("rafael"), world.project_id, command)


def test_the_editor_shows_an_example_and_explains_a_wrong_number(world):
    world.file(name())
    fields = (_coded("discipline", A="Architecture", S="Structure"), _figures())
    tried = _try(world, *fields, number="5-0101")
    assert (tried.example, tried.outline) == ("A-0001", "discipline-number")
    assert tried.faults == ["Field discipline is “5”, which is not a code here. Nearest: S (Structure)."]
    assert (tried.breaking, tried.breaking_like) == (1, [NUMBER])
    assert _try(world, *fields, number="A-0101").faults == []
    mixed = _try(world, _figures("zone", 2, 3, "mixed"), number="A")
    assert (mixed.example, mixed.faults) == ("A1", ["Field zone is “A”; it takes two to three capitals or figures."])


def test_the_present_convention_goes_round_unchanged(world):
    shown = _setup(world)
    before = world.sql("SELECT rules FROM project")[0][0]
    _save(world, setup.set_numbering, setup.SetNumbering, separator="-", number_fields=shown.number_fields)
    assert world.sql("SELECT rules FROM project")[0][0] == before
    assert shown.example == "BFT-BHT-Z1-00-D-A-0001"


def test_a_saved_convention_is_what_intake_holds_files_against(world):
    fields = [_coded("discipline", A="Architecture"), _figures(shortest=3, longest=3)]
    _save(world, setup.set_numbering, setup.SetNumbering, separator=".", number_fields=fields)
    (arrival,) = world.batch(world.arrive({name("A.101"): pdf()})).arrivals
    assert [each.code for each in arrival.findings] == ["new_number"]
    (other,) = world.batch(world.arrive({name(): pdf()})).arrivals
    assert other.findings[0].code == "number_breaks_convention"


@pytest.mark.parametrize(
    ("fields", "separator", "code"),
    [
        ([], "-", "field_count"),
        ([_figures("a"), _figures("a")], "-", "field_twice"),
        ([_figures("")], "-", "field_name"),
        ([_figures(shortest=5, longest=2)], "-", "field_length"),
        ([_figures(shortest=1, longest=99)], "-", "field_length"),
        ([_coded("d", **{"A-B": "x"})], "-", "code_invalid"),
        ([NumberFieldSet(name="d", codes=[], kind="codes")], "-", "field_empty"),
        ([_figures()], "x", "separator"),
    ],
)
def test_a_convention_that_cannot_be_read_back_is_refused(world, fields, separator, code):
    with pytest.raises(RuleBroken) as refused:
        _try(world, *fields, separator=separator)
    assert refused.value.code == code


def test_codes_that_documents_have_stay(world):
    world.closed_review(world.file(name())[0], verdict="B")
    shown = _setup(world)
    for change, code in (
        ({"revision_scheme": "letters"}, "scheme_in_use"),
        ({"statuses": [each for each in shown.statuses if each.code != "S3"]}, "code_in_use"),
        ({"verdict_set": [each for each in shown.verdict_set if each.code != "B"]}, "code_in_use"),
        ({"verdict_set": []}, "no_good_verdict"),
        ({"statuses": [*shown.statuses, CodeWords(code="S3", words="again")]}, "code_twice"),
    ):
        with pytest.raises(RuleBroken) as refused:
            _codes(world, **change)
        assert refused.value.code == code
    _codes(world, statuses=[*shown.statuses, CodeWords(code="X1", words="as bought")])
    assert _setup(world).statuses[-1].code == "X1"


def test_an_empty_project_may_take_another_scheme(world):
    _codes(world, revision_scheme="letters")
    assert _setup(world).first_revision == "A"


def test_days_and_holidays(world):
    proposed = working_days.propose_holidays("GB", "SCT", 2027, 2027).holidays
    # The published calendar that comes with the package `holidays`; St Andrew's Day is Scotland's own.
    assert date(2027, 11, 30) in [each.on for each in proposed]
    days = {"working_weekdays": [0, 1, 2, 3, 4, 5], "holidays": proposed}
    _save(world, working_days.set_days, working_days.SetDays, **days)
    shown = _setup(world)
    assert (shown.working_weekdays, shown.holidays) == ([0, 1, 2, 3, 4, 5], proposed)
    for wrong, code in (
        ({"working_weekdays": []}, "no_working_day"),
        ({"holidays": [Holiday(on="2027-01-01", name="a"), Holiday(on="2027-01-01", name="b")]}, "holiday_twice"),
        ({"holidays": [Holiday(on="2027-01-01", name=" ")]}, "words_missing"),
    ):
        with pytest.raises(RuleBroken) as refused:
            _save(world, working_days.set_days, working_days.SetDays, **{**days, **wrong})
        assert refused.value.code == code
    for country, region in (("XX", ""), ("GB", "zz"), ("../..", "")):
        with pytest.raises(RuleBroken):
            working_days.propose_holidays(country, region, 2027, 2027)
    assert {"GB", "NO"} <= {each.code for each in working_days.list_countries().countries}


def _roles(world, *roles, tools=("reviews", "transmittals")):
    given = [setup.RoleSet(code=code, name=name, tools=list(brings)) for code, name, brings in roles]
    return _save(world, setup.set_roles, setup.SetRoles, roles=given, tools=list(tools))


KEPT = (("author", "Author", ("reviews",)), ("reviewer", "Reviewer", ("reviews",)), ("reader", "Reader", ()))


def test_roles_and_tools(world):
    _roles(world, *KEPT, ("", "Site engineer", ("reviews",)), tools=("reviews",))
    from nod.services.people import people

    shown = people.list_people(world.context, world.actor("rafael"), world.project_id)
    assert [role.code for role in shown.roles] == [
        "lead",
        "controller",
        "author",
        "reviewer",
        "reader",
        "site_engineer",
    ]
    assert [(tool.code, tool.on) for tool in shown.tools] == [
        ("sessions", False), ("reviews", True), ("submittals", False), ("transmittals", False),
        ("letters", False),
    ]  # fmt: skip
    for roles, code in (
        (KEPT[:2], "role_in_use"),
        ((*KEPT, ("", "reader", ())), "role_twice"),
        ((*KEPT, ("", "Lead", ())), "role_twice"),
        ((*KEPT, ("", " ", ())), "role_name"),
    ):
        with pytest.raises(RuleBroken) as refused:
            _roles(world, *roles)
        assert refused.value.code == code


def _make(world, starter, number="NEW", **more):
    given = {"name": "New quay", "time_zone": "Europe/London", "lead_email": "rafael@hollinbrook.example", **more}
    command = workspace.MakeProject(number=number, starter_id=starter, **given)
    return workspace.make_project(world.context, world.actor("ines"), command).id


@pytest.mark.parametrize("starter", ["shipped-building", "shipped-works"])
def test_a_project_begins_from_each_shipped_starter(world, starter):
    project = _make(world, starter)
    shown = _setup(world, project=project)
    assert shown.number == "NEW"
    made = folders.list_folders(world.context, world.actor("rafael"), project)
    assert [each.depth for each in made][:2] == [0, 1]
    command = intake.OpenBatch(project_id=project)
    batch = intake.open_batch(world.context, world.actor("rafael"), command).id
    revision = shown.first_revision
    number = shown.example
    intake.add_file(world.context, world.actor("rafael"), batch, name(number, revision), [pdf()])
    world.look()
    assert [each.result for each in world.register(batch, "rafael")] == ["registered"]


def test_a_projects_set_up_is_kept_and_begun_from(world):
    keep = starters.KeepStarter(project_id=world.project_id, name="Ferry terminals", purpose="By the water")
    starters.keep_starter(world.context, world.actor("rafael"), keep)
    with pytest.raises(RuleBroken):
        starters.keep_starter(world.context, world.actor("rafael"), keep)
    listed = starters.list_starters(world.context, world.actor("ines")).starters
    kept = next(each for each in listed if each.name == "Ferry terminals")
    assert (kept.folders, kept.made_by, kept.shipped) == (13, "Rafael Nwosu", False)
    project = _make(world, kept.id)
    names = [each.name for each in folders.list_folders(world.context, world.actor("rafael"), project)]
    assert "Temporary works" in names
    granted = world.sql("SELECT to_kind, count(*) FROM access_grant WHERE project_id = ? GROUP BY 1", project)
    assert dict(granted) == {"everyone": 1, "role": 4}
    assert _setup(world, project=project).number_fields[0].codes[0].code == "NEW"


def test_a_starter_has_the_lines_of_roles_and_none_of_companies(world):
    (company,) = world.sql("SELECT company_id FROM person WHERE id = ?", world.cast.people["leilani"])[0]
    shares = [ShareSet(kind="role", id="reader", share="know"), ShareSet(kind="company", id=company, share="act")]
    _save(world, distribution.set_distribution, SetDistribution, lines=[DistributionLine(shares=shares)])
    terms = [TermGiven(kind="review", days=14), TermGiven(kind="review", company_id=company, days=7)]
    _save(world, answer_times.set_terms, SetTerms, terms=terms)
    keep = starters.KeepStarter(project_id=world.project_id, name="Ferry terminals", purpose="By the water")
    starters.keep_starter(world.context, world.actor("rafael"), keep)
    listed = starters.list_starters(world.context, world.actor("ines")).starters
    project = _make(world, next(each.id for each in listed if each.name == "Ferry terminals"))
    (line,) = distribution.read_distribution(world.context, world.actor("rafael"), project).lines
    assert line.shares == shares[:1]
    assert answer_times.read_terms(world.context, world.actor("rafael"), project).terms == terms[:1]


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"number": "BFT"}, "number_taken"),
        ({"number": "../x"}, "project_number"),
        ({"name": ""}, "name_missing"),
        ({"time_zone": "Nowhere"}, "zone_unknown"),
        ({"lead_email": "new@x.example"}, "company_missing"),
    ],
)
def test_a_project_that_cannot_begin_leaves_nothing(world, change, code):
    before = world.kinds()
    with pytest.raises(RuleBroken) as refused:
        _make(world, "shipped-works", **change)
    assert (refused.value.code, world.kinds()) == (code, before)


def test_a_lead_brings_a_company_that_nobody_knew(world):
    company = {"name": "Osprey Locks", "code": "OSP", "part": "main contractor"}
    lead = {"lead_email": "vera@osprey.example", "lead_name": "Vera Lindqvist", "lead_company": company}
    _make(world, "shipped-works", **lead)
    of_vera = "SELECT c.name, c.code FROM person p JOIN company c ON c.id = p.company_id WHERE p.name LIKE 'Vera%'"
    assert world.sql(of_vera) == [("Osprey Locks", "OSP")]
    for change, refusal in (
        ({"code": "BHT"}, "code_taken"),
        ({"part": "king"}, "part_unknown"),
        ({"name": " "}, "company_missing"),
    ):
        before = world.kinds()
        with pytest.raises(RuleBroken) as refused:
            _make(
                world,
                "shipped-works",
                "NX",
                lead_email="x@y.example",
                lead_company={**company, "name": "Else", **change},
            )
        assert (refused.value.code, world.kinds()) == (refusal, before)


def test_a_native_is_asked_for_by_form(world):
    def ask(*forms, who="rafael"):
        version = _setup(world).version
        command = setup.SetNatives(version=version, forms=list(forms))
        return setup.set_natives(world.context, world.actor(who), world.project_id, command)

    with pytest.raises(NotAllowed):
        ask("D", who="marit")
    with pytest.raises(RuleBroken) as refused:
        ask("D", "Q")
    assert refused.value.code == "form_unknown"
    ask("S", "D")
    assert _setup(world).native_forms == ["D", "S"]
    alone, paired = name(), name(number="BFT-TRA-Z1-01-D-A-0102")
    files = {alone: pdf("a"), paired: pdf("b"), paired.replace(".pdf", ".dwg"): b"AC1032 x"}
    batch = world.arrive(files)

    def missing():
        arrivals = world.arrivals(batch).items()
        return {file for file, each in arrivals if "native_missing" in {one.code for one in each.findings}}

    assert missing() == {alone}
    ask()
    assert missing() == set()


def test_projects_are_begun_by_stewards_alone(world):
    command = workspace.MakeProject(
        number="NEW", name="n", time_zone="UTC", starter_id="shipped-works", lead_email="rafael@hollinbrook.example"
    )
    with pytest.raises(NotAllowed):
        workspace.make_project(world.context, world.actor("rafael"), command)
