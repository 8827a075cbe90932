"""Standing answers: what the core answers about kept jobs and drawn inputs, kept as it was, so that
nothing it says changes unseen.

They say what was, not what is right: that is held by the tests of each rule. Where an answer is
meant to change, `python -m tests.standing.renew` writes it anew, and the change is read in the
difference. The kept jobs are of the version that wrote them: what it left behind is read still.
"""
