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
from nod.core.reviews.running import Answer, DocumentState, PlaceState, ReviewState, StepState, UnderReview
from nod.core.reviews.verdicts import Verdict
from tests.core.reviews.making import moment, person

PEOPLE = ("ann", "bo", "cy", "dee", "eva")
OTHERS = (*PEOPLE, "fay", "gil")
"""Those, and two whom no route names: places are given to them on the way."""
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
        # A newer revision begins the row again: what was decided of the one before does not count for it.
        for each, theirs in _come_again(log, numbers):
            going[each] = theirs
            verdicts.pop(each, None)
        hands = _stage_hands(stage, numbers, going, log)
        if hands is None:
            break
        over += 1
        for document in list(going):
            said = _said_of(document, stage, hands)
            follows = stage.then.get(said, Then.ON)
            verdicts |= {document: said} if said else {}
            back |= {document} if follows is Then.BACK else set()
            if follows is not Then.ON:
                del going[document]
    return verdicts, back, over


def _said_of(document, stage, hands):
    """Who sums up outweighs; otherwise the most severe. Empty where nobody decided."""
    said = [
        (step.sums_up, CODES.index(answers[document]), answers[document])
        for step, own in zip(stage.steps, hands, strict=True)
        for answers in own
        if answers.get(document)
    ]
    return max(said)[2] if said else ""


def _come_again(log, numbers):
    """Documents that were swapped while these steps ran, each with its authors since."""
    return [pair for kind, number, _, more in log if kind == "swap" and number in numbers for pair in more.items()]


def _stage_hands(stage, numbers, going, log):
    """What was handed in of each step of a stage, or None if one is not over."""
    asked = {number: [each.id for each in step.whom] for number, step in zip(numbers, stage.steps, strict=True)}
    hands = {number: [] for number in numbers}
    ended = {number: False for number in numbers}
    names = {number: list(each) for number, each in asked.items()}
    for kind, number, who, answers in log:
        if number not in hands:
            continue
        if kind == "end":
            ended[number] = True
        elif kind == "hand":
            hands[number].append((who, answers))
        elif kind == "swap":
            hands, ended = {each: [] for each in numbers}, {each: False for each in numbers}
            names = {each: list(those) for each, those in asked.items()}
        else:
            gone, other = who
            names[number] = [*(each for each in names[number] if each != gone), other]
    for step, number in zip(stage.steps, numbers, strict=True):
        allowed = [_own(step, name, going) for name in names[number]]
        may = [any(each) if step.quota is Quota.ALL else all(each) for each in allowed]
        wanted = {Quota.ANY: 1, Quota.ALL: sum(may), Quota.SOME: min(step.least, sum(may))}[step.quota]
        if not ended[number] and not (hands[number] and len(hands[number]) >= wanted):
            return None
    return [[answers for _, answers in hands[number]] for number in numbers]


def _own(step, who, going):
    return [step.act is StepAct.COMMENT or who not in authors for authors in going.values()]


def _is_swap(log):
    return bool(log) and log[-1][0] == "swap"


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


def _wish(review, data):
    """One act, by anybody, at any step, as somebody decided on it who saw the review like this.

    It is done on the review as it is by then: raises Refusal where that is not possible any more.
    """
    anybody = [(number, name) for number in range(len(review.steps)) for name in OTHERS]
    wanted = [(number, name) for number, name in anybody if name in review.steps[number].asked]
    number, name = data.draw(st.sampled_from(wanted if wanted and data.draw(st.integers(0, 4)) else anybody))
    kind = data.draw(st.sampled_from(["hand", "hand", "hand", "hand", "pick", "put", "end", "on", "in", "swap"]))
    if kind in ("on", "in"):
        return _given_to_another(data, number, name, kind)
    if kind == "swap":
        return _left_alone if data.draw(st.integers(0, 2)) else _swapped(review, data)
    if kind == "end":
        return _left_alone if data.draw(st.integers(0, 4)) else _ended(number)
    if kind == "hand":
        return _handed_in(review, data, number, name)
    act = acts.pick_up if kind == "pick" else acts.put_down
    return lambda now, _log: act(now, Somebody(name), number).review


def _left_alone(now, _log):
    return now


def _ended(number):
    def do(now, log):
        turn = acts.end_step(now, LEAD, number, "nobody there", moment())
        log.append(("end", number, "", {}))
        return turn.review

    return do


def _handed_in(review, data, number, name):
    decides = review.steps[number].step.act is StepAct.DECIDE
    answers = [
        Answer(each.id, data.draw(st.sampled_from(CODES)) if decides else "", "")
        for each in review.answered_by(review.steps[number], name)
    ]

    def do(now, log):
        if acts.may(now, Somebody(name), Act.PICK_UP, number):
            now = acts.pick_up(now, Somebody(name), number).review
        turn = acts.hand_in(now, Somebody(name), number, answers, moment())
        log.append(("hand", number, name, {each.document_id: each.verdict for each in answers}))
        return turn.review

    return do


def _given_to_another(data, number, name, kind):
    """Handed on by whoever has it, or somebody put in by a lead: in another's place, or beside the rest."""
    other = data.draw(st.sampled_from(OTHERS))
    gone = name if kind == "on" or data.draw(st.booleans()) else ""

    def do(now, log):
        if kind == "on":
            turn = acts.hand_on(now, Somebody(name), number, other)
        else:
            turn = acts.put_in(now, LEAD, number, gone, other)
        log.append((kind, number, (gone, other), {}))
        return turn.review

    return do


def _swapped(review, data):
    """Some of what goes round comes again, by whomever."""
    going = sorted(each.id for each in review.going())
    those = data.draw(st.lists(st.sampled_from(going), min_size=1, unique=True))
    authors = {each: data.draw(st.frozensets(st.sampled_from(OTHERS), max_size=2)) for each in those}

    def do(now, log):
        turn = acts.swap(now, LEAD, authors, moment())
        log.append(("swap", next(number for number, _ in now.of_stage(now.stage_now())), "", authors))
        return turn.review

    return do


def _somebody_may_act(review):
    own = any(
        acts.may(review, Somebody(name), act, number)
        for number in range(len(review.steps))
        for name in OTHERS
        for act in (Act.PICK_UP, Act.HAND_IN)
    )
    leads = any(acts.may(review, LEAD, Act.END_STEP, number) for number in range(len(review.steps)))
    return own or leads


def _not_crossed(review, log):
    """What was handed in since its row began, the last time."""
    found = {}
    for kind, number, who, answers in log:
        if kind == "swap":
            stage = review.steps[number].stage
            found = {key: each for key, each in found.items() if review.steps[key[0]].stage != stage}
        elif kind == "hand" and answers:
            found[number, who] = answers
    return found


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
    waiting = []
    for _ in range(data.draw(st.integers(5, 60))):
        # Two who decide in the same second saw the same: one is first, the other meets what that one left, or is told.
        waiting = waiting or [_wish(review, data) for _ in range(data.draw(st.integers(1, 2)))]
        try:
            review = waiting.pop()(review, log)
        except Refusal:
            continue
        now_done = {number for number, run in enumerate(review.steps) if run.state is StepState.DONE}
        again = {number for number, _ in review.of_stage(review.stage_now())} if _is_swap(log) else set()
        assert done - again <= now_done, "a step that was over runs again"
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
        if place.answers and place.state is not PlaceState.CROSSED
    }
    assert kept == _not_crossed(review, log)
    # What a swap crossed out stays on the slip.
    said = sum(kind == "hand" and bool(answers) for kind, _, _, answers in log)
    assert said == sum(bool(place.answers) for run in review.steps for place in run.places)
