"""The analysis and comparison documents (version 1)."""

from typing import Literal

from pydantic import BaseModel

from engine.identity import METHOD
from engine.plan.protocol import Acceptance
from engine.runs.analysis import ChannelAnalysis, RunAnalysis
from engine.runs.flag import Flag
from engine.verdict.compare import Pair


class AnalysisDoc(BaseModel):
    format: Literal["oventa-analysis"] = "oventa-analysis"
    version: Literal[1] = 1
    duration_s: float
    settled: bool
    settled_at_s: float | None
    channels: list[ChannelAnalysis]
    flags: list[Flag]
    method: str = METHOD.number
    acceptance: Acceptance | None = None  # with a protocol that has criteria

    @classmethod
    def of(cls, run: RunAnalysis) -> "AnalysisDoc":
        return cls(
            duration_s=run.duration_s,
            settled=run.settled,
            settled_at_s=run.settled_at_s,
            channels=list(run.channels),
            flags=list(run.flags),
        )


class ComparisonDoc(BaseModel):
    format: Literal["oventa-comparison"] = "oventa-comparison"
    version: Literal[1] = 1
    method: str = METHOD.number
    margin_k: float
    pairs: list[Pair]
