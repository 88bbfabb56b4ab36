"""The verdict as one document: what is read from layouts, the claim's words, doubts, records and replications."""

from dataclasses import replace
from typing import Any, ClassVar

from django.test import SimpleTestCase
from django.utils import timezone

from demo import campaign
from desk.job.conditions import named_of, parts_of
from desk.verdict.chains import designs, families, ladders, named_pairs
from desk.verdict.document import VerdictDoc, verdict
from desk.verdict.drawing import drawings_to_keep
from desk.verdict.facts import all_changes
from desk.verdict.record import RecordDoc, RunRef, judged_anew, moved, read_record, record_in, replication, stale
from desk.verdict.study import Runs, Settings
from desk.verdict.words import Quantity, plain, quantity
from desk.words.channels import channel_words
from documents.errors import DocumentError
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.plan.protocol import Acceptance, CriterionResult
from engine.runs.flag import Flag
from engine.verdict.candidate import Candidate
from server.apps.verdicts.report import html
from tests.machines import demo_raw
from tests.runs_made import layout, layout_of, run

DOC = campaign.document()
FIGURES = {"A": (60, 62, 30), "B": (67, 57, 31), "C": (57, 55, 32), "D": (52, 53, 32.4), "E": (53, 52, 33.2)}


def made(repeats: int = 3, more: dict[str, float] | None = None) -> dict[str, list[Candidate]]:
    """Runs of the campaign's ladder with known figures."""
    found = [
        layout_of(n, {"cpu_package_c": cpu, "card_core_c": card, "sound_dba": level} | (more or {}), repeats)
        for n, (cpu, card, level) in FIGURES.items()
    ]
    return {"both": found}


def judged(by_load: dict[str, list[Candidate]] | None = None, doc: JobDoc = DOC, **settings: Any) -> VerdictDoc:
    return verdict(doc, Runs(by_load or made()), Settings(**settings))


class ChainsTest(SimpleTestCase):
    def setUp(self) -> None:
        self.names = [x.id for x in DOC.layouts]
        self.differ = all_changes(DOC, DOC.layouts)

    def test_the_ladders_of_the_campaign(self) -> None:
        rows = ladders(self.names, self.differ)
        self.assertIn(list("ABCDE"), rows)
        self.assertIn(list("ABCFE"), rows)
        self.assertEqual(ladders(["A", "B"], self.differ), [])

    def test_full_designs_of_single_changes(self) -> None:
        found = {frozenset(d.layouts): d for d in designs(self.names, self.differ)}
        self.assertIn(frozenset("CFGH"), found)
        own = found[frozenset("CFGH")]
        self.assertEqual(own.layouts[0], "C")
        self.assertEqual(set(own.names), {"front panel removed", "put Tern 120 at T1, out"})
        self.assertNotIn(frozenset("GDHE"), found)

    def test_families_of_speeds(self) -> None:
        self.assertIn(["C", "I", "J"], families(self.names, self.differ))
        self.assertIn(["D", "K"], families(self.names, self.differ))

    def test_named_pairs(self) -> None:
        found = {(p.kind, p.without, p.with_it) for p in named_pairs(DOC, self.names, self.differ)}
        self.assertLessEqual({("panel", "G", "C"), ("panel", "H", "F"), ("push_pull", "L", "M")}, found)
        self.assertEqual(named_pairs(DOC, ["A", "B"], self.differ), [])

    def test_a_filter_is_a_named_thing(self) -> None:
        raw = demo_raw()
        bare = {**raw["layouts"][0], "id": "X", "panels": {"front": {"state": "fitted", "filter": "none"}}}
        fine = {**raw["layouts"][0], "id": "Y", "panels": {"front": {"state": "fitted", "filter": "fine"}}}
        doc = check_job(raw | {"layouts": [bare, fine]}).doc
        found = named_pairs(doc, ["X", "Y"], all_changes(doc, doc.layouts))
        self.assertEqual([(p.kind, p.without, p.with_it) for p in found], [("filter", "X", "Y")])


