"""By eye: a patch every source has is the housing's, any other its source's. Common practice, no
published source.
"""

from itertools import permutations

from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.findings import Level
from cold_arc.core.metering.by_eye import LOOKS, Patch, patch_findings

HERE, NEAR, FAR = Patch("dark", -4.0, -2.0), Patch("dark", -3.0, -1.5), Patch("dark", 4.0, -2.0)


def test_one_source_tells_nothing_apart():
    assert patch_findings({"own": [HERE]}) == []


def test_what_every_source_has_is_the_housings():
    [finding] = patch_findings({"own": [HERE], "slim": [NEAR], "thick": [HERE]})
    assert finding.id == "patch-of-housing"
    assert finding.level is Level.NOTE


def test_what_one_source_has_is_its_own():
    [finding] = patch_findings({"own": [], "slim": [HERE], "thick": []})
    assert finding.values["having"] == 1
    assert finding.level is Level.CAUTION


def test_another_look_or_another_place_is_another_patch():
    findings = patch_findings({"own": [HERE], "slim": [Patch("coloured", -4.0, -2.0), FAR]})
    assert len(findings) == 3
    assert not [finding for finding in findings if finding.id == "patch-of-housing"]


PATCHES = st.builds(Patch, st.sampled_from(sorted(LOOKS)), st.floats(-45, 45), st.floats(-20, 20))


@given(st.lists(st.lists(PATCHES, max_size=2), min_size=2, max_size=3), PATCHES)
def test_a_patch_put_into_every_pattern_is_called_the_housings_in_any_order(patterns, shared):
    named = {f"source {place}": [shared, *each] for place, each in enumerate(patterns)}
    for order in permutations(named):
        findings = patch_findings({name: named[name] for name in order})
        assert any(finding.id == "patch-of-housing" for finding in findings)
