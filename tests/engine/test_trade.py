"""Facts of the trade: differences that practitioners commonly measure (common practice, no source)."""

import json
from functools import cache
from itertools import pairwise
from typing import Any

from django.test import SimpleTestCase

from engine.coupled.forecast import Forecast, forecast_of
from engine.coupled.transient import warm_up
from formats.job.reader import read_job
from formats.job.resolve import Resolver
from tests.machines import TRADE

# Facts this engine does not meet yet, each with the reason as far as it is known. None may be added; see docs/model.md.
MISSED = {
    "T02": "an open bench exchanges too little air with the room in still air",
    "T12": "mesh fronts cost too little beside a radiator",
    "T16": "bottom intakes cool a top radiator slightly instead of not at all",
    "T23": "with few fans the card does not bake as it does in fact",
    "T35": "removal of a closed front comes out too weak",
    "T39": "a downdraft turned away draws too fresh air",
    "T40": "a flipped top fan does not push enough warm air back to the card",
    "T41": "a top exhaust in place of a front fan is worth too little",
    "T43": "bottom intakes help the card too much",
    "T45": "a downdraft turned away is slightly too warm in a cube",
    "T46": "a side fan feeds a downdraft too weakly",
    "T50": "the same, with more fans",
}


@cache
def resolver(name: str) -> Resolver:
    return Resolver(read_job((TRADE / f"{name}.oventa.json").read_bytes()).doc)


@cache
def solved(name: str, layout: str) -> Forecast:
    return forecast_of(resolver(name).machine(layout))


def figure(name: str, layout: str, quantity: str) -> float:
    part, field = quantity.split(".")
    return float(getattr(getattr(solved(name, layout), part), field))


def met(fact: dict[str, Any]) -> tuple[bool, str]:
    """Whether a fact holds, and what was found."""
    name, kind = fact["document"], fact["type"]
    if kind == "falls_along":
        values = [figure(name, x, fact["quantity"]) for x in fact["layouts"]]
        steps = all(b <= a + fact["slack"] for a, b in pairwise(values))
        return steps and values[0] - values[-1] >= fact["min_total_fall"], f"{values}"
    if kind == "transient_gain":
        rows = {r.minutes: r for r in warm_up(resolver(name).machine(fact["layout"]), fact["to_minutes"], 60)}
        later, earlier = rows[fact["to_minutes"]].card_k, rows[fact["from_minutes"]].card_k
        value = (later or 0.0) - (earlier or 0.0)
    elif kind == "settles":
        rows_90 = warm_up(resolver(name).machine(fact["layout"]), 90, 30)
        end = rows_90[-1].coolant_k or 0.0
        value = next(r.minutes for r in rows_90 if (r.coolant_k or 0.0) >= fact["share"] * end)
    else:
        value = figure(name, fact["layout"], fact["quantity"])
        if kind == "difference":
            value -= figure(fact.get("against_document", name), fact["against"], fact["quantity"])
    low, high = (float(fact[name] if name in fact else fact[f"{name}_minutes"]) for name in ("min", "max"))
    return low <= value <= high, f"{value:.2f} in {low} to {high}"


class TradeTest(SimpleTestCase):
    facts: list[dict[str, Any]] = json.loads((TRADE / "expectations.json").read_text(encoding="utf-8"))

    def test_facts(self) -> None:
        found = {fact["id"]: met(fact) for fact in self.facts}
        for fact_id, (ok, words) in found.items():
            if fact_id not in MISSED:
                with self.subTest(fact=fact_id):
                    self.assertTrue(ok, words)
        self.assertEqual(len(found), 50)

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
