"""The school's pages: a round of ten by its forms; nothing tells the answer; no job is written
into.
"""

from __future__ import annotations

import re

import pytest
from sqlalchemy import text

from cold_arc.core.beam import model
from cold_arc.core.school.exercise import Posed
from cold_arc.core.school.rounds import A_ROUND
from cold_arc.core.school.skills import skills
from cold_arc.school import taking
from cold_arc.school.making import make
from cold_arc.store import school
from cold_arc.store.database import open_database, writing
from cold_arc.web.school import cards
from tests.school.test_exercises import right_answer

ROUND = "ab" * 8
WHERE = f"/school/{ROUND}"
# A skill of each kind; those whose beams take long are tried elsewhere.
OF_EACH_KIND = [
    *("base.alike", "read.traffic", "compare.gain", "line.edge", "collar.preset", "screws.two"),
    *(
        "meter.range",
        "take.six",
        "fault.search",
        "order.back",
        "track.again",
        "leave.law",
        "tell.lens",
    ),
]


@pytest.fixture(autouse=True)
def warm():
    """Beams can be computed."""
    model.warm()


def pose(shop, skill, number=1, level=2, seed=5, learner=""):
    with writing(open_database(shop.folder)()) as session:
        school.pose(session, learner, ROUND, number, Posed(skill, level, seed), None)
        session.commit()
    return make(Posed(skill, level, seed))


def fields(exercise, answer, sure="2"):
    """An answer as the page's form sends it."""
    if exercise.posed.kind == "line":
        return {"distance": "10 m", "stands": f"{float(answer) * 100:+.3f} %", "sure": sure}
    if exercise.posed.kind == "collar":
        return {"turned": f"{float(answer):.1f}°", "sure": sure}
    if exercise.posed.kind in ("screws", "take"):
        return {"made": answer, "sure": sure}
    if exercise.posed.kind == "fault":
        made, _, pick = answer.partition("|")
        return {"made": made, "pick": pick, "sure": sure}
    return {"pick": answer.split(","), "sure": sure}


@pytest.mark.parametrize("skill", OF_EACH_KIND)
def test_a_question_of_each_kind_is_asked_answered_and_explained(shop, skill):
    exercise = pose(shop, skill)
    page = shop.get(f"{WHERE}/1")
    assert exercise.ask in page
    assert skills()[skill].cue not in page
    assert "Right" not in page
    page = shop.post(f"{WHERE}/1", **fields(exercise, right_answer(exercise)))
    assert "<h2>Right</h2>" in page
    assert skills()[skill].cue in page
    assert skills()[skill].rule in page
    asked = stored(shop, 1)
    assert (asked.answered.right, asked.answered.sure) == (True, 2)
    assert stored(shop, 2).answered is None


def stored(shop, number):
    with open_database(shop.folder)() as session:
        return school.question(session, ROUND, number)


@pytest.mark.parametrize("skill", OF_EACH_KIND)
def test_no_page_tells_the_answer_before_it_is_given(shop, skill):
    exercise = pose(shop, skill)
    raw = shop.http.get(f"{WHERE}/1").text
    named = any(option.id == skill for option in exercise.options)
    assert raw.count(skill) == named  # among the answers, where it is one
    assert "clock=" not in raw
    assert "traffic=" not in raw
    if exercise.posed.kind == "base":
        assert f"{exercise.shown.base} from behind" not in raw
    for which in (8, 9):
        assert shop.http.get(f"{WHERE}/1/{which}.png").status_code == 404


def test_a_wrong_answer_shows_both_beams_and_what_to_look_for(shop):
    exercise = pose(shop, "read.traffic")
    wrong = next(
        option.id
        for option in exercise.options
        if option.id not in exercise.right and option.id != "read.fine"
    )
    page = shop.post(f"{WHERE}/1", pick=wrong, sure="0")
    assert "Not so" in page
    assert f"So it would look: {exercise.text_of(wrong)}" in page
    assert "As it should be" in page
    for which in (0, 8, 9):
        picture = shop.http.get(f"{WHERE}/1/{which}.png")
        assert picture.data.startswith(b"\x89PNG")
    assert stored(shop, 1).answered.taken_for == wrong


def test_an_answer_sent_again_or_late_changes_nothing(shop):
    exercise = pose(shop, "tell.law")
    (right,) = exercise.right
    wrong = next(option.id for option in exercise.options if option.id != right)
    shop.post(f"{WHERE}/1", pick=wrong, sure="1")
    assert "Not so" in shop.post(f"{WHERE}/1", pick=right, sure="2")
    assert stored(shop, 1).answered.right is False
    following = stored(shop, 2).posed
    shop.post(f"{WHERE}/1", pick=right, sure="2")
    assert stored(shop, 2).posed == following


