"""Random routes, acted on at random, against a second reading of the handbook (§8) that is written differently.

The second reading knows nothing of steps that begin and end: it goes through the hands that were taken, in their
order, stage by stage.
"""

from hypothesis import given, settings
from hypothesis import strategies as st

from nod.core.acts.refusals import Refusal
from nod.core.reviews import acts
from nod.core.reviews.acts import Act, Somebody
from nod.core.reviews.path import MOST_STEPS, Quota, Stage, Step, StepAct, Then, check_path
from nod.core.reviews.running import Answer, DocumentState, ReviewState, StepState, UnderReview
from nod.core.reviews.verdicts import Verdict
from tests.core.reviews.making import moment, person

PEOPLE = ("ann", "bo", "cy", "dee", "eva")
CODES = "CABD"
"""The mildest first: what weighs is the severity, and never the letter."""
VERDICTS = tuple(Verdict(code, code, at, True, False, "go") for at, code in enumerate(CODES))
LEAD = Somebody("lou", runs=True, started=True)


@st.composite
def _steps(draw, *, sums_up=False):
    act = draw(st.sampled_from(StepAct)) if not sums_up else StepAct.DECIDE
    people = draw(st.lists(st.sampled_from(PEOPLE), min_size=1, max_size=4, unique=True))
    quota = draw(st.sampled_from(Quota))
    return Step("s", act, person(*people), quota, draw(st.integers(1, 3)), sums_up=sums_up)


@st.composite
def _paths(draw):
    stages = []
    for _ in range(draw(st.integers(1, 4))):
        steps = draw(st.lists(_steps(), min_size=1, max_size=2))
        if draw(st.booleans()):
            steps.append(draw(_steps(sums_up=True)))
        then = draw(st.dictionaries(st.sampled_from(CODES), st.sampled_from(Then), max_size=3))
        stages.append(Stage(tuple(steps), then))
    return tuple(stages)


_DOCUMENTS = st.lists(st.frozensets(st.sampled_from(PEOPLE), max_size=2), min_size=1, max_size=3)


def _second_reading(path, authors, log):
    """By document: the verdict, and whether it went back; and how many stages are over."""
    going, verdicts, back, over = dict(authors), {}, set(), 0
    log, first = list(log), 0
    for stage in path:
        if not going:
            break
        numbers = range(first, first + len(stage.steps))
        first += len(stage.steps)
        hands = _stage_hands(stage, numbers, going, log)
        if hands is None:
            break
        over += 1
        for document in list(going):
            said = [
                (step.sums_up, CODES.index(answers[document]), answers[document])
                for step, own in zip(stage.steps, hands, strict=True)
                for answers in own
                if answers.get(document)
            ]
            if not said:
                continue
            # Who sums up outweighs; otherwise the most severe.
            verdicts[document] = max(said)[2]
            follows = stage.then.get(verdicts[document], Then.ON)
            if follows is not Then.ON:
                del going[document]
            if follows is Then.BACK:
                back.add(document)
    return verdicts, back, over


def _stage_hands(stage, numbers, going, log):
    """What was handed in of each step of a stage, or None if one is not over."""
    hands = {number: [] for number in numbers}
    ended = {number: False for number in numbers}
    for kind, number, who, answers in log:
        if number not in hands:
            continue
        if kind == "end":
            ended[number] = True
        else:
            hands[number].append((who, answers))
    for step, number in zip(stage.steps, numbers, strict=True):
        allowed = [_own(step, named.id, going) for named in step.whom]
        may = [any(each) if step.quota is Quota.ALL else all(each) for each in allowed]
        wanted = {Quota.ANY: 1, Quota.ALL: sum(may), Quota.SOME: min(step.least, sum(may))}[step.quota]
        if not ended[number] and not (hands[number] and len(hands[number]) >= wanted):
            return None
    return [[answers for _, answers in hands[number]] for number in numbers]


