"""What a choice must answer before it is recorded: the law, a rule's stop, the housing's own
state, the socket's other beams, the cautions to accept.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from cold_arc.core import ballast
from cold_arc.core.car.condition import Verdict
from cold_arc.core.car.lamps import Function, Present, Traffic
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import Match, Setting, needs_override
from cold_arc.core.match import prediction as predicted
from cold_arc.core.match.modelled import setup_of
from cold_arc.core.match.prediction import Prediction
from cold_arc.core.references import MODEL, PRACTICE
from cold_arc.core.units import worded

# The ways to go where the law or a rule speaks against a choice.
OVERRIDE, OFF_ROAD, REFUSE = "override", "off-road", "refuse"


def speaks_against(match: Match, setting: Setting) -> bool:
    """Whether the law of the market, or a rule, speaks against a candidate."""
    return match.level is Level.STOP or needs_override(match.source, setting)


def reason_wanted(way: str, match: Match) -> str:
    """Why going a way needs a recorded reason; "" where it does not."""
    if way == OVERRIDE:
        return "Record the reason, or choose another."
    if way == OFF_ROAD and match.level is Level.STOP:
        return "A rule stops it, not the law alone. Record the reason, or choose another."
    return ""


def must_be_told(way: str, match: Match, setting: Setting) -> bool:
    """Whether the customer must have been told before it is chosen all the same."""
    return way in (OVERRIDE, OFF_ROAD) and needs_override(match.source, setting)


def cautions_of(setting: Setting, source: LightSource | None) -> list[str]:
    """The ids of the cautions to accept with a source; with none, with what stays."""
    if source is None:
        return ["dust"] if setting.as_seen and setting.as_seen.is_sanded else []
    discharge = setting.socket.present is Present.HID
    asked = {
        "law": not source.takes_place,
        "glare": bool(setting.socket.road_beams),  # a signal dazzles nobody
        "hot": True,
        "high-voltage": discharge,
        "mercury": discharge and setting.base is not None and setting.base.contains_mercury,
        "fan": source.cooling == "fan" and source.is_bulb,
    }
    return [caution for caution, holds in asked.items() if holds]


def housing_findings(
    pattern: Finding | None, verdict: Verdict | None, source: LightSource | None
) -> tuple[list[Finding], list[Finding]]:
    """What the housing says of a choice, to be said before all else, and after all else. An
    assembly takes the housing's place, so that its faults are only noted then.
    """
    replaced = source is not None and source.kind == "assembly"
    first = [replace(pattern, level=Level.NOTE) if replaced else pattern] if pattern else []
    if verdict is not Verdict.REPLACE or replaced:
        return first, []
    text = "This housing was judged fit to replace, not to refill."
    advice = "Choose a complete assembly, or record why not."
    return first, [Finding("housing-to-replace", Level.STOP, text, PRACTICE, advice=advice)]


def staying(setting: Setting) -> Iterator[Finding]:
    """What is to be said of leaving a lamp with what it has."""
    kept = ballast.staying(setting.ballast_cause)
    if kept:
        yield kept


def of_present(setting: Setting) -> Iterator[Finding]:
    """What is to be said of what is in a lamp, where nobody told what that is."""
    if setting.has_unknown_led and setting.socket.road_beams:
        yield Finding(
            "present-led-unknown",
            Level.NOTE,
            "An LED bulb nobody told of is in it: its readings tell of that bulb as well.",
            MODEL,
            advice="Beams are foretold in a typical housing, against what that was made for. Read "
            "the wall once more with such a bulb in, told at Book in, to fit it to this car's.",
        )


def other_beams(
    setting: Setting, shown: Function, source: LightSource, traffic: Traffic
) -> Iterator[Finding]:
    """What the socket's beams other than the one *shown* will be with a source, as far as they were
    worked out.
    """
    for beam in setting.socket.road_beams:
        setup = setup_of(setting, beam, source, traffic)
        if beam is shown or setup is None:
            continue
        outlook, own = predicted.known(setup), predicted.known(setup.reference())
        if outlook and own:
            for finding in predicted.findings(outlook, own.prediction):
                yield finding.named(beam.label)
            yield _hot_spot(outlook.prediction, own.prediction).named(beam.label)
        else:
            advice = "This socket gives it too: look at it before choosing."
            yield Finding(
                "beam-not-seen",
                Level.NOTE,
                worded("{beam} not looked at yet.", beam=beam.label),
                PRACTICE,
                advice=advice,
            )


def _hot_spot(beam: Prediction, own: Prediction) -> Finding:
    """A beam's hot spot against the lamp's own."""
    number, limit = (
        worded("{peak_cd:candela}", peak_cd=beam.peak_cd),
        worded("{peak_cd:candela} with its own source", peak_cd=own.peak_cd),
    )
    return Finding("hot-spot-predicted", Level.NOTE, "Hot spot as predicted.", MODEL, number, limit)