class VerdictDocTest(SimpleTestCase):
    def test_the_claim_says_choice_size_price_scope_and_confidence(self) -> None:
        v = judged(weights={"cpu": 5, "card": 0, "noise": 0, "balance": 0, "cost": 0, "dust": 0, "labour": 0})
        assert v.claim
        self.assertEqual((v.best, v.chosen, v.reference), ("D", "D", "A"))
        said = {s.code: plain(s.parts) for s in v.claim.sentences}
        self.assertIn("three in front", plain(v.claim.head))
        self.assertIn("processor is 8.0 ±", said["better"])
        self.assertIn("sound is 2.4 ±", said["price"])
        self.assertIn("15 runs, 3 of each", said["scope"])
        self.assertIn("both parts loaded", said["scope"])
        self.assertIn("19 min", said["cost"])

    def test_another_layout_is_argued_for_without_being_called_the_best(self) -> None:
        v = judged(chosen="B")
        assert v.claim
        self.assertEqual(v.claim.layout, "B")
        self.assertIn("by your weights", plain(v.claim.head))
        self.assertEqual(v.claim.sure, "")

    def test_waterfall_ladder_and_knee(self) -> None:
        v = judged(chosen="E")
        way = next(w for w in v.effects.ways if w.channel == "cpu_package_c")
        self.assertEqual([s.end for s in way.steps], list("BCDE"))
        self.assertAlmostEqual(way.start_value + sum(s.difference_k for s in way.steps), way.end_value, places=6)
        own = next(x for x in v.effects.ladders if x.ladder.channel == "cpu_package_c")
        self.assertEqual((own.ladder.knee, own.ladder.negative), ("D", ("B", "E")))
        self.assertEqual(own.ladder.shown, ("B", "E"))

    def test_prices_are_against_the_reference(self) -> None:
        prices = {p.end: p for p in judged().effects.prices if p.channel == "cpu_package_c"}
        self.assertEqual(prices["B"].why, "it is warmer")
        self.assertAlmostEqual(prices["D"].cost_per_k or 0, 27 / 8, places=6)

    def test_settings_that_name_nothing_are_refused(self) -> None:
        for wrong in (Settings(profile="loudest"), Settings(reference="Z")):
            with self.assertRaises(DocumentError):
                verdict(DOC, Runs(made()), wrong)

    def test_limits_and_criteria_come_before_wishes(self) -> None:
        doc = DOC.model_copy(update={"room": DOC.room.model_copy(update={"sound_limit_dba": 31.5})})
        v = judged(doc=doc)
        placed = {p.layout: p for p in v.placed}
        self.assertFalse(placed["D"].passed)
        self.assertEqual(placed["D"].worst, "sound")
        line = CriterionResult("cpu_package_c", 50, True, 52.0, -2.0, False, True, "52.0 of 50 K over room")
        failing = Acceptance(False, -2.0, "cpu_package_c", (line,))
        w = verdict(DOC, Runs(made(), {"D": [failing]}), Settings())
        self.assertIn("criterion", next(p for p in w.placed if p.layout == "D").worst or "")

    def test_each_load_by_itself(self) -> None:
        loads = made() | {"idle": [layout("A", 3, 0.1, cpu_package_c=9.0), layout("C", 3, 0.1, cpu_package_c=12.0)]}
        v = judged(loads)
        idle = next(x for x in v.loads if x.load == "idle")
        self.assertEqual(idle.best["cpu_package_c"], "A")
        self.assertEqual(judged(loads, load="idle").load, "idle")

    def test_figures_of_balance_spread_and_headroom(self) -> None:
        more = {"air_front_c": 3.0, "air_rear_c": 9.0, "cpu_power_w": 125.0, "cpu_clock_mhz": 4700.0}
        own = next(x for x in judged(made(more=more), cpu_share=0.25).spreads if x.layout == "A")
        self.assertAlmostEqual(own.front_rear_k or 0, 6.0, places=6)
        self.assertAlmostEqual(own.mean_k or 0, 0.25 * 60 + 0.75 * 62, places=6)
        self.assertAlmostEqual(own.cpu_k_per_w or 0, 60 / 125, places=6)
        assert own.cpu_headroom and own.cpu_headroom.most_clock_mhz
        self.assertEqual(own.cpu_headroom.most_clock_mhz % 100, 0)

    def test_doubts_name_ties_single_runs_and_the_worst_room(self) -> None:
        v = judged(made(1), chosen="D")
        said = [plain(d.what) for d in v.doubts]
        self.assertTrue(any(w.startswith("Run once only") for w in said))
        self.assertTrue(any("a room of 29 °C" in w for w in said))
        self.assertTrue(any(w.startswith("Not run: F") for w in said))
        self.assertTrue(any("are too close to call" in w for w in said))

    def test_layouts_that_are_drawn_alike_are_named(self) -> None:
        self.assertNotIn("drawn_alike", [d.code for d in judged(made()).doubts])
        raw = DOC.model_dump(mode="json", exclude_unset=True)
        first, second, third = raw["layouts"][:3]
        raw["layouts"][1] = first | {"id": second["id"], "name": "the same again", "note": "paste anew"}
        (doubt,) = [d for d in judged(made(), check_job(raw).doc).doubts if d.code == "drawn_alike"]
        self.assertEqual(plain(doubt.what), "A and B are drawn alike")
        self.assertIn("scatter", plain(doubt.because))
        raw["layouts"][2] = first | {"id": third["id"]}
        (doubt,) = [d for d in judged(made(), check_job(raw).doc).doubts if d.code == "drawn_alike"]
        self.assertEqual(plain(doubt.what), "A, B and C are drawn alike")

    def test_what_is_said_of_several_layouts_is_said_once(self) -> None:
        words = "F2 turns at 1000 where 1400 rpm are asked: another curve, or another header?"
        found = [replace(c, remarks=[words]) if c.name in "ABD" else c for c in made()["both"]]
        said = {plain(d.what): plain(d.because) for d in judged({"both": found}).doubts if d.code == "confounder"}
        self.assertEqual(said, {f"A, B and D: {words}": "This concerns A and B, A and C, A and D and 6 more."})
        every = [replace(c, remarks=[words]) for c in found]
        (because,) = [plain(d.because) for d in judged({"both": every}).doubts if d.code == "confounder"]
        self.assertEqual(because, "This concerns every pair.")

    def test_forecasts_and_the_guess_are_scored(self) -> None:
        plan = {"protocol": "short", "runs": [], "guess": {"best": "B", "words": "one fan will do"}}
        raw = DOC.model_dump(mode="json", exclude_unset=True) | {"plan": plan, "protocols": [{"id": "short"}]}
        v = judged(doc=check_job(raw).doc)
        self.assertIn("You guessed B; the runs say", v.scores.guess_says)
        self.assertEqual(v.scores.guess_errors, [])
        plan["guess"] |= {"over": "A", "cpu_k": -2.0}  # type: ignore[operator]
        (error,) = judged(doc=check_job(raw | {"plan": plan}).doc).scores.guess_errors
        told = next(p for p in v.pairs if {p.a, p.b} == {"A", "B"} and p.channel == "cpu_package_c")
        measured = (told.difference_k or 0) * (1 if told.b == "B" else -1)
        self.assertAlmostEqual(error.measured_k, measured)
        self.assertAlmostEqual(error.off_k, -2.0 - measured)
        self.assertEqual({r.layout for r in v.scores.rows}, set(FIGURES))
        far = judged({"both": [layout("A", 3, cpu_package_c=100.0), layout("B", 3, cpu_package_c=60.0)]})
        self.assertTrue(next(r for r in far.scores.rows if r.layout == "A").surprise)

    def test_a_layout_of_another_job_is_context_only(self) -> None:
        by_load = made()
        parts = parts_of(DOC)["A"]
        for c in by_load["both"]:
            c.conditions.extend([parts] * 3)
        other = layout("Z", 3, cpu_package_c=40.0, card_core_c=41.0)
        other.conditions.extend([parts | {"card": "another card", "case": "another case"}] * 3)
        v = verdict(DOC, Runs(by_load, beside=[other]), Settings())
        pairs = [p for p in v.pairs if "Z" in (p.a, p.b)]
        self.assertTrue(pairs and all(p.context and p.word == "cannot_tell" for p in pairs))
        self.assertNotIn("Z", {p.layout for p in v.placed})

    def test_words_for_people(self) -> None:
        self.assertEqual(quantity(Quantity(kind="difference", value=-4.14, band=0.9)), "−4.1 ± 0.9 K")
        self.assertEqual(quantity(Quantity(kind="money", value=95.0)), "95")
        self.assertEqual(channel_words("air_rear_c"), "air at rear")
        self.assertEqual(channel_words("cpu_core_3_c"), "core 3")


