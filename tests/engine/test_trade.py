"""Facts of the trade: differences that practitioners commonly measure (common practice, no source).

Prints every line with what was found, and the score of the half the parameters were fitted on and of the other.
The other half is no clean hold-out: mechanisms and two priors were chosen with its score in view (docs/model.md, section 8).
"""

import json
import sys
from collections.abc import Callable
from functools import cache
from itertools import pairwise
from typing import Any

import numpy as np
from django.test import SimpleTestCase
from numpy.typing import NDArray

from desk.job.resolve import Resolver
from documents.job.reader import read_job
from engine.coupled.bands import difference_band_k
from engine.coupled.batch import Settled, settle_variants
from engine.coupled.forecast import Forecast, forecast
from engine.coupled.operating_point import PLANS, OperatingPoint, operating_point
from engine.coupled.program import Plan, variants
from engine.coupled.transient import warm_up
from engine.parameters import COUNT, DEFAULT, INDEX, PARAMETERS
from tests.machines import TRADE

# Facts this engine does not meet, each with the reason as far as it is known. None may be added; see docs/model.md.
MISSED = {
    "T14": "bottom fans under a shroud reach the card a little too weakly",
    "T30": "a chimney gains a little too little: its cooler draws from two columns at once, the cooler air of the rear one too",
    "T41": "with the card idle the air above it is so fresh that a top exhaust has nothing to remove",
    "T43": "bottom fans help the card 2 K too much where the case had been starved",
}
FITTED_ON = {
    "bottom-feed",
    "cube-downdraft",
    "five-140",
    "many-mounts-sealed",
    "probe-tower",
    "radiator-layers",
    "seven-litre",
    "six-120",
}
FACTS: list[dict[str, Any]] = json.loads((TRADE / "expectations.json").read_text(encoding="utf-8"))
Floats = NDArray[np.float64]


@cache
def resolver(name: str) -> Resolver:
    return Resolver(read_job((TRADE / f"{name}.oventa.json").read_bytes()).doc)


@cache
def point(name: str, layout: str) -> OperatingPoint:
    return operating_point(resolver(name).machine(layout))


@cache
def solved(name: str, layout: str) -> Forecast:
    return forecast(point(name, layout))


def figure(name: str, layout: str, quantity: str) -> float:
    part, field = quantity.split(".")
    return float(getattr(getattr(solved(name, layout), part), field))


def limits(fact: dict[str, Any]) -> tuple[float, float]:
    low, high = (float(fact[name] if name in fact else fact[f"{name}_minutes"]) for name in ("min", "max"))
    return low, high


def value_of(fact: dict[str, Any]) -> float | list[float]:
    name, kind = fact["document"], fact["type"]
    if kind == "falls_along":
        return [figure(name, x, fact["quantity"]) for x in fact["layouts"]]
    if kind == "transient_gain":
        rows = {r.minutes: r for r in warm_up(resolver(name).machine(fact["layout"]), fact["to_minutes"], 60)}
        return (rows[fact["to_minutes"]].card_k or 0.0) - (rows[fact["from_minutes"]].card_k or 0.0)
    if kind == "settles":
        rows_90 = warm_up(resolver(name).machine(fact["layout"]), 90, 30)
        end = rows_90[-1].coolant_k or 0.0
        return next(r.minutes for r in rows_90 if (r.coolant_k or 0.0) >= fact["share"] * end)
    value = figure(name, fact["layout"], fact["quantity"])
    if kind == "difference":
        value -= figure(fact.get("against_document", name), fact["against"], fact["quantity"])
    return value


def met(fact: dict[str, Any]) -> tuple[bool, str]:
    """Whether a fact holds, and what was found."""
    value = value_of(fact)
    if isinstance(value, list):
        steps = all(b <= a + fact["slack"] for a, b in pairwise(value))
        fall = value[0] - value[-1]
        return steps and fall >= fact["min_total_fall"], f"falls by {fall:.2f}, at least {fact['min_total_fall']}"
    low, high = limits(fact)
    return low <= value <= high, f"{value:.2f} in {low} to {high}"


def differs(fact: dict[str, Any]) -> bool:
    """Whether a fact is a difference of temperatures between two layouts of one document."""
    return fact["type"] == "difference" and fact["quantity"].endswith("_c") and "against_document" not in fact


