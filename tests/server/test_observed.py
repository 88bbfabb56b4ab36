"""What was seen in runs goes into the record and its report: words, places, small copies of pictures, nothing that a camera wrote."""

import base64
import io
import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase
from PIL import Image

from desk.verdict.record import digest_of
from server.apps.bench.models import Mark
from server.apps.jobs.models import Job
from server.apps.verdicts.observed import LONGEST_PX, MOST_PICTURES, small_copy
from tests.demo_rows import load_demo
from tests.server.test_verdict_api import VerdictApi

ORIENTATION, DESCRIPTION = 0x0112, 0x010E


def photograph(width: int, height: int) -> bytes:
    """Red above, blue below, as a camera held upright writes it: turned, with words of its own."""
    picture = Image.new("RGB", (width, height), "red")
    picture.paste("blue", (0, 0, width // 2, height))
    exif = Image.Exif()
    exif[ORIENTATION], exif[DESCRIPTION] = 6, "at Mole Lane 3"
    out = io.BytesIO()
    picture.save(out, "JPEG", exif=exif)
    return out.getvalue()


def opened(text: str) -> Image.Image:
    return Image.open(io.BytesIO(base64.b64decode(text.split(",", 1)[1])))


class SmallCopyTest(SimpleTestCase):
    def test_it_is_small_upright_and_says_nothing_of_its_camera(self) -> None:
        made = small_copy(photograph(2400, 1200))
        picture = opened(made)
        self.assertEqual(picture.size, (LONGEST_PX // 2, LONGEST_PX))
        self.assertEqual(dict(picture.getexif()), {})
        self.assertNotIn(b"Mole Lane", base64.b64decode(made.split(",", 1)[1]))
        top, bottom = picture.convert("RGB").getpixel((200, 50)), picture.convert("RGB").getpixel((200, 850))
        assert isinstance(top, tuple) and isinstance(bottom, tuple)
        self.assertGreater(top[2], 200)
        self.assertGreater(bottom[0], 200)

    def test_what_is_no_picture_leaves_none(self) -> None:
        self.assertEqual(small_copy(b"\x89PNG\r\n\x1a\n" + bytes(40)), "")
        self.assertEqual(small_copy(b"GIF89a" + bytes(40)), "")


class ObservedTest(VerdictApi):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demo()
        cls.job = Job.objects.get(name="Watch-room plotter")
        runs = list(cls.job.runs.filter(layout_key="D", state="valid").order_by("pk"))
        data = photograph(1200, 900)
        Mark.objects.create(
            run=runs[0],
            kind="seen",
            tag="heat_felt",
            text="<b>behind the top</b>",
            at_s=90,
            x_mm=100,
            z_mm=200,
            picture=data,
            picture_type="image/jpeg",
        )
        Mark.objects.create(run=runs[0], kind="event", tag="panel_opened", at_s=120, until_s=180, drop=True)
        Mark.objects.create(run=runs[0], kind="alarm", tag="limit", at_s=121, text="no observation of a person")

    def test_record_and_report_show_them(self) -> None:
        made = self.freeze()
        raw = self.client.get(f"/api/verdicts/{made['id']}/record.json").json()
        seen, event = raw["observations"]
        self.assertEqual((seen["words"], seen["layout"], seen["x_mm"]), ("heat felt here: <b>behind the top</b>", "D", 100))
        self.assertEqual((event["words"], event["left_out"], event["picture"]), ("panel opened", True, ""))
        self.assertEqual(raw["digest"], digest_of(raw))
        text = self.client.get(f"/api/verdicts/{made['id']}/report.html").content.decode()
        for words in ("Seen and heard", "2.0 to 3.0 min, left out of the figures", "100 mm from the front, 200 mm over the floor"):
            self.assertIn(words, text)
        self.assertIn(seen["picture"], text)
        self.assertNotIn("<b>behind", text)
        back = self.client.post("/api/jobs/import", {"file": SimpleUploadedFile("x.json", json.dumps(raw).encode())})
        self.assertEqual(back.status_code, 201, back.content[:300])

    def test_more_pictures_than_a_record_takes(self) -> None:
        run = self.job.runs.filter(layout_key="D", state="valid").latest("pk")
        data = photograph(60, 40)
        for i in range(MOST_PICTURES + 3):
            Mark.objects.create(run=run, kind="note", text=f"note {i}", at_s=i, picture=data, picture_type="image/jpeg")
        made = self.freeze()
        raw = self.client.get(f"/api/verdicts/{made['id']}/record.json").json()
        self.assertEqual(sum(bool(o["picture"]) for o in raw["observations"]), MOST_PICTURES)
        self.assertEqual(len(raw["observations"]), MOST_PICTURES + 5)
        self.assertEqual(sum(o["picture_elsewhere"] for o in raw["observations"]), 4)  # one of the dozen is the first test row's own
        text = self.client.get(f"/api/verdicts/{made['id']}/report.html").content.decode()
        self.assertEqual(text.count("its picture is with the run"), 4)

    def test_a_record_from_elsewhere_with_another_kind_of_picture_is_refused(self) -> None:
        made = self.freeze()
        raw = self.client.get(f"/api/verdicts/{made['id']}/record.json").json()
        for odd in ("data:image/svg+xml;base64,PHN2Zy8+", "http://127.0.0.1/x.jpg", 'data:image/jpeg;base64,"><script>'):
            raw["observations"][0]["picture"] = odd
            raw["digest"] = digest_of(raw)
            answer = self.client.post("/api/jobs/import", {"file": SimpleUploadedFile("x.json", json.dumps(raw).encode())})
            self.assertEqual(answer.status_code, 422, odd)
