"""Pages of another origin, in a real browser that has the application open: nothing they try changes anything."""

import re
import threading
from functools import partial
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import ClassVar

from server.apps.bench.benches import make_bench
from server.apps.bench.models import Bench, Run
from server.apps.jobs.models import Job
from server.apps.verdicts.models import Verdict
from tests.browser.base import BrowserCase

ATTACK = """<!doctype html><title>elsewhere</title>
<script>
async function attack(at, job, bench, run) {
  const said = [];
  const tries = [
    ["/api/jobs", {name: "planted"}],
    [`/api/jobs/${job}/verdicts`, {layout: "A", reason: "so", signed_by: "Somebody Else"}],
    [`/api/benches/${bench}/token`, {}],
    [`/api/live/${run}/discard`, {reason: "gone"}],
    [`/api/jobs/${job}/restore`, {}],
  ];
  for (const [path, body] of tries)
    for (const init of [
      {mode: "no-cors", headers: {"Content-Type": "text/plain"}},
      {mode: "cors", headers: {"Content-Type": "application/json"}},
      {mode: "no-cors", headers: {}},
    ])
      try {
        const answer = await fetch(at + path, {method: "POST", body: JSON.stringify(body), credentials: "include", ...init});
        said.push(answer.type + " " + answer.status);
      } catch (error) { said.push("blocked"); }
  for (const method of ["DELETE", "PUT", "PATCH"])
    try { said.push((await fetch(`${at}/api/jobs/${job}`, {method, body: "{}"})).status); } catch (error) { said.push("blocked"); }
  for (const [kind, value] of [["text/plain", '{"name": "planted'], ["multipart/form-data", "planted"]]) {
    const form = document.createElement("form");
    const frame = document.createElement("iframe");
    frame.name = "f" + Math.random();
    document.body.append(frame);
    Object.assign(form, {method: "POST", action: at + "/api/jobs", enctype: kind, target: frame.name});
    const field = document.createElement("input");
    field.name = value;
    field.value = kind === "text/plain" ? '"}' : "planted";
    form.append(field);
    document.body.append(form);
    const done = new Promise((go) => { frame.onload = go; setTimeout(go, 3000); });
    form.submit();
    await done;
  }
  document.title = "tried";
  return said;
}
</script><body></body>"""


class _Elsewhere(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        self.wfile.write(ATTACK.encode())

    def log_request(self, *_: object) -> None:
        """Says nothing."""


class ForeignTest(BrowserCase):
    other: ClassVar[ThreadingHTTPServer]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.other = ThreadingHTTPServer(("127.0.0.1", 0), partial(_Elsewhere))
        threading.Thread(target=cls.other.serve_forever, daemon=True).start()

    @classmethod
    def tearDownClass(cls) -> None:
        cls.other.shutdown()
        cls.other.server_close()
        super().tearDownClass()

    def test_nothing_is_changed_from_another_origin(self) -> None:
        job = Job.objects.get(name="Watch-room plotter")
        bench, _ = make_bench("one")
        run = Run.objects.create(job=job, layout_key="A", bench=bench, name="draft", source_name="x", state="draft", duration_s=0, rows=0)
        token, jobs = bench.token_hash, Job.objects.count()
        self.open_demo()
        port = self.other.server_address[1]
        for name in ("127.0.0.1", "localhost"):  # another port of the same site, and another site
            attacker = self.page.context.new_page()
            attacker.goto(f"http://{name}:{port}/")
            said = attacker.evaluate(f"attack('{self.live_server_url}', {job.pk}, {bench.pk}, {run.pk})")
            self.assertEqual(attacker.title(), "tried")
            self.assertFalse([s for s in said if s not in ("blocked", "opaque 0", 403)], said)
            attacker.close()
        self.assertEqual((Job.objects.count(), Verdict.objects.count()), (jobs, 0))
        self.assertEqual(Bench.objects.get(pk=bench.pk).token_hash, token)
        self.assertEqual(Run.objects.get(pk=run.pk).state, "draft")

    def test_the_application_itself_goes_on_working(self) -> None:
        self.open("/")
        self.page.get_by_label("Name of the job").fill("Made here")
        self.page.get_by_role("button", name="Start the survey").click()
        self.page.wait_for_url(re.compile("/survey([?]|$)"))
        self.assertTrue(Job.objects.filter(name="Made here").exists())
