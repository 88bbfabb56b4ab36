"""What the claim says in every state of a choice, and what is known of layouts beside their runs."""

from typing import Any

from django.test import SimpleTestCase

from demo import campaign
from desk.forecast.document import Oracle, Question
from desk.job.conditions import parts_of
from desk.verdict.claim import Claim, claim, said_of, why_placed
from desk.verdict.document import judge
from desk.verdict.facts import LayoutFacts, facts_of, worst_room_c
from desk.verdict.options import alike, options
from desk.verdict.study import Runs, Settings, Study, study
from desk.verdict.words import Quantity, Sentence, compared, kind_of, measured, plain
from documents.job.models import PrioritiesDoc
from documents.job.reader import check_job
from engine.coupled.compare import WATT_WORTH_K
from engine.runs.flag import Flag
from engine.verdict.candidate import Candidate
from engine.verdict.choose import Choice, Placed, Share, choose
from engine.verdict.compare import compare
from tests.machines import demo_raw
from tests.runs_made import layout, run, run_of

DOC = campaign.document()
CPU_ALONE = {"cpu": 5, "card": 0, "noise": 0, "balance": 0, "cost": 0, "dust": 0, "labour": 0, "looks": 0}


def studied(found: list[Candidate], **settings: Any) -> Study:
    return study(DOC, Runs({"both": found}), Settings(**settings))


def claimed(found: list[Candidate], of: str | None = None, **settings: Any) -> Claim:
    s = studied(found, weights=CPU_ALONE, **settings)
    choice = choose(options(s), s.weights, alike(s, options(s)))
    return claim(of or choice.best or "A", s.reference, choice, s.pairs, s.facts, s.own, s.load)


def head(found: list[Candidate], of: str | None = None) -> str:
    return plain(claimed(found, of).head)


def codes(c: Claim) -> list[str]:
    return [s.code for s in c.sentences]


class HeadTest(SimpleTestCase):
    def test_sure(self) -> None:
        self.assertEqual(head([layout("A", 3, cpu_package_c=58), layout("D", 3, cpu_package_c=50)]), "Build D, three in front.")

    def test_likely(self) -> None:
        found = claimed([layout("A", 2, 0.6, cpu_package_c=51.0), layout("D", 2, 0.6, cpu_package_c=50.1)])
        self.assertEqual((found.sure, plain(found.head)), ("tied", "Build A, rear fan alone. D cannot be separated from it yet."))
        apart = claimed([layout("A", 3, cpu_package_c=51.0), layout("C", 3, cpu_package_c=52.4), layout("D", 3, cpu_package_c=49.9)])
        self.assertIn(apart.sure, ("likely", "sure"))
        self.assertTrue(plain(apart.head).startswith("Build D, three in front"))

    def test_a_close_call_between_what_is_shown_to_differ(self) -> None:
        # One step of 5 K against one step of 3 dB with the same weight: the weights decide, not the runs.
        found = [layout("A", 4, cpu_package_c=50, sound_dba=30), layout("D", 4, cpu_package_c=45, sound_dba=33)]
        s = study(DOC, Runs({"both": found}), Settings.model_validate({"weights": CPU_ALONE | {"noise": 5}}))
        choice = choose(options(s), s.weights, alike(s, options(s)))
        own = claim(choice.best or "", s.reference, choice, s.pairs, s.facts, s.own, s.load)
        self.assertEqual(own.sure, "open")
        self.assertTrue(plain(own.head).startswith("A close call: "))

    def test_one_that_is_as_good_or_worse_or_fails(self) -> None:
        near = [layout("A", 3, cpu_package_c=50.1), layout("D", 3, cpu_package_c=50.0)]
        self.assertEqual(head(near, "D"), "D, three in front: as good as A, which is simpler.")
        far = [layout("A", 3, cpu_package_c=58), layout("D", 3, cpu_package_c=50)]
        self.assertEqual(head(far, "A"), "A, rear fan alone: by your weights D is the better choice.")
        loud = [layout("A", 3, cpu_package_c=58, sound_dba=30), layout("D", 3, cpu_package_c=50, sound_dba=40)]
        self.assertEqual(head(loud, "D"), "D, three in front: does not pass its limits.")
        self.assertIn("limits", codes(claimed(loud, "D")))

    def test_none_passes_and_none_can_be_judged(self) -> None:
        loud = [layout(n, 3, cpu_package_c=50, sound_dba=40) for n in "AD"]
        self.assertEqual(head(loud, "D"), "No layout passes every limit; this argues for D, three in front.")
        unread = Candidate("D", [run_of({"sound_dba": 30.0})])
        found = [layout("A", 3, cpu_package_c=58), unread]
        self.assertIn("cannot be judged", head(found, "D"))


