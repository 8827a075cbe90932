"""The stages of the job, in the order of the work; Match has three pages."""

from cold_arc.web.stages import (
    aim,
    baseline,
    book_in,
    fit,
    hand_over,
    inspect,
    match,
    match_options,
    match_wiring,
    plan,
    prove,
    verify,
)

STAGE_PAGES = (
    book_in.bp,
    inspect.bp,
    baseline.bp,
    match.bp,
    match_options.bp,
    match_wiring.bp,
    plan.bp,
    fit.bp,
    prove.bp,
    aim.bp,
    verify.bp,
    hand_over.bp,
)