def ref(n: int) -> RunRef:
    name, digest = f"run {n}", str(n)
    return RunRef(id=n, name=name, layout="A", load="both", state="valid", made_at=timezone.now(), duration_s=2400, digest=digest)


def record(doc: JobDoc = DOC, **more: Any) -> RecordDoc:
    given: dict[str, Any] = {
        "job": doc.name,
        "layout": "D",
        "reason": "cooler",
        "signed_by": "Bench hand",
        "made_at": timezone.now(),
        "settings": Settings(),
        "verdict": judged(doc=doc),
        "document": doc.model_dump(mode="json", exclude_unset=True),
        "runs": [ref(1), ref(2)],
    }
    return RecordDoc(**(given | more)).sealed()


class RecordTest(SimpleTestCase):
    def test_the_report_says_no_word_of_a_pinned_temperature_and_names_watts_as_watts(self) -> None:
        held = [Flag("throttled", 900, 2400, "power fell", "cpu_package_c")]
        levels = (("A", 100.0, 29_120.4), ("D", 118.0, 30_210.2))
        found = [Candidate(n, [run(held, cpu_package_c=71.0, cpu_power_w=w, score=s)] * 2) for n, w, s in levels]
        page = " ".join(html(record(verdict=judged({"both": found}, chosen="D"))).split())
        self.assertIn("One change after another, processor&#x27;s power", page)
        self.assertRegex(page, r"18 ± \d+ W</td><td>better")
        self.assertRegex(page, r"30210 ± \d+[ <(]")
        self.assertRegex(page, r"71\.0 ± \d\.\d K \(at its limit; at 118 W\)")
        self.assertNotIn("0.0 ± 0.", page.split("One change after another")[1].split("</table>")[0])
        pairs = [row for row in page.split("<tr>") if "<td>processor</td>" in row]
        self.assertTrue(pairs and all("at its limit" in row for row in pairs), pairs)

    def test_a_record_is_whole_and_a_changed_one_is_refused(self) -> None:
        own = record()
        raw = own.model_dump(mode="json")
        self.assertEqual(read_record(raw).digest, own.digest)
        self.assertEqual((record_in(own.model_dump_json().encode()) or {})["digest"], own.digest)
        with self.assertRaises(DocumentError):
            read_record(raw | {"reason": "quieter"})
        with self.assertRaises(DocumentError):
            read_record({"format": "oventa-verdict-record"})
        for other in (b"{}", b"oventa-verdict-record", b'["oventa-verdict-record"]'):
            self.assertIsNone(record_in(other))

    def test_what_makes_it_stale(self) -> None:
        own = record()
        self.assertEqual(stale(own, DOC, own.runs), [])
        raw = DOC.model_dump(mode="json", exclude_unset=True)
        raw["layouts"][3]["fans"][0]["speed_pct"] = 60
        raw["parts"]["cpus"][0]["power_w"] = 140
        raw["room"] |= {"sound_limit_dba": 33, "worst_temperature_c": 35, "listener_distance_m": 1.0, "background_dba": 24}
        raw["practice"] = {"margin_k": 2}
        raw["priorities"] = {"cpu": 1}
        raw["stock"] = {"fans": {"tern-120": 4}}
        raw["layouts"].pop()
        said = stale(own, check_job(raw).doc, [*own.runs[:1], own.runs[1].model_copy(update={"state": "void"}), ref(3)])
        self.assertIn("layout D: R1 from 80 to 60 %", said)
        for words in ("the parts", "layout M is gone", "what matters to you", "1 run added: run 3", "changed: run 2"):
            self.assertIn(words, said)
        for words in ("the limit of sound, dBA: 34, now 33", "the warmest the room gets, °C: 29, now 35", "the margin, K: 1.5, now 2"):
            self.assertIn(words, said)
        for words in ("the listener's distance, m: ", "the background, dBA: ", "fans on hand: not said, now 4 tern-120"):
            self.assertTrue(any(line.startswith(words) for line in said), words)
        own_margin = record(settings=Settings(margin_k=1.0))
        self.assertFalse(any("margin" in line for line in stale(own_margin, check_job(raw).doc, own_margin.runs)))

    def test_a_record_of_an_older_method_says_what_today_s_would_say(self) -> None:
        own = record()
        self.assertEqual(judged_anew(own, own.verdict), ["it says the same"])
        figures = [f.model_copy(update={"value": f.value + 0.3}) for f in own.verdict.figures]
        pairs = [replace(p, word="cannot_tell") for p in own.verdict.pairs]
        said = judged_anew(own, own.verdict.model_copy(update={"best": "A", "figures": figures, "pairs": pairs}))
        self.assertIn(f"it would choose A, not {own.verdict.best}", said)
        self.assertTrue(any("today cannot tell" in line for line in said), said)
        self.assertTrue(any(line.startswith("D the processor: ") or "52.0 ± " in line for line in said), said)

    def test_a_later_record_says_what_is_another(self) -> None:
        later = record(layout="C", settings=Settings(margin_k=1.0))
        self.assertIn("choice: D, now C", moved(record(), later))
        self.assertEqual(moved(record(), record(runs=record().runs)), moved(record(), record()))

    def test_pictures_are_pictures(self) -> None:
        with self.assertRaises(DocumentError):
            drawings_to_keep({"D": "<html>"})
        self.assertEqual(list(drawings_to_keep({"D": "<svg/>", "E": "<svg>" + "x" * 700_000})), ["D"])

    def test_a_replication_is_an_empty_job_with_check_numbers(self) -> None:
        raw = DOC.model_dump(mode="json", exclude_unset=True) | {"protocols": [{"id": "short", "version": 2}]}
        doc = replication(record(check_job(raw).doc))
        self.assertEqual([x.id for x in doc.layouts], list("ABCDE"))
        assert doc.plan
        self.assertEqual((doc.plan.protocol, len(doc.plan.runs)), ("short", 5))
        numbers = {(x.layout, x.channel): x for x in doc.expected}
        self.assertAlmostEqual(numbers["D", "cpu_package_c"].value, 52.0, places=3)
        again = judged(doc=doc)
        self.assertTrue(all(c.within for c in again.checked))
        off = judged({"both": [layout("A", 3, cpu_package_c=60.0), layout("D", 3, cpu_package_c=45.0)]}, doc=doc)
        self.assertFalse(next(c.within for c in off.checked if c.layout == "D" and c.channel == "cpu_package_c"))
        self.assertIsNone(next(c.within for c in off.checked if c.layout == "B"))


