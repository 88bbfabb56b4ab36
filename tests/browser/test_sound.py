"""Sound at the bench: a clip of the made-up machine, a sweep with its bad band, the speed for a level, the browser's microphone."""

import tempfile
from pathlib import Path
from typing import ClassVar
from unittest.mock import patch

import numpy as np
from playwright.sync_api import expect

from desk.sound.document import sound_of
from documents.soundclip.reader import open_clip
from instruments.recorder import RATE_HZ, calibrator, record, wav
from server.apps.bench.models import Run
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Job
from server.apps.sounds.models import Clip, LevelReading
from tests.browser.base import BrowserCase
from tests.clips_apart import clips_apart
from tests.machines import machine


class SoundBrowserCase(BrowserCase):
    def setUp(self) -> None:
        clips_apart(self)
        super().setUp()

    def at_sound(self, layout: str = "A") -> None:
        self.open_demo("bench", layout)
        self.page.get_by_role("button", name=f"Sound of {layout}").click()


class SoundTest(SoundBrowserCase):
    def test_a_measured_run_says_what_changes_are_heard(self) -> None:
        self.open_demo("bench", "D")
        self.page.get_by_role("button", name="Runs of D").click()
        expect(self.page.locator("[data-heard]").first).to_contain_text("Level over the run: mean")

    def test_a_clip_of_the_made_up_machine_tells_its_level_tones_and_beats(self) -> None:
        self.at_sound()
        page = self.page
        expect(page.get_by_text("No clip of A yet")).to_be_visible()
        page.get_by_role("button", name="Clip of the made-up machine").click()
        expect(page.locator("[data-clip-view=done]")).to_be_visible(timeout=60_000)
        clip = Clip.objects.get(kind="machine")
        assert clip.result is not None
        expect(page.get_by_role("heading", name=f"{clip.result['laeq_dba']:.1f} dBA")).to_be_visible()
        expect(page.locator("[data-chart^=spectrum] svg").first).to_be_visible()
        page.locator("[data-chart^=spectrum]").first.get_by_role("button", name="as a table").click()
        expect(page.locator("[data-chart^=spectrum] table").first).to_be_visible()
        page.get_by_role("button", name="strike this clip").click()
        expect(page.locator(f"[data-clip='{clip.pk}'].line-through")).to_be_visible()

    def test_a_file_is_brought_in_and_tied_by_what_a_meter_read(self) -> None:
        self.at_sound()
        page = self.page
        noise = np.random.default_rng(1).normal(0, 0.02, 8 * RATE_HZ).astype(np.float32)
        page.set_input_files(
            "section[aria-label='New clip'] input[type=file]", {"name": "own.wav", "mimeType": "audio/wav", "buffer": wav(noise)}
        )
        expect(page.get_by_text("Only to be held against clips of the same recorder")).to_be_visible(timeout=60_000)
        page.get_by_label("Tied to a level by").select_option("meter")
        page.get_by_label("The meter read, dBA").fill("37.4")
        page.get_by_label("The meter read, dBA").press("Enter")
        page.get_by_role("button", name="Tie it").click()
        expect(page.get_by_role("heading", name="37.4 dBA")).to_be_visible(timeout=60_000)

    def test_a_sweep_shows_the_bad_band_and_it_is_avoided_from_then_on(self) -> None:
        self.at_sound("D")
        page = self.page
        page.get_by_role("button", name="sweep of speeds").click()
        with patch("desk.sound.procedure.SWEEP_STEPS", 8), patch("server.apps.sounds.standin.SWEEP_S", 6.0):
            page.get_by_role("button", name="Let the made-up machine do it").click()
            expect(page.get_by_text("the sweep is whole")).to_be_visible(timeout=120_000)
        band = page.locator("[data-bad-band]").first
        expect(band).to_be_visible()
        band.get_by_role("button", name="Avoid it from now on").click()
        expect(page.locator("[data-avoided]")).to_be_visible()
        self.wait_saved()
        fans = document(Job.objects.get(name="Watch-room plotter"))["parts"]["fans"]
        self.assertTrue(any(f.get("avoids") for f in fans))

    def test_the_speed_for_a_level_becomes_a_layout(self) -> None:
        self.at_sound("D")
        page = self.page
        page.get_by_role("button", name="speed for a level").click()
        expect(page.locator("[data-procedure=equal]")).to_be_visible()
        page.get_by_role("button", name="Let the made-up machine do it").click()
        page.get_by_role("button", name="Keep these speeds as a layout").click(timeout=60_000)
        self.wait_saved()
        layouts = Job.objects.get(name="Watch-room plotter").layouts.values_list("name", flat=True)
        self.assertTrue(any("at 34 dBA" in name or "dBA" in name for name in layouts), list(layouts))

    def test_a_sweep_is_read_by_hand_with_the_keyboard_alone_and_begun_anew(self) -> None:
        self.at_sound("A")
        page = self.page
        page.get_by_role("button", name="sweep of speeds").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_text("Slow fans carry little heat off")).to_be_visible()  # the caution at its step
        for level in ("31.0", "31.4"):
            field = page.get_by_label("Level at")
            field.focus()
            page.keyboard.type(level)
            page.keyboard.press("Enter")
            page.get_by_role("button", name="Keep this reading").focus()
            page.keyboard.press("Enter")
            expect(page.get_by_role("list", name="Readings").get_by_text(f"{level} dBA")).to_be_visible()
        expect(page.locator("[data-readings='2']")).to_be_visible()
        page.get_by_role("button", name="strike").first.focus()
        page.keyboard.press("Enter")
        expect(page.locator("[data-readings='1']")).to_be_visible()
        page.get_by_role("button", name="begin anew").focus()
        page.keyboard.press("Enter")
        expect(page.locator("[data-readings='0']")).to_be_visible()
        self.assertEqual(LevelReading.objects.count(), 2)  # nothing that was typed is lost

    def test_two_layouts_are_heard_as_forecast_at_one_gain(self) -> None:
        self.at_sound("A")
        page = self.page
        page.get_by_role("button", name="listen").click()
        page.get_by_label("First").select_option("forecast A")
        page.get_by_label("Second").select_option("forecast B")
        page.get_by_role("button", name="Play the first").click()
        expect(page.locator("[data-listen='0']")).to_be_visible()
        one, two = (float(x) for x in str(page.locator("[data-listen]").get_attribute("data-gains")).split())
        self.assertEqual(one, two)
        page.get_by_role("button", name="Play the second").click()
        expect(page.locator("[data-listen='1']")).to_be_visible()
        page.get_by_label("brought to the same level").check()
        expect(page.locator("[data-listen=off]")).to_be_visible()  # another way of listening begins anew
        page.get_by_role("button", name="Play the second").click()
        expect(page.locator("[data-listen='1']")).to_be_visible()
        one, two = (float(x) for x in str(page.locator("[data-listen]").get_attribute("data-gains")).split())
        self.assertLess(two, one)  # B is the louder
        page.get_by_role("button", name="Stop", exact=True).click()
        expect(page.locator("[data-listen=off]")).to_be_visible()

    def test_a_calibrators_clip_ties_those_after_it(self) -> None:
        self.at_sound("A")
        page = self.page
        bring = "section[aria-label='New clip'] input[type=file]"
        page.get_by_label("What is heard").select_option("calibrator")
        page.get_by_label("It gives, dB").fill("94")
        page.get_by_label("It gives, dB").press("Enter")
        page.set_input_files(bring, {"name": "cal.wav", "mimeType": "audio/wav", "buffer": wav(calibrator(4.0))})
        expect(page.locator("[data-clip]")).to_have_count(1)
        page.get_by_label("What is heard").select_option("machine")
        samples, truth = record(machine(), 8, 1)
        page.set_input_files(bring, {"name": "own.wav", "mimeType": "audio/wav", "buffer": wav(samples)})
        expect(page.locator("[data-clip]")).to_have_count(2)
        expect(page.get_by_label("Tied to a level by")).to_have_value("calibrator", timeout=60_000)
        expect(page.locator("[data-clip-view=done]").get_by_text("sone", exact=False).first).to_be_visible(timeout=60_000)
        found = Clip.objects.get(kind="machine").result
        assert found is not None
        self.assertAlmostEqual(found["laeq_dba"], truth.level_dba, delta=0.5)
        page.set_input_files(bring, {"name": "no.wav", "mimeType": "audio/wav", "buffer": b"no sound"})
        expect(page.get_by_role("alert").get_by_text("Nothing stored")).to_be_visible()

    def wait_saved(self) -> None:
        expect(self.page.get_by_text("all saved")).to_be_visible()
        self.page.wait_for_timeout(1200)
        expect(self.page.get_by_text("all saved")).to_be_visible()


