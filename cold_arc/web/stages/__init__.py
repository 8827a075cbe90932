"""One blueprint per stage of the job, in the order of the work."""

from cold_arc.web.stages import (
    aim,
    baseline,
    book_in,
    fit,
    hand_over,
    inspect,
    match,
    plan,
    prove,
    verify,
)

STAGE_PAGES = (
    book_in.bp,
    inspect.bp,
    baseline.bp,
    match.bp,
    plan.bp,
    fit.bp,
    prove.bp,
    aim.bp,
    verify.bp,
    hand_over.bp,
)
