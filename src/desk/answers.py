"""What the engine answers and is handed out as it is: the only engine names that routers know."""

from engine.coupled.explain import Account
from engine.coupled.system_line import FanAtWork
from engine.plan.protocol import Acceptance, Load
from engine.runs.analysis import RunAnalysis
from engine.runs.live import LiveFigures
from engine.verdict.compare import Pair

__all__ = ["Acceptance", "Account", "FanAtWork", "LiveFigures", "Load", "Pair", "RunAnalysis"]
