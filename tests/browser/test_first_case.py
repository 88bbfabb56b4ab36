"""A newcomer's first case: from nothing to a first forecast in at most forty actions, counted one by one."""

import struct
import zlib
from typing import Any

from django.test import tag

from documents.job.reader import check_job
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from tests.browser.base import BrowserCase

MOST_ACTIONS = 40


@tag("browser")
class FirstCaseTest(BrowserCase):
    with_demo = False
    actions = 0

    def press(self, name: str, scope: str = "body") -> None:
        self.actions += 1
        self.page.locator(scope).get_by_role("button", name=name).first.click()

    def follow(self, name: str) -> None:
        self.actions += 1
        self.page.get_by_role("link", name=name).first.click()

    def fill(self, label: str, value: object, scope: str = "body") -> None:
        self.actions += 1
        self.page.locator(scope).get_by_label(label, exact=True).first.fill(str(value))

    def choose(self, label: str, value: str, scope: str = "body") -> None:
        self.actions += 1
        self.page.locator(scope).get_by_label(label, exact=True).first.select_option(label=value)

    def begin(self, name: str, like: str, depth: int, height: int, width: int) -> None:
        self.open("/")
        self.fill("Name of the job", name)
        self.press("Start the survey")
        self.press(like, "[data-begin]")
        for label, value in (("Depth, front to rear", depth), ("Height, floor to top", height), ("Width, side to side", width)):
            self.fill(label, value, "[data-begin]")

    def put(self, mount: str, fan: str) -> None:
        self.actions += 2
        self.mount(mount).click()
        self.page.get_by_label("Put a fan").select_option(label=fan)

    def document(self) -> dict[str, Any]:
        self.saved()
        raw: dict[str, Any] = adapters.document(Job.objects.get())
        check_job(raw)
        return raw

    def forecast(self) -> float:
        self.page.wait_for_selector("[data-forecast]")
        self.page.wait_for_selector("[data-answered=yes]")
        return float(self.page.locator("[data-row=Processor]").get_attribute("data-rise") or 0)

    def test_a_sandwich_of_33_litres(self) -> None:
        self.begin("Sandwich", "a sandwich", 330, 400, 250)
        self.page.get_by_text("33 litres").first.wait_for()
        self.page.locator("[data-mount=t2]").wait_for()  # it is drawn while the questions are answered
        self.press("Draw the case")
        self.follow("Go on to the parts")
        self.choose("Add a processor", "office processor, 65 W")
        self.choose("Add a card", "display card, 75 W, open")
        self.choose("Add a cooler", "Shearwater sealed, pump on the processor")
        self.choose("Add a radiator", "120 mm radiator")
        self.choose("Add a kind of fan", "Tern 120")
        self.follow("Next: put fans in the case")
        self.press("cooler, loop")
        self.actions += 1
        self.page.get_by_role("checkbox", name="T1", exact=True).check()
        self.put("t1", "Tern 120")
        self.put("t2", "Tern 120")
        rise = self.forecast()
        self.assertTrue(5 < rise < 80, rise)
        self.assertLessEqual(self.actions, MOST_ACTIONS)
        case = self.document()["case"]
        self.assertEqual((case["card_chamber"], len(case["mounts"])), ("separate", 2))
        self.assertTrue(all(m["centre_mm"]["y"] > case["card_side_mm"] for m in case["mounts"]))

    def test_a_tower_of_60_litres_with_a_slanted_front(self) -> None:
        self.begin("Tower", "a tower", 510, 500, 235)
        self.page.get_by_text("60 litres").first.wait_for()
        self.choose("Places at the front", "3")
        self.choose("Size at the front, mm", "120")
        self.press("Draw the case")
        self.fill("Set back at its top", 60, "[data-set-back=front]")
        self.page.wait_for_function("() => document.querySelector('[data-outline]').getAttribute('data-outline').includes('450')")
        self.follow("Go on to the parts")
        self.choose("Add a processor", "plotting processor, 105 W")
        self.choose("Add a card", "rendering card, 150 W, open, short")
        self.choose("Add a cooler", "Cormorant 92 tower")
        self.choose("Add a kind of fan", "Tern 120")
        self.follow("Next: put fans in the case")
        for mount in ("f1", "f2", "r1"):
            self.put(mount, "Tern 120")
        rise = self.forecast()
        self.assertTrue(5 < rise < 80, rise)
        self.assertLessEqual(self.actions, MOST_ACTIONS)
        case = self.document()["case"]
        front = [m["centre_mm"] for m in case["mounts"] if m["face"] == "front"]
        self.assertEqual(len(front), 3)
        for c in front:
            self.assertAlmostEqual(c["x"], 60 * c["z"] / 500, delta=0.1)

    def test_a_wall_that_moves_takes_its_mounts_along_and_what_hangs_outside_is_told(self) -> None:
        self.begin("Walls", "a tower", 430, 460, 220)
        self.press("Draw the case")
        section = "section:has(> div > h2:has-text('1 The case and its inside'))"
        self.fill("Depth, front to rear", 450, section)
        self.fill("Width, tray to window", 240, section)
        case = self.document()["case"]
        rear = next(m["centre_mm"] for m in case["mounts"] if m["face"] == "rear")
        self.assertEqual((rear["x"], rear["y"]), (450, 120))
        self.fill("Height, floor to top", 200, section)
        self.page.get_by_text("lies outside").first.wait_for()
        self.page.keyboard.press("Tab")
        self.page.locator("h1").click()
        self.page.keyboard.press("z")
        self.page.get_by_text("lies outside").first.wait_for(state="hidden")

    def test_a_photograph_sets_the_scale_places_a_mount_and_reads_a_length(self) -> None:
        # The picture is 800 by 600; the inside's floor runs from x 100 to 700 at y 550: 450 mm over 600 pixels, 0.75 mm each.
        self.begin("Photograph", "a tower", 450, 400, 220)
        self.press("Draw the case")
        picture = png(800, 600)
        with self.page.expect_file_chooser() as chooser:
            self.page.get_by_text("Lay a photograph behind the drawing").click()
        chooser.value.set_files({"name": "open case.png", "mimeType": "image/png", "buffer": picture})
        for corner, share in (("lower rear", 100 / 800), ("lower front", 700 / 800)):
            shown = self.page.get_by_role("button", name=f"click the inside's {corner} corner")
            shown.locator("img").wait_for()
            box = self.place(shown)
            shown.click(position={"x": share * box["width"], "y": 550 / 600 * box["height"]})
        self.page.locator("[data-photo=laid]").wait_for()
        frame = self.place(self.page.locator("[data-outline]"))
        laid = self.place(self.page.locator("[data-photo=laid]"))
        self.assertAlmostEqual(laid["width"] / frame["width"], 800 * 0.75 / 450, delta=0.03)
        self.assertAlmostEqual((frame["x"] - laid["x"]) / frame["width"], 100 * 0.75 / 450, delta=0.02)
        self.page.locator("[data-mount=f2]").click()
        self.press("Place F2 by a click")
        self.page.wait_for_selector("[data-photo-tool=mount]")
        frame = self.place(self.page.locator("[data-outline]"))
        self.page.mouse.click(frame["x"] + frame["width"] * 0.97, frame["y"] + frame["height"] * (1 - 170 / 400))
        self.press("Read a length")
        self.page.wait_for_selector("[data-photo-tool=length]")
        frame = self.place(self.page.locator("[data-outline]"))
        middle = frame["y"] + frame["height"] / 2
        for share in (0.2, 0.8):
            self.page.mouse.click(frame["x"] + frame["width"] * share, middle)
        reading = self.page.locator("[data-reading]")
        self.assertAlmostEqual(float(reading.get_attribute("data-reading") or 0), 0.6 * 450, delta=4)
        self.press("Take it")
        case = self.document()["case"]
        self.assertAlmostEqual(next(m["centre_mm"]["z"] for m in case["mounts"] if m["id"] == "f2"), 170, delta=4)
        read = case["dimensions"]["limits_mm.card_length"]
        self.assertEqual((read["source"], read["measured_mm"]), ("measured", case["limits_mm"]["card_length"]))
        self.assertTrue(8 <= read["tolerance_mm"] <= 20, read)
        self.assertTrue(case["photo"]["picture"].startswith("data:image/jpeg;base64,"))


def png(width: int, height: int) -> bytes:
    """A plain grey picture (source: the PNG specification, ISO/IEC 15948)."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    rows = b"".join(b"\0" + bytes([150]) * width for _ in range(height))
    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")
