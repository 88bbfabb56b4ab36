"""What building takes, on the screen: leads, loop, as found, spare and later, schools, groups, ideas, files of cases and parts."""

import json
from pathlib import Path
from tempfile import TemporaryDirectory

from django.test import tag

from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.library.models import LibraryCase
from tests.browser.base import BrowserCase
from tests.machines import layout_raw


@tag("browser")
class BuildViewsTest(BrowserCase):
    def raw(self, layout: str = "A") -> dict[str, object]:
        self.saved()
        return layout_raw(adapters.document(Job.objects.get()), layout)

    def test_leads_get_headers_and_too_much_on_one_is_an_error(self) -> None:
        self.open_demo("parts")
        rows = self.page.locator("[data-kind=fans] [data-part]")
        rows.first.wait_for()
        for row in rows.all():
            row.get_by_label("Current, A").fill("0.6")
        self.page.get_by_text("never join two supplies").first.wait_for()
        self.page.get_by_role("link", name="Layouts").click()
        self.view("leads")
        for mount in ("f2", "f3"):
            self.page.locator(f"[data-lead={mount}]").get_by_label("Header of").select_option("case 1")
        self.page.locator("[data-header='case 1'][data-verdict=overloaded]").wait_for()
        self.view("settled")
        self.page.locator("[data-finding=header_overloaded]").wait_for()
        self.page.locator("[data-finding=too_few_plugs]").wait_for()
        self.mount("f3").click()
        self.page.get_by_role("button", name="unplug", exact=True).click()
        self.page.locator("[data-finding=header_overloaded]").wait_for(state="detached")
        self.assertEqual(len(self.raw()["wiring"]), 4)  # type: ignore[arg-type]

    def test_leads_that_are_left_are_shared_out_with_one_press(self) -> None:
        self.open_demo()
        self.view("leads")
        chosen = self.raw()["wiring"]
        for of in ("f2", "f3", "cooler_fan"):
            self.page.locator(f"[data-lead={of}]").get_by_label("Header of").select_option("")
        self.page.get_by_role("button", name="Share out the 3 leads that are left").click()
        self.page.get_by_role("button", name="Share out").wait_for(state="detached")
        self.assertEqual(self.page.locator("[data-lead=cooler_fan]").get_by_label("Header of").input_value(), "processor")
        names = [sorted((p["of"], p["header"]) for p in x) for x in (chosen, self.raw()["wiring"])]  # type: ignore[attr-defined]
        self.assertEqual(names[0], names[1])
        self.page.keyboard.press("z")
        self.page.get_by_role("button", name="Share out").wait_for()

    def test_as_found_names_a_reversed_and_an_unplugged_fan(self) -> None:
        self.open_demo()
        self.view("as found")
        self.page.get_by_role("button", name="Start: all as meant").click()
        self.page.get_by_text("Everything is as the layout means it").wait_for()
        self.page.get_by_label("F2 blows").select_option("exhaust")
        self.page.get_by_label("Lead of F3").select_option("out")
        self.page.locator("[data-deviation=reversed]").get_by_text("F2 blows out, meant was in").wait_for()
        self.page.locator("[data-deviation=unplugged]").get_by_text("F3").wait_for()
        self.view("settled")
        self.page.locator("[data-finding=found_reversed]").wait_for()

    def test_the_guide_to_directions_opens_from_any_mount(self) -> None:
        self.open_demo()
        self.mount("t1").click()
        self.page.get_by_role("button", name="which way does it blow?").click()
        guide = self.page.get_by_role("dialog", name="Which way does a fan blow?")
        self.assertEqual(guide.get_by_role("img").count(), 4)
        guide.get_by_role("button", name="Close", exact=True).click()
        guide.wait_for(state="hidden")

    def test_turning_a_radiator_moves_the_air_and_changes_the_words(self) -> None:
        self.open_demo(layout="D")
        self.view("loop")
        loop = self.page.locator("[data-loop]")
        self.assertEqual(loop.get_attribute("data-pocket"), "radiator")
        first = loop.get_by_text("tubes leave").inner_text()
        self.tray("cooler, loop")
        self.page.get_by_label("Tubes leave it").select_option("top")
        loop.get_by_text(first).wait_for(state="detached")
        self.assertNotEqual(loop.get_by_text("tubes leave").inner_text(), first)
        self.view("settled")
        self.page.locator("[data-finding=tubes_at_top]").wait_for()

    def test_spare_mounts_later_loads_and_ideas(self) -> None:
        self.open_demo("survey")
        self.page.get_by_role("button", name="Add a later load").click()
        self.page.locator("[data-rows=scenarios]").get_by_label("Card, more").fill("900")
        self.page.get_by_role("link", name="Layouts").click()
        self.view("later")
        self.page.locator("[data-growth=not]").get_by_text("not enough").wait_for()
        self.page.locator("[data-spare=f1]").get_by_role("button", name="put it").click()
        self.page.locator("[data-spare=f1]").wait_for(state="detached")
        self.page.get_by_role("button", name="Add an idea").click()
        self.page.get_by_label("What to try").fill("someone suggested flipping the rear fan")
        self.page.get_by_role("button", name="make it a layout from A").click()
        self.page.get_by_text("became layout E").wait_for()
        self.assertEqual(self.raw("E")["note"], "someone suggested flipping the rear fan")

    def test_a_group_sets_the_speed_of_its_fans_and_survives_duplication(self) -> None:
        self.open_demo()
        self.tray("fan groups")
        self.page.get_by_role("button", name="Add a group").click()
        self.page.locator("[data-rows$=groups]").get_by_label("Speed").fill("55")
        self.mount("f2").click()
        self.page.get_by_label("Group of the fan at F2").select_option(index=1)
        self.page.get_by_text("55 %").wait_for()
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("d")
        copy = self.raw("E")
        self.assertEqual(copy["groups"][0]["speed_pct"], 55)  # type: ignore[index]
        self.assertEqual(copy["fans"][0]["group"], copy["groups"][0]["id"])  # type: ignore[index]

    def test_what_does_not_fit_is_not_ready_until_it_is_accepted(self) -> None:
        self.open_demo("survey")
        self.page.get_by_label("Tallest cooler").fill("150")
        self.page.get_by_role("link", name="Layouts").click()
        self.view("fit")
        self.page.locator("[data-ready=not]").wait_for()
        self.assertTrue(self.page.locator("[data-ready] input").is_disabled())
        self.view("settled")
        self.page.locator("[data-finding=does_not_fit]").get_by_role("button", name="Accept it").click()
        self.page.get_by_label("Why it may stay").fill("measured: it touches and the panel closes")
        self.page.get_by_role("button", name="accept", exact=True).click()
        self.view("fit")
        self.page.locator("[data-ready=may] input").check()
        self.assertTrue(self.raw()["ready"])

    def test_a_measured_length_overrides_the_sheet_and_both_stay(self) -> None:
        self.open_demo("survey")
        field = self.page.locator("[data-dimension='limits_mm.cooler_height']")
        field.get_by_label("Where this figure comes from").select_option("measured")
        field.get_by_label("Tallest cooler").fill("163")
        field.get_by_text("sheet 165, measured 163").wait_for()
        self.saved()
        case = adapters.document(Job.objects.get())["case"]
        self.assertEqual(case["limits_mm"]["cooler_height"], 163)
        self.assertEqual(case["dimensions"]["limits_mm.cooler_height"]["sheet_mm"], 165)

    def test_a_case_goes_to_a_file_and_into_the_library(self) -> None:
        self.open_demo("survey")
        with self.page.expect_download() as got:
            self.page.get_by_role("link", name="Save this case").click()
        with TemporaryDirectory() as folder:
            path = Path(folder) / "case.json"
            got.value.save_as(path)
            self.page.get_by_label("Put a case file into the library").set_input_files(path)
            self.page.get_by_text("is in the library").wait_for()
            self.assertTrue(LibraryCase.objects.filter(document__name="Gannet 41").count() >= 2)
            case = json.loads(path.read_text(encoding="utf-8"))
            case["case"]["name"] = "Gannet 42"
            path.write_text(json.dumps(case), encoding="utf-8")
            self.page.get_by_label("Load a case into this job").set_input_files(path)
            self.page.get_by_text("Gannet 42 is in this job now").wait_for()
            path.write_text("{}", encoding="utf-8")
            self.page.get_by_label("Load a case into this job").set_input_files(path)
            self.page.get_by_role("alert").get_by_text("no file of a case").wait_for()
        self.assertEqual(self.page.get_by_label("Name of the case").input_value(), "Gannet 42")

    def test_parts_go_to_a_file_and_come_back(self) -> None:
        self.open_demo("parts")
        with self.page.expect_download() as got:
            self.page.get_by_role("link", name="CSV", exact=True).click()
        with TemporaryDirectory() as folder:
            path = Path(folder) / "parts.csv"
            got.value.save_as(path)
            text = path.read_text(encoding="utf-8")
            self.assertTrue(text.startswith("part,id,name"))
            path.write_text(text.replace("tern-120,Tern 120", "loon-120,Loon 120"), encoding="utf-8")
            self.page.get_by_label("Parts from a file, CSV or JSON").set_input_files(path)
            self.page.locator("[data-part=loon-120]").wait_for()
            path.write_text("part,id\nwings,w\n", encoding="utf-8")
            self.page.get_by_label("Parts from a file, CSV or JSON").set_input_files(path)
            self.page.get_by_role("alert").get_by_text("row 2").wait_for()

    def test_a_fan_s_curve_typed_and_seen_at_work(self) -> None:
        self.open_demo("parts")
        row = self.page.locator("[data-part=tern-120]")
        row.get_by_role("button", name="type or paste").click()
        box = row.get_by_role("textbox").last
        box.fill("0; 17\n40")
        row.get_by_role("button", name="Use these points").click()
        row.get_by_text("Line 2 needs two numbers").wait_for()
        box.fill("0; 17\n40; 11,5\n92; 0")
        row.get_by_role("button", name="Use these points").click()
        row.get_by_text("sheet curve of 3 points").wait_for()
        row.get_by_label("On hand").fill("4")
        self.page.get_by_role("link", name="Layouts").click()
        self.mount("f3").click()
        self.page.get_by_role("button", name="its curve here").click()
        self.page.locator("[data-work=f3]").get_by_text("of what it would in free air").wait_for()
        self.assertGreaterEqual(self.page.locator("[data-work=f3] li").count(), 2)

    def test_a_named_point_is_drawn_where_it_is(self) -> None:
        self.open_demo("survey")
        self.page.get_by_role("button", name="Add a point").click()
        row = self.page.locator("[data-rows=points] [data-row=p1]")
        row.get_by_label("Sensor no.").fill("7")
        row.get_by_label("From the front").fill("100")
        point = self.page.locator("[data-point=p1]")
        point.get_by_text("7", exact=True).wait_for()
        before = (point.bounding_box() or {"x": 0.0})["x"]
        row.get_by_label("From the front").fill("300")
        self.page.wait_for_function("x => document.querySelector('[data-point=p1]').getBoundingClientRect().x < x - 50", arg=before)

    def test_obstacles_and_vents_are_drawn_as_they_are_typed(self) -> None:
        self.open_demo("survey")
        self.page.get_by_role("button", name="Add an obstacle").click()
        self.page.get_by_role("button", name="Add a vent").click()
        block = self.page.locator("[data-block=o1] rect")
        before = (block.bounding_box() or {"height": 0.0})["height"]
        row = self.page.locator("[data-rows='case.blocks'] [data-row=o1]")
        row.get_by_label("to", exact=True).last.fill("300")
        self.page.wait_for_function(
            "h => document.querySelector('[data-block=o1] rect').getBoundingClientRect().height > h + 40", arg=before
        )
        self.assertEqual(self.page.locator("[data-vent=v1]").count(), 1)

    def test_an_order_of_assembly_and_one_that_cannot_be(self) -> None:
        self.open_demo("survey")
        self.page.get_by_role("button", name="Add a first-this-then-that").click()
        row = self.page.locator("[data-rows='case.assembly'] [data-row=a1]")
        self.page.get_by_role("link", name="Layouts").click()
        self.view("fit")
        self.page.get_by_text("An order in which they go in").click()
        self.page.locator("[data-assembly] li").first.get_by_text("power supply").wait_for()
        self.page.get_by_role("link", name="Survey").first.click()
        row.get_by_label("First").fill("card")
        self.page.get_by_role("link", name="Layouts").click()
        self.view("fit")
        self.page.locator("[data-assembly=none]").wait_for()

    def test_the_drawing_turns_over_with_the_window(self) -> None:
        self.open_demo("survey")
        front = "document.querySelector('[data-mount=f1]').getBoundingClientRect().x"
        rear = "document.querySelector('[data-mount=r1]').getBoundingClientRect().x"
        self.mount("f1").wait_for()
        self.assertTrue(self.page.evaluate(f"{front} > {rear}"))
        self.page.get_by_label("Its window, seen from the front").select_option("right")
        self.page.wait_for_function(f"() => {front} < {rear}")

    def test_the_best_layout_follows_the_weights_without_asking_again(self) -> None:
        self.open_demo("verdict")
        orders: list[str | None] = []
        for quiet, cool in (("0", "5"), ("5", "0")):
            self.page.get_by_role("link", name="Survey", exact=False).first.click()
            self.page.get_by_label("quiet", exact=True).fill(quiet)
            for part in ("a cool processor", "a cool card"):
                self.page.get_by_label(part, exact=True).fill(cool)
            self.page.get_by_role("link", name="Verdict", exact=False).first.click()
            self.page.wait_for_function(
                "o => (document.querySelector('[data-best]')?.dataset.best ?? o) !== o", arg=orders[-1] if orders else ""
            )
            orders.append(self.page.locator("[data-best]").get_attribute("data-best"))
        self.assertNotEqual(orders[0], orders[1])

    def test_an_open_bench_and_weights_are_kept(self) -> None:
        self.open_demo("survey")
        self.page.get_by_label("It is", exact=True).first.select_option("open_bench")
        self.page.get_by_label("quiet", exact=True).fill("5")
        self.page.get_by_label("It is", exact=True).last.select_option("chamber")
        self.page.get_by_text("Parts colder than the air draw water").wait_for()
        self.saved()
        raw = adapters.document(Job.objects.get())
        self.assertEqual((raw["case"]["kind"], raw["priorities"]["noise"], raw["room"]["kind"]), ("open_bench", 5, "chamber"))
