"""What stands in drawings, names and reasons can neither fetch, nor hide, nor hold anything up, on whichever way it came in."""

import contextlib
import http.server
import io
import json
import re
import resource
import threading
from collections.abc import Iterator
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from pypdf import PdfReader

from desk.paper import pdf
from desk.verdict.drawing import LARGEST_DRAWING, check_drawings, cleaned
from desk.verdict.record import digest_of
from documents.errors import DocumentError
from documents.package.document import JOB
from server.apps.jobs.models import Job
from server.apps.verdicts.models import Verdict
from tests.demo_rows import load_demo
from tests.odd import files_of, zipped
from tests.server.test_verdict_api import SVG, VerdictApi

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 10 10">'
NEST = HEAD + "<defs>" + '<g id="a0"><rect width="1" height="1"/></g>'
for i in range(1, 12):
    NEST += f'<g id="a{i}">' + f'<use xlink:href="#a{i - 1}"/>' * 9 + "</g>"
NEST += '</defs><use xlink:href="#a11"/></svg>'


def hostile(address: str) -> dict[str, str]:
    """Drawings that reach out, run or unfold; ``address`` is a server that must not be asked."""
    return {
        "image by http": f'{HEAD}<image href="{address}/image.png" width="5" height="5"/></svg>',
        "image of a file": f'{HEAD}<image xlink:href="file:///etc/passwd" width="5" height="5"/></svg>',
        "embedded drawing": f'{HEAD}<image href="data:image/svg+xml;base64,PHN2Zy8+" width="5" height="5"/></svg>',
        "style": f"{HEAD}<style>@import url({address}/style.css); rect {{ fill: url({address}/fill.svg#a) }}</style><rect/></svg>",
        "use of elsewhere": f'{HEAD}<use xlink:href="{address}/use.svg#a"/></svg>',
        "nest": NEST,
        "pattern": f'{HEAD}<defs><pattern id="p" width="1" height="1"><rect fill="url(#p)"/></pattern></defs><rect fill="url(#p)"/></svg>',
        "script": f"{HEAD}<script>alert(1)</script></svg>",
        "foreign": f'{HEAD}<foreignObject><iframe xmlns="http://www.w3.org/1999/xhtml" src="{address}"/></foreignObject></svg>',
        "link": f'{HEAD}<a xlink:href="javascript:alert(1)"><text>x</text></a></svg>',
        "animation": f'{HEAD}<animate attributeName="href" to="{address}"/></svg>',
        "entities": f'<!DOCTYPE svg [<!ENTITY a "x"><!ENTITY b "&a;&a;&a;&a;">]>{HEAD}<text>&b;</text></svg>',
        "outer entity": f'<!DOCTYPE svg [<!ENTITY a SYSTEM "file:///etc/passwd">]>{HEAD}<text>&a;</text></svg>',
        "stylesheet": f'<?xml-stylesheet href="{address}/s.css"?>{HEAD}<rect/></svg>',
    }


class _Listener(http.server.BaseHTTPRequestHandler):
    asked: list[str]

    def do_GET(self) -> None:
        self.asked.append(self.path)
        self.send_response(200)
        self.end_headers()

    def log_request(self, *_: object) -> None:
        """Says nothing."""


