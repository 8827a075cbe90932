"""What the core answered before it answers still: see :mod:`tests.standing`."""

from itertools import islice

import pytest

from tests.standing import answering
from tests.thorough import usual

# So many changed answers are shown.
SHOWN = 8


SUBJECTS = answering.subjects()


@pytest.mark.parametrize("subject", usual(SUBJECTS, list(filter(answering.is_usual, SUBJECTS))))
def test_nothing_is_answered_otherwise_unseen(subject):
    changed = list(islice(answering.changed(subject, answering.asked_anew(subject)), SHOWN))
    assert not changed, "\n".join([*changed, "meant? python -m tests.standing.renew"])


def test_a_changed_answer_is_seen():
    was = answering.as_kept("aiming")
    question = next(question for question in was if " -0.01" in question)
    changes = list(answering.changed("aiming", was | {question: "another"}))
    assert [change.partition("\n")[0] for change in changes] == [question]