class SentencesTest(SimpleTestCase):
    def test_gains_come_before_prices_and_these_before_what_is_open(self) -> None:
        found = [
            layout("A", 3, cpu_package_c=58, card_core_c=50, sound_dba=27),
            layout("D", 3, cpu_package_c=50, card_core_c=50.1, sound_dba=30),
        ]
        c = claimed(found)
        self.assertEqual(codes(c), ["better", "price", "cost", "same", "scope", "confidence"])
        said = {s.code: plain(s.parts) for s in c.sentences}
        self.assertIn("Against A, the next best, the processor is 8.0 ±", said["better"])
        self.assertIn("No difference to A, the next best: card.", said["same"])
        self.assertIn("chance of over 99 %", said["confidence"])

    def test_the_price_of_the_reference_is_not_said(self) -> None:
        self.assertNotIn("cost", codes(claimed([layout("A", 3, cpu_package_c=48), layout("D", 3, cpu_package_c=58)], "A")))

    def test_a_capped_part_is_said_to_be_at_its_limit(self) -> None:
        held = [Flag("throttled", 900, 2400, "power fell", "cpu_package_c")]
        capped = Candidate("D", [run(held, cpu_package_c=71.0, cpu_power_w=110.0, card_core_c=50.0)] * 3)
        open_ones = claimed([layout("A", 3, cpu_package_c=58, cpu_power_w=125, card_core_c=50), capped], "D").sentences
        held_ones = [plain(s.parts) for s in open_ones if s.code == "held"]
        self.assertEqual(
            held_ones,
            ["The processor stood at its limit, here or in A: such a temperature tells nothing; power, clock and score do."],
        )
        self.assertFalse(any("processor (" in plain(s.parts) for s in open_ones if s.code == "unsure"))
        self.assertTrue(any("processor's power is 15 ±" in plain(s.parts) for s in open_ones if s.code == "price"))

    def test_a_score_has_no_more_digits_than_its_band_is_worth(self) -> None:
        """GUM 7.2.6: an uncertainty is seldom worth more than two digits."""
        self.assertEqual(plain([measured("score", 1090.04, 942.83)]), "1090 ± 943")
        self.assertEqual(plain([measured("fps", 144.31, 1.24)]), "144.3 ± 1.2")

    def test_the_time_of_a_job_has_its_unit_and_its_own_adjective(self) -> None:
        self.assertEqual(plain(["the job is ", Quantity(kind=kind_of("job_s"), value=12.34, band=2.1)]), "the job is 12.3 ± 2.1 s")
        self.assertEqual((compared("job_s", -12.3), compared("job_s", 3.0)), ("shorter", "longer"))

    def test_said_of_turns_words_and_signs(self) -> None:
        pairs = compare([layout("A", 3, cpu_package_c=58), layout("D", 3, cpu_package_c=50)])
        one, two = said_of(pairs, "A")[0], said_of(pairs, "D")[0]
        self.assertEqual((one.word, two.word), ("worse", "better"))
        self.assertAlmostEqual((one.difference_k or 0) + (two.difference_k or 0), 0.0)
        self.assertEqual(said_of(pairs, "C"), [])

    def test_reasons_name_the_worth_of_a_kelvin(self) -> None:
        placed = Placed("A", 3.0, (Share("cpu", "processor, K over room", 58, 2.0), Share("cost", "cost", 9, 0.01)), None, True, 0.5, 0.5)
        self.assertEqual(why_placed(placed, {"cpu": "near its limit"}), ["processor adds 2.0 (near its limit)"])

    def test_words_of_quantities(self) -> None:
        self.assertEqual(compared("cpu_package_c", -1.0), "cooler")
        self.assertEqual(compared("sound_dba", 1.0), "louder")
        self.assertEqual((kind_of("cpu_power_w"), kind_of("score")), ("power", "plain"))
        sentence = Sentence(code="x", parts=["at ", Quantity(kind="temperature", value=22.14, digits=1), "."])
        self.assertEqual(plain(sentence.parts), "at 22.1 °C.")