class OnPurposeTest(SimpleTestCase):
    """Two places of the radiator by two cards, in one job: the very question, and judged as one."""

    @staticmethod
    def crossed(priced: float | None = 200.0) -> JobDoc:
        raw = demo_raw()
        card = {
            **raw["parts"]["cards"][0],
            "id": "other",
            "name": "Skerry 9",
            "power_w": raw["parts"]["cards"][0]["power_w"] + 60,
            "price": priced,
        }
        raw["parts"]["cards"].append(card)
        one, two = ({**next(x for x in raw["layouts"] if x["id"] == n)} for n in "CD")
        raw["layouts"] = [one, two, {**one, "id": "E", "card": "other"}, {**two, "id": "F", "card": "other"}]
        raw.pop("plan", None)
        return check_job(raw).doc

    def judged(self, doc: JobDoc, figures: dict[str, tuple[float, float, float]]) -> VerdictDoc:
        parts, named = parts_of(doc), named_of(doc)
        found = []
        for name, (cpu, card, watts) in figures.items():
            own = layout_of(name, {"cpu_package_c": cpu, "card_core_c": card, "card_power_w": watts, "sound_dba": 33}, 3)
            found.append(Candidate(name, own.runs, [parts[name]] * 3, named=named[name]))
        return verdict(doc, Runs({"both": found}), Settings(margin_k=1.5))

    FIGURES: ClassVar = {"C": (50.0, 52.0, 215.0), "D": (44.0, 55.0, 215.0), "E": (54.0, 58.0, 275.0), "F": (45.0, 66.0, 275.0)}

    def test_layouts_with_the_other_card_are_compared_and_said_to_be(self) -> None:
        v = self.judged(self.crossed(), self.FIGURES)
        pair = next(p for p in v.pairs if (p.a, p.b, p.channel) == ("C", "E", "card_core_c"))
        self.assertEqual((pair.word, pair.context), ("worse", False))
        self.assertTrue(any("another card, on purpose" in x and "Skerry 9" in x for x in pair.confounders))
        self.assertIsNone(pair.like_k, "the other card's power is part of what was asked for")
        self.assertEqual({p.layout for p in v.placed}, set("CDEF"))

    def test_the_interaction_of_place_and_card_is_shown(self) -> None:
        v = self.judged(self.crossed(), self.FIGURES)
        (design,) = [d for d in v.effects.designs if d.channel == "card_core_c"]
        self.assertEqual(set(design.layouts), set("CDEF"))
        place, card = sorted(design.names, key=lambda n: "card" in n)
        self.assertIn("Skerry 9", card)
        self.assertRegex(place, r"^from [C-F] to [C-F]$", "many changes are one question; its name is no list of them")
        self.assertGreater(len(design.parts[design.names.index(place)]), 2, "which they are is told beside it")
        self.assertEqual(design.parts[design.names.index(card)], [], "its name tells it")
        crossed = next(e for e in design.effects if len(e.changes) == 2)
        # by hand: half of (what the card adds in D less what it adds in C)
        self.assertAlmostEqual(abs(crossed.effect_k), abs((66 - 55) - (58 - 52)) / 2, places=6)

    def test_the_other_card_has_its_price(self) -> None:
        v = self.judged(self.crossed(), self.FIGURES)
        facts = {f.layout: f for f in v.layouts}
        self.assertAlmostEqual(facts["E"].cost - facts["C"].cost, 200.0)

    def test_what_nobody_named_is_context_still(self) -> None:
        doc = self.crossed()
        parts, named = parts_of(doc), named_of(doc)
        a, b = (layout_of(n, {"cpu_package_c": 50.0 + 5 * i}, 3) for i, n in enumerate("CD"))
        odd = Candidate("D", b.runs, [parts["D"] | {"card": "borrowed"}] * 3, named=named["D"])
        v = verdict(doc, Runs({"both": [Candidate("C", a.runs, [parts["C"]] * 3, named=named["C"]), odd]}), Settings())
        self.assertTrue(all(p.context for p in v.pairs))

    def test_power_stands_beside_temperatures(self) -> None:
        own = {(f.layout, f.channel): f.at_w for f in self.judged(self.crossed(), self.FIGURES).figures}
        self.assertEqual((own["C", "card_core_c"], own["E", "card_core_c"]), (215.0, 275.0))
        self.assertIsNone(own["C", "cpu_package_c"], "its power was not read")
