"""Words, defaults and ranges stand once: complete against the document's models, and none of them typed in the front end."""

import re
import types
from typing import Any, Literal, get_args, get_origin

from django.test import SimpleTestCase
from pydantic import BaseModel

from desk.plan.generate import Design, FactorKind
from desk.plan.order import OrderKind
from desk.plan.runsheet import Order
from desk.search.question import SearchQuestion
from desk.words import bench, cautions, channels, choices, verdict
from desk.words.parts import PARTS
from desk.words.ranges import WITHIN
from desk.words.told import figures, kind, models, part_model, told
from documents.job.models import PART_KINDS, JobDoc
from documents.job.planned import PlanDoc
from engine.plan.protocol import CAUTIONS as TICKED
from engine.plan.protocol import USUAL_LIMITS, Load, Statistic
from engine.plan.rebuild import MINUTES
from engine.verdict.choose import PROFILES, RESULT, WORDS
from instruments.collect import SOURCES, InstrumentKind
from tests.machines import ROOT

FRONT = ROOT / "frontend/src"


class WordsTest(SimpleTestCase):
    def test_every_choice_has_the_words_of_exactly_its_values(self) -> None:
        shapes = dict(models(JobDoc))
        for name, words in choices.CHOICES.items():
            model, field = name.split(".")
            with self.subTest(name):
                values = _literals(shapes[model].model_fields[field].annotation)
                if values:  # a free word, such as the end at which tubes leave, has none to compare with
                    self.assertEqual(set(words), values)

    def test_every_kind_of_part_is_told_and_asks_only_for_fields_it_has(self) -> None:
        self.assertEqual(tuple(PARTS), PART_KINDS)
        for name, words in PARTS.items():
            fields = part_model(name).model_fields
            self.assertLessEqual(set(words.fields), set(fields), name)
            self.assertLessEqual(set(words.tells or {}), set(fields), name)
            for field, asked in words.fields.items():
                if asked.choices:
                    values = _literals(fields[field].annotation)
                    self.assertTrue(not values or set(asked.choices) - {""} == values, (name, field))
            self.assertTrue(words.caution is None or words.caution in cautions.CAUTIONS)
        slots = next(f for f in kind("cards", PARTS["cards"])["fields"] if f["name"] == "slots")
        self.assertEqual(slots["fallback"], 2.5)

    def test_what_the_engine_knows_has_its_words(self) -> None:
        self.assertEqual(set(verdict.LOADS), set(get_args(Load)))
        self.assertEqual(set(bench.STATISTICS), set(get_args(Statistic)))
        self.assertEqual(set(cautions.TICKED), set(TICKED))
        self.assertEqual(set(bench.INSTRUMENTS), set(get_args(InstrumentKind)))
        self.assertEqual(set(SOURCES), set(bench.INSTRUMENTS))
        self.assertEqual(set(verdict.THINGS), set(WORDS) - {RESULT})
        self.assertEqual(set(verdict.MATTERS), set(next(iter(PROFILES.values()))))
        self.assertEqual(set(choices.DESIGNS), set(get_args(Design)))
        self.assertEqual(set(choices.ORDERS), set(get_args(Order)))
        self.assertEqual(set(choices.SHEET_ORDERS), set(get_args(OrderKind)))
        self.assertEqual(set(choices.REBUILD_KINDS), set(MINUTES))
        self.assertEqual(set(choices.FACTORS), set(get_args(FactorKind)))
        self.assertLessEqual(set(USUAL_LIMITS) - {"air_rear_c"}, set(channels.CHANNELS))

    def test_a_search_is_asked_what_it_takes_for_usual(self) -> None:
        usual, said = SearchQuestion().model_dump(), choices.USUAL["find"]
        assert isinstance(said, dict)
        self.assertEqual(said, {name: usual[name] for name in said})

    def test_a_channel_that_nobody_foresaw_is_told_without_its_unit(self) -> None:
        said = {"cpu_core_3_c": "core 3", "air_rear_c": "air at rear", "fan_f1_rpm": "fan f1", "drive_two_c": "drive two", "lux": "lux"}
        self.assertEqual({name: channels.channel_words(name) for name in said}, said)

    def test_what_a_person_is_asked_lies_within_what_a_document_may_hold(self) -> None:
        held = {at: span for at, span in _held(JobDoc).items() if span}
        found = figures()
        for at, (low, high) in WITHIN.items():
            self.assertIn(at, found)
            if at in held:
                self.assertTrue(held[at][0] <= low < high <= held[at][1], at)
        self.assertEqual(found["room.temperature_c"], {"low": -10, "high": 55, "fallback": 22})
        self.assertEqual(found["layouts.*.fans.*.speed_pct"]["fallback"], 100)
        self.assertEqual(found["plan.repeats"], {"low": 1, "high": PlanDoc.model_fields["repeats"].metadata[1].le, "fallback": 1})

    def test_the_front_end_types_no_default_of_the_job(self) -> None:
        typed = re.compile(r"\?\? *-?\d|(?:low|high|fallback)=\{-?\d*[1-9]")
        allowed = {FRONT / "shared/words/lists.ts", FRONT / "shared/words/generated.ts"}
        found = [
            f"{path.relative_to(FRONT)}:{n}: {line.strip()}"
            for path in sorted(FRONT.rglob("*.ts*"))
            if path not in allowed and path.name != "generated.d.ts"
            for n, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
            if typed.search(line)
        ]
        self.assertEqual(found, [], "give the figure a place in src/desk/words or its model and take it from @/shared/words/words")

    def test_all_that_is_told_is_plain_data_and_no_word_is_empty(self) -> None:
        for name, said in told().items():
            self.assertTrue(said, name)
        for name, words in told()["CHOICES"].items():
            self.assertTrue(all(c["words"].strip() for c in words), name)


def _literals(annotation: Any) -> set[str]:
    if get_origin(annotation) is Literal:
        return set(get_args(annotation))
    return set().union(*(_literals(a) for a in get_args(annotation) if a is not types.NoneType)) if get_args(annotation) else set()


def _held(model: type[BaseModel]) -> dict[str, tuple[float, float] | None]:
    """Ranges as the JSON Schema of the document says them: a second way to the same figures."""
    schema = model.model_json_schema()
    found: dict[str, tuple[float, float] | None] = {}

    def walk(shape: dict[str, Any], at: str) -> None:
        if "$ref" in shape:
            return walk(schema["$defs"][shape["$ref"].split("/")[-1]], at)
        for option in [*shape.get("anyOf", []), *shape.get("allOf", [])]:
            walk(option, at)
        for name, inner in shape.get("properties", {}).items():
            walk(inner, f"{at}.{name}".strip("."))
        for rows in (shape.get("items"), shape.get("additionalProperties")):
            if isinstance(rows, dict):
                walk(rows, f"{at}.*")
        low, high = shape.get("minimum", shape.get("exclusiveMinimum")), shape.get("maximum", shape.get("exclusiveMaximum"))
        if low is not None and high is not None:
            found[at] = (float(low), float(high))
        return None

    walk(schema, "")
    return found