class FactsTest(SimpleTestCase):
    def facts(self, name: str, reference: str = "A") -> LayoutFacts:
        layouts = {x.id: x for x in DOC.layouts}
        return facts_of(Oracle(DOC, Question()), layouts[name], layouts[reference])

    def test_cost_work_and_parts_are_counted_from_the_reference(self) -> None:
        own = self.facts("D")
        self.assertEqual((own.cost, own.labour_min, own.parts), (27.0, 19.0, 4))
        self.assertEqual((self.facts("A").cost, self.facts("A").labour_min), (0.0, 0.0))
        self.assertEqual(self.facts("A", "D").cost, -27.0)
        self.assertEqual((self.facts("D").looks_short, self.facts("G").looks_short), (0.0, 5.0))
        self.assertEqual((self.facts("L").mixed_fans, self.facts("D").mixed_fans), (True, False))

    def test_limits_are_those_of_the_worst_room(self) -> None:
        own = self.facts("A")
        self.assertEqual(worst_room_c(DOC), 29)
        self.assertEqual(own.limit_rise_k, {"cpu": 71.0, "card": 61.0})

    def test_a_layout_without_parts_has_no_forecast_but_its_price(self) -> None:
        raw = demo_raw()
        raw["base"].pop("cpu")
        doc = check_job(raw).doc
        own = facts_of(Oracle(doc, Question()), doc.layouts[1], doc.layouts[0])
        self.assertIsNone(own.dust_pct)
        self.assertEqual(own.limit_rise_k, {})

    def test_conditions_name_case_parts_and_mode(self) -> None:
        own = parts_of(DOC)["A"]
        self.assertEqual(own["mode of the fans"], "fixed speeds")
        self.assertEqual(set(own), {"case", "processor", "card", "mode of the fans"})
        raw = demo_raw()
        raw["layouts"][0] |= {"open_bench": True}
        raw["layouts"][0]["fans"][0]["curve"] = raw["curves"][0]["id"] if raw.get("curves") else "c"
        raw.setdefault("curves", []).append({"id": "c", "source": "cpu", "points": [[30, 40], [80, 100]]})
        own = parts_of(check_job(raw).doc)["A"]
        self.assertEqual((own["case"], own["mode of the fans"]), ("open bench", "curves"))