class DrawingTest(VerdictApi):
    def setUp(self) -> None:
        load_demo()
        self.job = Job.objects.get(name="Watch-room plotter")
        asked: list[str] = []
        self.asked = asked
        self.server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), type("L", (_Listener,), {"asked": asked}))
        threading.Thread(target=self.server.serve_forever, daemon=True).start()
        self.addCleanup(self.server.server_close)
        self.addCleanup(self.server.shutdown)
        self.address = f"http://127.0.0.1:{self.server.server_address[1]}"

    @contextlib.contextmanager
    def little_work(self) -> Iterator[None]:
        """Half a minute of a processor at the most, whatever else the machine does."""
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        yield
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        self.assertLess(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime, 30)

    def pdf_text(self, verdict: int) -> str:
        answer = self.client.get(f"/api/verdicts/{verdict}/report.pdf")
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return " ".join("".join(p.extract_text() for p in PdfReader(io.BytesIO(answer.content)).pages).split())

    def test_a_frozen_drawing_keeps_shapes_and_words_alone(self) -> None:
        for name, text in hostile(self.address).items():
            if "<!DOCTYPE" in text:
                self.post(f"/api/jobs/{self.job.pk}/verdicts", {"layout": "D", "reason": "x", "drawings": {"D": text}}, 422)
                continue
            kept, cut = cleaned(text, name)
            self.assertTrue(cut or "stylesheet" in name, name)
            for word in ("href", "url(", "script", "<use", "<image", "<style", "stylesheet", self.address):
                self.assertNotIn(word, kept, name)
        made = self.freeze(drawings={n: t for n, t in hostile(self.address).items() if "DOCTYPE" not in t} | {"good": SVG})
        with self.little_work():
            self.pdf_text(made["id"])
        self.assertEqual(self.asked, [])

    def test_a_record_from_elsewhere_with_such_a_drawing_is_refused(self) -> None:
        record = self.client.get(f"/api/verdicts/{self.freeze(drawings={'D': SVG})['id']}/record.json").json()
        said = json.loads(files_of(self.client.get(f"/api/jobs/{self.job.pk}/package.zip").content)[JOB])
        said["runs"] = []  # they are read first, and are not what is looked at
        before = Job.objects.count()
        for name, text in hostile(self.address).items():
            if name == "stylesheet":
                continue  # an instruction outside of the drawing is left out where it is read
            raw = record | {"drawings": {"D": text}}
            raw["digest"] = digest_of(raw)
            verdict = said["verdicts"][0] | {"record": raw, "digest": raw["digest"]}
            for data in (json.dumps(raw).encode(), zipped({JOB: json.dumps(said | {"verdicts": [verdict]}).encode()})):
                answer = self.client.post("/api/jobs/import", {"file": SimpleUploadedFile("x", data)})
                self.assertEqual(answer.status_code, 422, (name, answer.content[:200]))
                self.assertIn("drawing", answer.json()["faults"][0]["path"], name)
        self.assertEqual(Job.objects.count(), before)
        with self.assertRaises(DocumentError):
            check_drawings({"D": HEAD + "x" * LARGEST_DRAWING + "</svg>"})

    def test_one_that_was_stored_before_is_not_shown_either(self) -> None:
        made = self.freeze(drawings={"D": SVG})
        v = Verdict.objects.get(pk=made["id"])
        v.record["drawings"] = hostile(self.address)
        v.record["digest"] = v.digest = digest_of(v.record)
        v.save()
        with self.little_work():
            words = self.pdf_text(made["id"])
        self.assertIn("not shown, this is no SVG picture", words)
        page = self.client.get(f"/api/verdicts/{made['id']}/report.html").content.decode()
        self.assertNotIn(self.address, page)
        self.assertEqual(self.asked, [])

    def test_names_and_reasons_stay_words_wherever_they_stand(self) -> None:
        """A line break in the job's name once ended the style it stood in, and hid the decision."""
        evil = 'N"; } .seal, h1 { display: none } @page { @top-left { content: "hidden'
        for name in (f"Plotter\n{evil}", f"Plotter\\a {evil}", f"{evil}</style><style>.seal{{display:none}}</style>", "a\u202edetacerp"):
            raw = self.client.get(f"/api/jobs/{self.job.pk}").json()
            document = raw["document"] | {"name": name}
            document["layouts"][3] |= {
                "name": f"<img src={self.address}/x.png>\n}} body{{display:none}}",
                "note": "</td><script>1</script>",
            }
            saved = json.dumps({"revision": raw["revision"], "document": document})
            self.assertEqual(self.client.put(f"/api/jobs/{self.job.pk}", saved, content_type="application/json").status_code, 200)
            made = self.freeze(reason=f'"><img src="{self.address}/r.png"> @import url({self.address}/i.css)', signed_by="<b>Hand</b>\n}")
            if "\n" in name or "</style>" in name:
                words = self.pdf_text(made["id"])
                for told in ("Decided: D.", "Signed:", made["digest"][:20]):
                    self.assertIn(told.replace(" ", ""), words.replace(" ", ""), name)
            page = self.client.get(f"/api/verdicts/{made['id']}/report.html").content.decode()
            style = page[page.index("<style>") : page.index("</style>")]
            self.assertNotIn("display: none", style)
            self.assertNotIn("\u202e", page)
            self.assertEqual(re.findall(r"<(?:script|img src=[^\"]|b>)", page), [])
        self.assertEqual(self.asked, [])


class LimitTest(VerdictApi):
    def test_a_page_cannot_fetch(self) -> None:
        """The printer itself asks for nothing, whatever a page says."""
        found = pdf.pdf_of(
            '<p>x</p><img src="file:///etc/passwd"><img src="http://127.0.0.1:9/a.png"><link rel=stylesheet href="file:///x">'
        )
        self.assertTrue(found.startswith(b"%PDF"))
        self.assertNotIn(b"root:", found)

    def test_a_page_that_takes_too_long_is_stopped(self) -> None:
        heavy: Any = "<table>" + "<tr>" + "<td>x</td>" * 200 + "</tr>"
        with self.settings(), self.assertRaises(pdf.TooHeavyError) as caught:
            before, pdf.WALL_S = pdf.WALL_S, 2.0
            try:
                pdf.pdf_of("<style>td { border: 1px solid }</style>" + heavy * 400)
            finally:
                pdf.WALL_S = before
        self.assertIn("limits of time", caught.exception.what)
        with self.assertRaises(pdf.TooHeavyError):
            pdf.pdf_of("x" * (pdf.MOST_HTML + 1))