def _own(step, who, going):
    return [step.act is StepAct.COMMENT or who not in authors for authors in going.values()]


def _begun(path, documents):
    """Nothing for a path on which nobody could decide on something."""
    under = [UnderReview(id, each) for id, each in documents.items()]
    try:
        return acts.start(path, under, VERDICTS, moment()).review
    except Refusal:
        for stage in path:
            for step in stage.steps:
                allowed = [_own(step, named.id, documents) for named in step.whom]
                hands = [own for own in allowed if (any(own) if step.quota is Quota.ALL else all(own))]
                if not all(any(own[at] for own in hands) for at in range(len(documents))):
                    return None
        raise


def _try(review, data, log):
    """One act, by anybody, at any step; the review as it was if it is refused."""
    anybody = [(number, name) for number in range(len(review.steps)) for name in PEOPLE]
    wanted = [(number, name) for number, name in anybody if name in review.steps[number].asked]
    number, name = data.draw(st.sampled_from(wanted if wanted and data.draw(st.integers(0, 4)) else anybody))
    kind = data.draw(st.sampled_from(["hand", "hand", "hand", "hand", "pick", "put", "end"]))
    who = Somebody(name)
    if kind == "pick":
        return acts.pick_up(review, who, number).review
    if kind == "put":
        return acts.put_down(review, who, number).review
    if kind == "end":
        if data.draw(st.integers(0, 4)):
            return review
        turn = acts.end_step(review, LEAD, number, "nobody there", moment())
        log.append(("end", number, "", {}))
        return turn.review
    run = review.steps[number]
    decides = run.step.act is StepAct.DECIDE
    answers = [
        Answer(each.id, data.draw(st.sampled_from(CODES)) if decides else "", "")
        for each in review.answered_by(run, name)
    ]
    if acts.may(review, who, Act.PICK_UP, number):
        review = acts.pick_up(review, who, number).review
    turn = acts.hand_in(review, who, number, answers, moment())
    log.append(("hand", number, name, {each.document_id: each.verdict for each in answers}))
    return turn.review


def _somebody_may_act(review):
    own = any(
        acts.may(review, Somebody(name), act, number)
        for number in range(len(review.steps))
        for name in PEOPLE
        for act in (Act.PICK_UP, Act.HAND_IN)
    )
    leads = any(acts.may(review, LEAD, Act.END_STEP, number) for number in range(len(review.steps)))
    return own or leads


@settings(max_examples=300, deadline=None)
@given(_paths().filter(lambda path: sum(len(stage.steps) for stage in path) <= MOST_STEPS), _DOCUMENTS, st.data())
def test_random_reviews_go_as_the_second_reading_says(path, authors, data):
    documents = {f"d{place}": each for place, each in enumerate(authors)}
    check_path(path)
    log = []
    review = _begun(path, documents)
    if review is None:
        return
    done = set()
    for _ in range(data.draw(st.integers(5, 60))):
        try:
            review = _try(review, data, log)
        except Refusal:
            continue
        now_done = {number for number, run in enumerate(review.steps) if run.state is StepState.DONE}
        assert done <= now_done, "a step that was over runs again"
        done = now_done
        if review.state is not ReviewState.RUNNING:
            break
        assert _somebody_may_act(review), "stuck"
    verdicts, back, over = _second_reading(path, documents, log)
    assert {each.id: each.verdict for each in review.documents.values() if each.verdict} == verdicts
    assert {each.id for each in review.documents.values() if each.state is DocumentState.BACK} == back
    stages_done = sum(
        all(run.state is StepState.DONE for _, run in review.of_stage(stage)) for stage in range(len(path))
    )
    assert stages_done == over
    kept = {
        (number, place.person): {each.document_id: each.verdict for each in place.answers}
        for number, run in enumerate(review.steps)
        for place in run.places
        if place.answers
    }
    assert kept == {(number, name): answers for kind, number, name, answers in log if kind == "hand" and answers}