class OptionsTest(SimpleTestCase):
    def test_what_has_no_figure_is_not_chosen_among(self) -> None:
        s = studied([layout("A", 3, cpu_package_c=58), layout("D", 3, cpu_package_c=50), Candidate("C", [run_of({"sound_dba": 30.0})])])
        self.assertEqual([o.layout for o in options(s)], ["A", "D"])

    def test_the_open_bench_is_held_against_and_never_chosen(self) -> None:
        found = [layout("A", 3, cpu_package_c=58), layout("D", 3, cpu_package_c=50), layout("C", 3, cpu_package_c=45)]
        raw = DOC.model_dump(mode="json", exclude_none=True)
        next(x for x in raw["layouts"] if x["id"] == "C")["open_bench"] = True
        s = study(check_job(raw).doc, Runs({"both": found}), Settings(weights=PrioritiesDoc.model_validate(CPU_ALONE)))
        choice = choose(options(s), s.weights, alike(s, options(s)))
        self.assertEqual((choice.best, [p.layout for p in choice.placed]), ("D", ["D", "A"]))
        said = claim("C", s.reference, choice, s.pairs, s.facts, s.own, s.load)
        self.assertIn("not a layout to build", plain(said.head))
        self.assertTrue(any(p.b == "C" or p.a == "C" for p in s.pairs))
        raw["case"]["kind"] = "open_bench"  # a job about benches chooses among them
        on_bench = study(check_job(raw).doc, Runs({"both": found}), Settings(weights=PrioritiesDoc.model_validate(CPU_ALONE)))
        self.assertIn("C", [o.layout for o in options(on_bench)])

    def test_a_part_at_its_limit_is_charged_with_the_watts_it_gave_up(self) -> None:
        held = [Flag("throttled", 900, 2400, "power fell", "cpu_package_c")]
        capped = Candidate("D", [run(held, cpu_package_c=71.0, cpu_power_w=100.0)])
        own = next(o for o in options(studied([layout("A", 3, cpu_package_c=58), capped])) if o.layout == "D")
        self.assertAlmostEqual(own.values["cpu"][0], 71.0 + 0.2 * 25)
        self.assertFalse(own.passed)

    def test_of_parts_at_their_limit_the_one_that_keeps_more_power_is_better_whoever_made_it(self) -> None:
        """Also where nobody said which processor it is: the watts count from the most that any layout let it draw."""
        held = [Flag("throttled", 900, 2400, "power fell", "cpu_package_c")]
        found = [Candidate(n, [run(held, cpu_package_c=71.0, cpu_power_w=w)]) for n, w in (("A", 100.0), ("D", 118.0))]
        raw = demo_raw()
        raw["base"].pop("cpu")
        for x in raw["layouts"]:
            x.pop("cpu", None)
        unnamed = study(check_job(raw).doc, Runs({"both": found}), Settings(weights=PrioritiesDoc.model_validate(CPU_ALONE)))
        by_layout = {o.layout: o for o in options(unnamed)}
        self.assertAlmostEqual(by_layout["A"].values["cpu"][0] - by_layout["D"].values["cpu"][0], WATT_WORTH_K * 18)
        self.assertGreater(by_layout["D"].values["cpu"][1], unnamed.budget("D", "cpu_package_c").drawn)  # type: ignore[union-attr]
        choice = choose(list(by_layout.values()), unnamed.weights, alike(unnamed, options(unnamed)))
        self.assertEqual((choice.best, choice.sure, choice.tied), ("D", "likely", ()))
        named = judge(DOC, Runs({"both": found}), Settings()).of(None)
        self.assertEqual((named.best, named.chosen), (None, "D"))
        assert named.claim
        self.assertEqual(plain(named.claim.head), "No layout passes every limit; by your weights D, three in front does best.")
        self.assertIn("processor's power is 18 ±", plain(named.claim.sentences[0].parts))

    def test_a_result_that_is_shown_better_decides_where_temperatures_do_not(self) -> None:
        """Nothing is said to be as good as what is shown to be worse beside it; a result counts like the part that matters more."""
        for name, better, worse in (("score", 21_500.0, 20_000.0), ("fps", 143.0, 132.0), ("job_s", 300.0, 330.0)):
            with self.subTest(name):
                found = [layout("A", 2, 0.1, cpu_package_c=51, **{name: worse}), layout("D", 2, 0.1, cpu_package_c=51.2, **{name: better})]
                c = claimed(found)
                self.assertEqual((plain(c.head), c.sure), ("Build D, three in front.", "sure"))
                own = {o.layout: o.values["result"][0] for o in options(studied(found))}
                short = 100 * (worse / better - 1) if name == "job_s" else 100 * (1 - worse / better)
                self.assertAlmostEqual(own["A"], short, places=6)
                self.assertEqual(own["D"], 0.0)
        alike_ones = [layout("A", 2, 0.1, cpu_package_c=51, score=20_000), layout("D", 2, 0.1, cpu_package_c=51.1, score=20_040)]
        self.assertEqual(claimed(alike_ones).sure, "tied")
        one_read = [layout("A", 2, cpu_package_c=51), layout("D", 2, cpu_package_c=51.1, score=20_040)]
        self.assertNotIn("result", options(studied(one_read))[0].values)
        said = [plain(d.what) for d in judge(DOC, Runs({"both": one_read}), Settings()).of("A").doubts]
        self.assertIn("Score does not count here", said)

    def test_no_change_is_told_by_a_temperature_that_stood_at_its_limit(self) -> None:
        held = [Flag("throttled", 900, 2400, "power fell", "cpu_package_c")]
        levels = {"A": 96.0, "B": 108.0, "C": 109.0, "D": 117.0}
        found = [
            Candidate(n, [run(held, cpu_package_c=71.0, cpu_power_w=w, card_core_c=50.0, sound_dba=30)] * 2) for n, w in levels.items()
        ]
        told = judge(DOC, Runs({"both": found}), Settings()).of("D")
        e = told.effects
        for rows in (e.named, e.prices, e.designs, [x.ladder for x in e.ladders]):
            self.assertNotIn("cpu_package_c", [x.channel for x in rows])
        self.assertTrue(e.prices)
        self.assertEqual([w.channel for w in e.ways], ["cpu_power_w", "card_core_c", "sound_dba"])
        self.assertEqual([x.points for x in e.equal_noise if x.channel == "cpu_package_c"], [])
        self.assertEqual(told.frontier, [])

    def test_balance_ties_by_its_own_uncertainty(self) -> None:
        s = studied([layout("A", 3, cpu_package_c=50, card_core_c=50), layout("D", 3, cpu_package_c=51, card_core_c=50.4)])
        self.assertTrue(alike(s, options(s))["A", "D", "balance"])
        far = studied([layout("A", 3, cpu_package_c=50, card_core_c=50), layout("D", 3, cpu_package_c=60, card_core_c=40)])
        self.assertFalse(alike(far, options(far))["A", "D", "balance"])

    def test_choices_are_the_same_for_the_same_seed(self) -> None:
        def once() -> Choice:
            s = studied([layout("A", 2, cpu_package_c=50.5), layout("D", 2, cpu_package_c=50)])
            return choose(options(s), s.weights, alike(s, options(s)), 7)

        self.assertEqual(once(), once())
