"""The one registry of findings: rules that ask the case, the document or the forecast, side by side, each with what it needs."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property, partial
from typing import Literal

from desk.forecast.practice import pressure_finding
from desk.job.places import outside_findings
from desk.job.resolve import Resolver
from desk.together.fit import fit_findings
from desk.together.wiring import audit_findings, stock_findings, wiring_findings
from engine.coupled.forecast import Forecast
from engine.coupled.operating_point import OperatingPoint
from engine.findings.finding import GRAVEST_FIRST, Finding, Situation
from engine.findings.registry import RULES as OF_THE_ENGINE
from engine.findings.registry import Rule as EngineRule

Needs = Literal["case", "document", "forecast"]


@dataclass(frozen=True)
class About:
    """A layout that is looked at. ``solve`` works out its operating point and forecast, when a rule first needs them."""

    resolver: Resolver
    layout_id: str
    solve: Callable[[], tuple[OperatingPoint, Forecast]]

    @cached_property
    def situation(self) -> Situation:
        """One for all rules: what several of them ask, as every fan turned and taken out, is worked out once."""
        return Situation(*self.solve())


@dataclass(frozen=True)
class Rule:
    """``needs``: what must be known before it can be asked; with a finding of the case alone nothing can be forecast."""

    name: str
    needs: Needs
    find: Callable[[About], Iterable[Finding]]


def _of_the_document(find: Callable[[Resolver, str], Iterable[Finding]], about: About) -> Iterable[Finding]:
    return find(about.resolver, about.layout_id)


def _of_the_engine(rule: EngineRule, about: About) -> Iterable[Finding]:
    return rule(about.situation)


def _outside(about: About) -> Iterable[Finding]:
    return outside_findings(about.resolver.doc.case)


def _pressure(about: About) -> Iterable[Finding]:
    found = pressure_finding(about.resolver.doc.practice, about.situation.forecast)
    return [found] if found else []


RULES: tuple[Rule, ...] = (
    Rule("outside", "case", _outside),
    Rule("fit", "document", partial(_of_the_document, fit_findings)),
    Rule("leads", "document", partial(_of_the_document, wiring_findings)),
    Rule("stock", "document", partial(_of_the_document, stock_findings)),
    Rule("as_found", "document", partial(_of_the_document, audit_findings)),
    Rule("pressure_wanted", "forecast", _pressure),
    *(Rule(rule.__name__, "forecast", partial(_of_the_engine, rule)) for rule in OF_THE_ENGINE),
)


def found(about: About, needs: tuple[Needs, ...] = ("document", "forecast")) -> list[Finding]:
    """What the rules that need one of ``needs`` say, those of the document before those of the forecast, each kind gravest first."""
    by_kind = [[f for rule in RULES if rule.needs == kind for f in rule.find(about)] for kind in needs]
    return [f for kind in by_kind for f in sorted(kind, key=lambda f: GRAVEST_FIRST.index(f.severity))]
