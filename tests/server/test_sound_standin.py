"""The made-up controller, meter and recorder at work: the bad band is found where it was planted, and a level in few readings."""

import json
from typing import Any
from unittest.mock import patch

from desk.job.resolve import Resolver
from desk.sound.speeds import FansAt, blades_of
from engine.sound.sweep import WITHIN_DB
from instruments.recorder import resonance_hz, truth_of
from server.apps.sounds import services
from tests.server.test_sounds import SoundCase

MOST_READINGS = 6


class StandinCase(SoundCase):
    def setUp(self) -> None:
        super().setUp()
        patched = patch("server.apps.sounds.services.loudness_of", return_value=None)  # no step of a sweep goes by it, and it takes longest
        patched.start()
        self.addCleanup(patched.stop)

    def walk(self, purpose: str, layout: str, mounts: list[str], target: float = 34.0, seed: int = 1) -> Any:
        """As the screen does it: what is set next, until nothing is."""
        asked = {"layout": layout, "purpose": purpose, "mounts": mounts, "target_dba": target}
        found = self.post(f"{self.base}/levels/next", asked | {"anew": True})
        anew = True
        while (speed := found["procedure"]["next"]["speed_pct"]) is not None:
            found = self.post(f"{self.base}/levels/made-up", asked | {"speed_pct": round(speed), "seed": seed, "anew": anew})
            anew = False
            self.assertLess(len(found["readings"]), 40)
        return found

    def truth(self, layout: str, mounts: list[str], speed_pct: float, seed: int) -> float:
        resolver = Resolver(services.document_of(self.job))
        machine = FansAt("both", tuple(mounts), speed_pct).of(resolver, resolver.layout(layout))
        return truth_of(machine, seed, blades_of(resolver)).level_dba


class WayTest(StandinCase):
    def test_a_level_is_found_in_few_readings_for_all_fans_and_for_each_side(self) -> None:
        document = self.client.get(self.base).json()["document"]
        counts = []
        for layout in document["layouts"]:
            sides: dict[str, list[str]] = {"all": []}
            for place in layout["fans"]:
                sides.setdefault(place["mount"][0], []).append(place["mount"])
            for mounts in sides.values():
                start = self.truth(layout["id"], mounts, 60, 1)
                target = round(start, 1)
                found = self.walk("equal", layout["id"], sorted(set(mounts)), target)
                step = found["procedure"]["next"]
                with self.subTest(layout=layout["id"], mounts=mounts, words=step["words"]):
                    self.assertLessEqual(len(found["readings"]), MOST_READINGS)
                    self.assertTrue(step["within"])
                    told = self.truth(layout["id"], mounts, step["found_pct"], 1)
                    self.assertLess(abs(told - target), WITHIN_DB + 0.6)  # the meter's own half decibel
                counts.append(len(found["readings"]))
        self.assertLess(sum(counts) / len(counts), 4)


class SweepTest(StandinCase):
    def planted(self, layout: str, seed: int) -> dict[str, tuple[list[str], float]]:
        """By kind of fan its mounts, and the speed in % at which its blades meet the panel's own frequency."""
        resolver = Resolver(services.document_of(self.job))
        blades, found = blades_of(resolver), dict[str, tuple[list[str], float]]()
        for f in FansAt().of(resolver, resolver.layout(layout)).fans:
            pct = 100 * resonance_hz(seed) * 60 / ((blades.get(f.fan.id) or 9) * f.fan.speed_max_rpm)
            found.setdefault(f.fan.id, ([], pct))[0].append(f.mount)
        return found

    def finds(self, layout: str, seed: int, steps: int) -> None:
        """Each kind by itself: where others are louder, nobody hears it sing."""
        for kind, (mounts, pct) in self.planted(layout, seed).items():
            with patch("desk.sound.procedure.SWEEP_STEPS", steps), patch("server.apps.sounds.standin.SWEEP_S", 8.0):
                found = self.walk("sweep", layout, sorted(set(mounts)), seed=seed)["procedure"]
            if not found["low_pct"] < pct < found["high_pct"]:
                continue
            with self.subTest(layout=layout, seed=seed, kind=kind, planted=round(pct, 1)):
                self.assertTrue(any(b["from_pct"] - 3 <= pct <= b["to_pct"] + 3 for b in found["bands"]), json.dumps(found["bands"]))

    def test_the_planted_band_is_found(self) -> None:
        self.finds("D", 1, 12)

    def test_planted_bands_are_found_whatever_the_seed(self) -> None:
        for layout, seed in (("D", 2), ("A", 3)):
            self.finds(layout, seed, 15)
