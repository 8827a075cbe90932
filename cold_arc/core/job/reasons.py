"""Why each stage is done, and how. Common practice, no published source (``data/why.toml``)."""

from __future__ import annotations

from cold_arc.core import data
from cold_arc.core.job.stages import Stage


def why(stage: Stage) -> tuple[str, ...]:
    """A few sentences for a newcomer: the trade's reasons for a stage."""
    return tuple(data.load("why")[stage.value])
