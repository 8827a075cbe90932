"""The whole space of set-ups, figures at and between their limits: an answer or a sentence, never a
fault.
"""

from __future__ import annotations

import math

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cold_arc.core.beam import findings as beam_findings
from cold_arc.core.beam import housings, nominal
from cold_arc.core.beam.report import report_of
from cold_arc.core.beam.setup import CUT_OFFS, LIMITS, SOURCES, SetUp, SetUpError
from tests.thorough import THOROUGH


def figure(name):
    limit = LIMITS[name]
    if name == "rated_volts":
        return st.sampled_from([6.0, 12.0, 24.0])
    if limit.whole:
        return st.integers(int(limit.low), int(limit.high))
    return st.sampled_from([limit.low, limit.high]) | st.floats(limit.low, limit.high)


SETUPS = st.fixed_dictionaries(
    {
        "housing": st.sampled_from(sorted(housings.KINDS)),
        "base": st.sampled_from(nominal.BEAM_BASES),
        "source": st.sampled_from(sorted(SOURCES)),
        "traffic": st.sampled_from(["left", "right"]),
        "high": st.booleans(),
        "cut_off": st.sampled_from(sorted(CUT_OFFS)),
    },
    optional={name: figure(name) for name in LIMITS},
)


def made_or_refused(figures):
    """The set-up, or the sentence that refuses it."""
    try:
        return SetUp(**figures)
    except SetUpError as refused:
        return str(refused)


def finite(value):
    if isinstance(value, dict):
        return all(map(finite, value.values()))
    if isinstance(value, list):
        return all(map(finite, value))
    return not isinstance(value, float) or math.isfinite(value)


EXAMPLES = 200 if THOROUGH else 6


@settings(max_examples=EXAMPLES, suppress_health_check=[HealthCheck.too_slow])
@given(SETUPS)
def test_every_set_up_has_an_answer_or_a_sentence(figures):
    setup = made_or_refused(figures)
    if isinstance(setup, str):
        assert len(setup) > 10
        return
    numbers = report_of(setup)
    assert finite(numbers)
    assert numbers.peak_cd >= 0
    lost = sum(numbers.losses.values())
    assert (
        abs(numbers.flux_beam_lm + lost - numbers.flux_source_lm) <= 2e-3 * numbers.flux_source_lm
    )
    assert all(finding.text for finding in beam_findings.findings(setup))