class TradeTest(SimpleTestCase):
    def test_facts(self) -> None:
        found = {fact["id"]: met(fact) for fact in FACTS}
        halves = {True: [0, 0], False: [0, 0]}
        lines = []
        for fact in FACTS:
            ok, words = found[fact["id"]]
            half = halves[fact["document"] in FITTED_ON]
            half[0] += ok
            half[1] += 1
            lines.append(f"  {fact['id']} {'met   ' if ok else 'missed'} {fact['document']:<20} {words}")
            if fact["id"] not in MISSED:
                with self.subTest(fact=fact["id"]):
                    self.assertTrue(ok, words)
        whole = f"{sum(h[0] for h in halves.values())} of {len(FACTS)}"
        fitted, unseen = (f"{h[0]} of {h[1]}" for h in (halves[True], halves[False]))
        print(f"\nFacts of the trade: {whole} met; {fitted} of those fitted on, {unseen} of the others", file=sys.stderr)
        print("\n".join(lines), file=sys.stderr)
        self.assertEqual(len(found), 50)
        self.assertGreaterEqual(sum(ok for ok, _ in found.values()), 44)

    def test_no_sign_is_wrong(self) -> None:
        for fact in FACTS:
            if fact["type"] != "difference":
                continue
            low, high = limits(fact)
            value = value_of(fact)
            assert isinstance(value, float)
            with self.subTest(fact=fact["id"]):
                if low > 0:
                    self.assertGreater(value, 0)
                if high < 0:
                    self.assertLess(value, 0)

    def test_bands_of_differences_cover_the_middle_of_the_facts(self) -> None:
        covered, widths = [], []
        for fact in FACTS:
            if differs(fact):
                value = value_of(fact)
                assert isinstance(value, float)
                name, part = fact["document"], fact["quantity"].split(".")[0]
                figure = {"cpu": "cpu", "card": "card", "air": "rear"}[part]
                band = difference_band_k(point(name, fact["layout"]), point(name, fact["against"]), figure, value)
                covered.append(abs(value - sum(limits(fact)) / 2) <= band)
                widths.append(band)
        share, median = 100 * sum(covered) / len(covered), float(np.median(widths))
        words = f"Bands of differences: {share:.0f} % of {len(covered)} mid-points covered, median half-width {median:.1f} K"
        print(f"\n{words}", file=sys.stderr)
        self.assertTrue(88 <= share <= 99, words)
        self.assertLessEqual(median, 6.0)

    def test_every_document_converges(self) -> None:
        for path in sorted(TRADE.glob("*.oventa.json")):
            name = path.name.removesuffix(".oventa.json")
            for layout in resolver(name).doc.layouts:
                with self.subTest(document=name, layout=layout.id):
                    f = solved(name, layout.id)
                    self.assertTrue(f.converged)
                    self.assertAlmostEqual(
                        f.balance.inflow_total_m3h, f.balance.outflow_total_m3h, delta=0.001 * f.balance.inflow_total_m3h
                    )


class ShakenTest(SimpleTestCase):
    """Every parameter shaken by 20 %, one at a time and all together: the facts may not hang on exact values."""

    def test_shaken_parameters_lose_few_facts(self) -> None:
        up_and_down = np.concatenate([DEFAULT * np.where(np.eye(COUNT), f, 1.0) for f in (1.2, 1 / 1.2)])
        rng = np.random.default_rng(20)
        together = DEFAULT * rng.uniform(0.8, 1.2, (40, COUNT))
        shaken = np.concatenate([DEFAULT[None, :], up_and_down, together])
        met_by_row = np.sum([_met_in_rows(fact, shaken) for fact in FACTS if _in_rows(fact)], axis=0)
        base, single, jointly = met_by_row[0], met_by_row[1 : 1 + 2 * COUNT], met_by_row[1 + 2 * COUNT :]
        worst = int(np.argmin(single))
        print(
            f"\nShaken by 20 %: {base} facts; {PARAMETERS[worst % COUNT].name} alone loses {base - single[worst]}, "
            f"all together lose {base - np.median(jointly):.0f} in the median, {base - jointly.min()} at most of 40",
            file=sys.stderr,
        )
        self.assertLessEqual(base - single.min(), 8)
        self.assertLessEqual(base - np.median(jointly), 8)


def _in_rows(fact: dict[str, Any]) -> bool:
    return fact["type"] in ("difference", "value", "falls_along") and not fact["quantity"].startswith("sound")


@cache
def _row(name: str, layout: str) -> tuple[Plan, Any, float]:
    m = resolver(name).machine(layout)
    plan = PLANS.plan(m)
    return plan, variants(plan, [m]), m.room.temperature_c


class _Rows:
    """Figures of one layout under many parameter vectors."""

    known: dict[tuple[str, str], tuple[Plan, Settled, float]] = {}  # noqa: RUF012  (kept for the whole test)

    def __init__(self, shaken: Floats) -> None:
        self.shaken = shaken

    def figure(self, name: str, layout: str, quantity: str) -> Floats:
        if (name, layout) not in self.known:
            plan, (va, curves), room_c = _row(name, layout)
            self.known[name, layout] = (plan, settle_variants(plan, va, curves, self.shaken), room_c)
        plan, found, room_c = self.known[name, layout]
        n = plan.program.n
        rises = found.rise_k
        at = plan.at
        by_quantity: dict[str, Callable[[], Any]] = {
            "cpu.temperature_c": lambda: (
                rises[:, n + 1] + found.power_w[:, 0] * plan.program.cpu_above_k_w * self.shaken[:, INDEX["cpu_path"]]
            ),
            "cpu.power_w": lambda: found.power_w[:, 0] - room_c,
            "card.temperature_c": lambda: rises[:, n + 3],
            "air.front_c": lambda: (rises[:, at["low_front"]] + rises[:, at["up_front"]]) / 2,
            "air.board_c": lambda: rises[:, plan.program.board].mean(axis=1),
            "air.rear_c": lambda: (rises[:, at["up_mid"]] + rises[:, at["up_rear"]]) / 2,
        }
        return np.asarray(by_quantity[quantity]() + room_c)


def _met_in_rows(fact: dict[str, Any], shaken: Floats) -> NDArray[np.bool_]:
    rows, name, quantity = _Rows(shaken), fact["document"], fact["quantity"]
    if fact["type"] == "falls_along":
        values = np.array([rows.figure(name, x, quantity) for x in fact["layouts"]])
        return np.asarray((np.diff(values, axis=0) <= fact["slack"]).all(axis=0) & (values[0] - values[-1] >= fact["min_total_fall"]))
    value = rows.figure(name, fact["layout"], quantity)
    if fact["type"] == "difference":
        value = value - rows.figure(fact.get("against_document", name), fact["against"], quantity)
    low, high = limits(fact)
    return np.asarray((value >= low) & (value <= high))