class MicrophoneTest(SoundBrowserCase):
    """The browser's fake device plays a known file."""

    held: ClassVar[tempfile.TemporaryDirectory[str]]
    level_db: ClassVar[float]

    @classmethod
    def more_flags(cls) -> list[str]:
        cls.held = tempfile.TemporaryDirectory(prefix="oventa-microphone-")
        cls.addClassCleanup(cls.held.cleanup)
        noise = np.random.default_rng(3).normal(0, 0.05, 30 * RATE_HZ).astype(np.float32)
        file = Path(cls.held.name) / "known.wav"
        file.write_bytes(wav(noise, "PCM_16"))
        cls.level_db = sound_of(open_clip(file)).levels.eq
        return [
            "--use-fake-ui-for-media-stream",
            "--use-fake-device-for-media-stream",
            f"--use-file-for-fake-audio-capture={file}",
        ]

    def test_it_can_be_stopped_before_it_begins(self) -> None:
        self.at_sound()
        self.page.get_by_role("button", name="Record ten seconds").click()
        self.page.get_by_role("button", name="Stop", exact=True).click()
        expect(self.page.get_by_text("Stopped; nothing was kept.")).to_be_visible()
        expect(self.page.get_by_role("button", name="Record ten seconds")).to_be_visible()
        self.assertEqual(Clip.objects.count(), 0)

    def test_a_sweep_by_hand_takes_the_recording_of_each_speed_along(self) -> None:
        self.at_sound("A")
        page = self.page
        page.get_by_role("button", name="sweep of speeds").click()
        page.get_by_label("Level at").fill("33.1")
        page.get_by_label("Level at").press("Enter")
        page.get_by_role("button", name="Record ten seconds here").click()
        expect(page.get_by_role("status").get_by_text("Recorded at this speed")).to_be_visible(timeout=90_000)
        page.get_by_role("button", name="Keep this reading").click()
        expect(page.locator("[data-readings='1']")).to_be_visible()
        (reading,) = LevelReading.objects.all()
        self.assertEqual((reading.level_dba, reading.clip_id), (33.1, Clip.objects.get().pk))

    def test_the_clipboard_records_the_machine_of_its_run(self) -> None:
        self.open_demo("bench", "D")
        page = self.page
        run = Run.objects.filter(job__name="Watch-room plotter", layout__key="D", state="valid").first()
        assert run is not None
        page.get_by_role("button", name="Runs of D").click()
        page.get_by_text("clipboard", exact=False).first.click()
        box = page.locator("[data-run-sound]").first
        box.get_by_role("button", name="Record the machine").click()
        expect(box.get_by_role("status").get_by_text("Hands off and quiet")).to_be_visible()
        expect(box.locator("[data-run-clip]").get_by_text("relative")).to_be_visible(timeout=90_000)
        self.assertEqual(Clip.objects.get().run.layout_key, "D")  # type: ignore[union-attr]

    def test_ten_seconds_give_the_level_of_what_was_played(self) -> None:
        self.at_sound()
        self.page.get_by_role("button", name="Record ten seconds").click()
        expect(self.page.get_by_role("status").get_by_text("Hands off and quiet")).to_be_visible()
        expect(self.page.locator("[data-clip-view=done]")).to_be_visible(timeout=90_000)
        clip = Clip.objects.get()
        assert clip.result is not None
        self.assertFalse(clip.gain_moves)
        self.assertAlmostEqual(clip.result["laeq_dba"], self.level_db, delta=0.5)
        expect(self.page.get_by_role("button", name="Record ten seconds")).to_be_visible()
        self.assertGreaterEqual(clip.seconds, 10)
        expect(self.page.get_by_role("heading", name="relative")).to_be_visible()
