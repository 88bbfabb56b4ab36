"""Practice: what is right is what the findings say; the same seed gives the same machine; scores; fans drawn from a side."""

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.practice.drill import answered, drill
from desk.practice.exercise import CODES, FAULTS, HINT, KINDS, PLACED, Mark, answer_of, exercise
from desk.words.practice import LEVELS, PLANTED
from documents.errors import DocumentError
from documents.job.reader import check_job

SEEDS = 12  # of each level here; `docs/evidence-practice.md` holds more


class ExerciseTest(SimpleTestCase):
    def test_the_answer_is_that_of_the_findings_and_every_kind_comes_up(self) -> None:
        seen = set()
        for level, planted in FAULTS.items():
            for seed in range(SEEDS):
                made = exercise(seed, level)
                again = check_job(made.doc.model_dump(mode="json", exclude_unset=True)).doc
                findings = Oracle(again, Question()).findings_doc().layouts[0].findings
                told = {kind for kind in KINDS if any(f.code in CODES[kind] for f in findings)}
                self.assertEqual(told, set(made.answer), (seed, level))
                self.assertGreaterEqual(len(told), planted)
                seen |= told
        self.assertGreaterEqual(len(seen), 7)
        self.assertEqual(set(PLANTED), set(KINDS))
        self.assertEqual({int(x) for x in LEVELS}, set(FAULTS))

    def test_the_same_seed_gives_the_same_machine(self) -> None:
        self.assertEqual(exercise(3, 2).doc, exercise(3, 2).doc)
        self.assertNotEqual(exercise(3, 2).doc, exercise(4, 2).doc)
        with self.assertRaises(DocumentError):
            exercise(1, 9)

    def test_marks_are_scored_and_everything_is_explained(self) -> None:
        made = exercise(0, 3)
        right = [Mark(kind=k, mount=next(iter(m)) if k in PLACED else None) for k, m in made.answer.items()]
        full = made.score(right)
        self.assertEqual((full.score, full.solved), (100, True))
        self.assertEqual({e.kind for e in full.explained}, set(made.answer))
        self.assertTrue(all(e.what and e.because and e.do for e in full.explained))
        other = next(k for k in KINDS if k not in made.answer)
        less = made.score([*right, Mark(kind=other)])
        self.assertLess(less.score, 100)
        self.assertEqual([m.right for m in less.marks].count(False), 1)
        self.assertAlmostEqual(made.score(right, hints=1).score, 100 * (len(right) - HINT) / len(right))
        self.assertEqual(made.score([]).score, 0)
        self.assertEqual(made.score([*right, *right]).score, 100)

    def test_a_mark_at_the_wrong_place_is_wrong(self) -> None:
        made = next(e for s in range(40) if set((e := exercise(s, 1)).answer) & {"unplugged", "choked"})
        kind = next(k for k in made.answer if k in ("unplugged", "choked"))
        elsewhere = next(m.id for m in made.doc.case.mounts if m.id not in made.answer[kind])
        self.assertFalse(made.score([Mark(kind=kind, mount=elsewhere)]).marks[0].right)
        self.assertFalse(made.score([Mark(kind=kind)]).marks[0].right)

    def test_hints_name_what_there_is(self) -> None:
        made = exercise(0, 3)
        hints = made.hints()
        self.assertEqual([h for h in hints if h.startswith("It is this")], [f"It is this: {PLANTED[k]}." for k in made.answer])

    def test_nothing_planted_is_nothing_to_find(self) -> None:
        self.assertEqual(answer_of([]), {})


class DrillTest(SimpleTestCase):
    def test_the_side_tells_the_way_and_the_question_does_not_give_it_away(self) -> None:
        sides = set()
        for seed in range(30):
            asked, towards = drill(seed), answered(seed, True)
            sides.add(towards.side)
            self.assertEqual(towards.towards_you, towards.side == "outlet")
            self.assertEqual(towards.right, towards.side == "outlet")
            self.assertNotEqual(answered(seed, False).right, towards.right)
            self.assertEqual('stroke-width="4"' in asked.svg, towards.side == "outlet")  # the struts
            self.assertNotIn("M62 62", asked.svg)
            self.assertNotEqual(asked.svg, towards.svg)
        self.assertEqual(sides, {"inlet", "outlet"})