@pytest.mark.parametrize(
    ("skill", "sent", "said"),
    [
        ("tell.law", {}, "Choose one of the answers."),
        ("tell.law", {"pick": "99"}, "Choose one of the answers."),
        ("line.edge", {"distance": "10 m", "stands": "zz"}, "zz"),
        ("line.edge", {"distance": "10 m", "stands": ""}, "Say where the cut-off stands."),
        ("collar.preset", {"turned": ""}, "Say where it is preset."),
        ("screws.two", {"made": ""}, "Turn a screw first."),
        ("fault.search", {"made": "", "pick": ""}, "Say what it is."),
        ("take.six", {"made": ""}, "Still to be read"),
        ("take.six", {"made": "dance"}, "Write down what the meter reads"),
    ],
)
def test_what_is_no_answer_is_said_beside_it_and_what_was_typed_stays(shop, skill, sent, said):
    pose(shop, skill)
    assert said in shop.post(f"{WHERE}/1", status=422, sure="1", **sent)
    assert stored(shop, 1).answered is None


@pytest.mark.parametrize("sure", ["", "7", "x"])
def test_how_sure_one_is_is_never_guessed(shop, sure):
    exercise = pose(shop, "tell.law")
    (right,) = exercise.right
    assert "Say how sure you are." in shop.post(f"{WHERE}/1", status=422, pick=right, sure=sure)
    assert stored(shop, 1).answered is None


def test_what_is_only_looked_at_is_no_handle(shop):
    exercise = pose(shop, "collar.preset")
    assert 'role="slider"' in shop.http.get(f"{WHERE}/1").text
    page = shop.post(f"{WHERE}/1", **fields(exercise, right_answer(exercise)))
    assert 'role="slider"' not in page
    assert "data-into" not in page


def test_what_was_chosen_stays_beside_the_error(shop):
    pose(shop, "meter.range")
    page = shop.post(f"{WHERE}/1", status=422, pick=["peak", "edge", "below"], sure="1")
    assert "Choose 2 at most." in page
    assert re.search(r'value="edge" checked', page)


def test_screws_are_turned_move_by_move(shop):
    pose(shop, "screws.two")
    page = shop.get(f"{WHERE}/1?made=&height=1&side=")
    assert "3 moves left" in page
    assert 'name="made" value="1,0"' in page
    assert "Turn at least one" in shop.get(f"{WHERE}/1?made=1,0&height=&side=", status=422)
    assert "Must be" in shop.get(f"{WHERE}/1?made=1,0&height=99&side=", status=422)
    assert stored(shop, 1).answered is None


def test_readings_are_taken_act_by_act(shop):
    exercise = pose(shop, "take.six")
    page = shop.get(f"{WHERE}/1?made=engine;dark&act=edge&lux=")
    assert 'name="made" value="engine;dark;edge"' in page
    shown = taking.display(exercise, taking.done(exercise, "engine;dark;edge"))
    assert f">{shown}<" in page
    page = shop.get(f"{WHERE}/1?made=engine;dark;edge&act=write&lux=12.3+x10")
    assert 'value="engine;dark;edge;=123"' in page
    assert "123 lx" in page
    assert "Write down what" in shop.get(f"{WHERE}/1?made=edge&act=write&lux=", status=422)
    assert "Hold the meter" in shop.get(f"{WHERE}/1?made=&act=write&lux=9", status=422)
    assert "zz" in shop.get(f"{WHERE}/1?made=edge&act=write&lux=zz", status=422)
    assert stored(shop, 1).answered is None


def test_tests_on_a_car_are_made_one_by_one(shop):
    exercise = pose(shop, "fault.search")
    test = exercise.shown.tests[0]
    page = shop.get(f"{WHERE}/1?made={test}")
    assert "So far" in page
    assert "%</meter>" not in page


