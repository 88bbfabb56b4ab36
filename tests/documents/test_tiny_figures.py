"""Figures next to nothing: refused at the door, and what is taken in can be reckoned with."""

import copy
import math
from collections.abc import Iterator
from dataclasses import asdict
from typing import Any

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from documents.job.base import LEAST
from documents.job.reader import check_job
from engine.errors import OventaError
from tests.machines import demo_raw

Path = tuple[str | int, ...]


def figures_of(value: Any, path: Path = ()) -> Iterator[Path]:
    """Where the numbers of a document are, one of each kind."""
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from figures_of(inner, (*path, key))
    elif isinstance(value, list):
        yield from (p for inner in value[:1] for p in figures_of(inner, (*path, 0)))
    elif isinstance(value, (int, float)) and not isinstance(value, bool):
        yield path


def put(raw: dict[str, Any], path: Path, figure: float) -> dict[str, Any]:
    made: Any = copy.deepcopy(raw)
    place = made
    for key in path[:-1]:
        place = place[key]
    place[path[-1]] = figure
    return dict(made)


def numbers_of(value: Any) -> Iterator[float]:
    if isinstance(value, dict):
        value = list(value.values())
    if isinstance(value, (list, tuple)):
        for inner in value:
            yield from numbers_of(inner)
    elif isinstance(value, float):
        yield value


class TinyFiguresTest(SimpleTestCase):
    def test_what_no_one_can_measure_is_refused_with_its_place(self) -> None:
        raw = demo_raw()
        refused = 0
        for path in figures_of(raw):
            try:
                check_job(put(raw, path, 5e-324))
            except OventaError as error:
                refused += 1
                self.assertTrue(error.what and error.do, path)
        self.assertGreater(refused, 60)
        with self.assertRaisesRegex(OventaError, "nearer to nothing"):
            check_job(put(raw, ("case", "inner_mm", "depth"), 5e-324))

    def test_the_least_that_is_taken_gives_a_forecast_or_a_refusal(self) -> None:
        raw = demo_raw()
        taken = 0
        for path in figures_of(raw):
            with self.subTest(path=path):
                try:
                    doc = check_job(put(raw, path, LEAST)).doc
                    told = Oracle(doc, Question()).forecast(doc.layouts[0].id)
                except OventaError:
                    continue
                taken += 1
                self.assertTrue(all(math.isfinite(x) for x in numbers_of(asdict(told))))
        self.assertGreater(taken, 60)
