"""A per cent more of anything moves the forecast a little: no border decides by itself. ``./oventa study --steps`` tries 500 cases."""

from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401  (the study's cases are no part of the application)
from engine.coupled.operating_point import operating_point
from study.continuity import JUMP_TENTH, moves_of
from tests.machines import demo_raw, layout_raw, machine

CASES = 16
MOST_CASES, MOST_STEP_K = 1, 1.5  # what was found once: docs/evidence-steps.md


class ContinuityTest(SimpleTestCase):
    def test_a_per_cent_of_any_figure(self) -> None:
        found = {seed: moves for seed in range(1, 1 + CASES) if (moves := moves_of(seed)[0])}
        self.assertLessEqual(len(found), MOST_CASES, found)
        for moves in found.values():
            self.assertLess(max(m.by_k for m in moves), MOST_STEP_K, moves)
            self.assertLess(max(m.most_tenth for m in moves), JUMP_TENTH, moves)

    def test_a_millimetre_of_the_processor_s_place_on_a_small_board(self) -> None:
        # On boards of 190 mm or less the processor's usual place is the border of two columns exactly.
        for direction in ("rear", "up", "front"):
            for board in (170, 190):
                rises = []
                for shift in (-2, -1, 0, 1, 2):
                    raw = demo_raw()
                    x = raw["case"]["inner_mm"]["depth"] - board / 2 + shift
                    raw["case"] |= {"board_depth_mm": board, "cpu_centre_mm": {"x": x, "z": 340}}
                    layout_raw(raw, "A")["cooler_direction"] = direction
                    rises.append(operating_point(machine(raw)).cpu_rise_k)
                with self.subTest(direction=direction, board=board):
                    self.assertLess(max(rises) - min(rises), 0.8, rises)