def test_a_round_of_ten_from_begin_to_end(shop):
    assert re.search(r'name="round" value="([0-9a-f]{16})"', shop.http.get("/school").text)
    round_id = ROUND
    shop.post("/school", name="  Mira\n Sol ", round=round_id)
    for number in range(1, A_ROUND + 1):
        with open_database(shop.folder)() as session:
            asked = school.question(session, round_id, number)
        assert asked.learner == "Mira Sol"
        exercise = make(asked.posed)
        answer = right_answer(exercise)
        page = shop.post(f"/school/{round_id}/{number}", **fields(exercise, answer, "1"))
        assert "<h2>Right</h2>" in page, exercise
    with open_database(shop.folder)() as session:
        assert school.question(session, round_id, A_ROUND + 1) is None
        kinds = [q.posed.skill.partition(".")[0] for q in school.round_of(session, round_id)]
    assert len(set(kinds)) > 5
    page = shop.get(f"/school/{round_id}")
    assert f"{A_ROUND} of {A_ROUND} right" in page
    assert "10 answered so far" in shop.get("/school")
    people = shop.get("/school/people")
    assert "Mira Sol" in people


@pytest.mark.parametrize("skill", OF_EACH_KIND)
def test_an_answer_that_can_not_be_read_any_more_breaks_nothing(shop, skill):
    pose(shop, skill)
    with writing(open_database(shop.folder)()) as session:
        session.execute(
            text("UPDATE school_questions SET answer='~', answered_at=asked_at, right=0, sure=1")
        )
        session.commit()
    assert "Not so" in shop.get(f"{WHERE}/1")
    assert "0 of 1 right" in shop.get(WHERE)


def test_a_round_that_was_left_is_gone_on_with(shop):
    pose(shop, "tell.law")
    page = shop.get("/school")
    assert "Go on: question 1 of 10" in page
    assert f"{WHERE}/1" in page


def test_a_round_begun_twice_is_one_round(shop):
    for _ in range(2):
        shop.post("/school", name="", round=ROUND)
    with open_database(shop.folder)() as session:
        assert len(school.round_of(session, ROUND)) == 1


def test_what_is_given_comes_first_and_stands_in_the_teachers_view(shop):
    shop.post("/school/people", name="Mira", skill=["tell.lens", "nothing"])
    assert "Mira" in shop.get("/school/people?of=Mira")
    shop.http.set_cookie("learner", "Mira")
    assert "Given to you: What a lens needs" in shop.get("/school")
    shop.post("/school", name="Mira", round=ROUND)
    assert stored(shop, 1).posed.skill == "tell.lens"
    shop.post("/school/people", name="Mira")
    assert "Given to you" not in shop.get("/school")


def test_confusions_stand_in_the_teachers_view(shop):
    exercise = pose(shop, "leave.law", learner="Mira")
    assert exercise.right == {"leave.law"}
    shop.post(f"{WHERE}/1", pick="leave.aim", sure="1")
    page = shop.get("/school/people?of=Mira")
    assert re.search(r"The law says no</th> <td>It is out of aim</td><td>1 of 1", page)


def test_a_lamp_of_the_shops_own_is_read_without_its_customer(demo):
    page = demo.http.get("/school/people").text
    job, beam = re.search(
        r'name="job" value="(\d+)">\s*<button[^>]*name="beam"\s*value="([^"]+)"', page
    ).groups()
    shown = demo.post("/school/own", job=job, beam=beam)
    assert "What is wrong with this lamp?" in shown
    with open_database(demo.folder)() as session:
        (asked,) = session.execute(text("SELECT skill, lamp FROM school_questions")).all()
    assert asked.skill.startswith("read.")
    assert "reference" not in asked.lamp
    assert "make" not in asked.lamp
    assert demo.http.post("/school/own", data={"job": "999", "beam": beam}).status_code == 404


def test_nothing_is_written_into_a_job(demo):
    def entries():
        with open_database(demo.folder)() as session:
            return session.execute(text("SELECT count(*), max(id) FROM entries")).one()

    before = entries()
    exercise = pose(demo, "tell.law")
    demo.post(f"{WHERE}/1", **fields(exercise, right_answer(exercise)))
    demo.get("/school/people?of=")
    assert entries() == before


def test_every_skill_has_a_card(shop):
    page = shop.get("/school/cards")
    for skill in skills().values():
        assert skill.rule in page
    assert page.count("As it should be") > 8
    assert page.count("/bench/beam.png?") == 2 * len(cards.pairs())
    assert "9005 from behind" in page


@pytest.mark.parametrize(
    "path",
    [
        "/school/zz",
        "/school/abababababababab",
        "/school/abababababababab/1",
        "/school/people?of=%00",
        "/school/ABABABABABABABAB/1",
        "/school/abababababababab/1/0.png",
    ],
)
def test_what_is_not_there_is_said_so(shop, path):
    assert shop.http.get(path).status_code in (200, 404)
    assert shop.http.post("/school", data={"round": "x"}).status_code == 404
