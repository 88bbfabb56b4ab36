"""Leads of the demo's layouts, shared out: what was chosen stays, nothing new is objected to, and the books close."""

import json
from typing import Any

from django.test import SimpleTestCase

from desk.job.resolve import Resolver
from desk.together.wiring import leads_of, shared_out, wiring_findings
from documents.job.reader import check_job
from tests.machines import ROOT

OF_LEADS = {"header_overloaded", "lead_too_short", "too_few_plugs", "full_speed_only"}


def job(name: str) -> dict[str, Any]:
    found: dict[str, Any] = json.loads((ROOT / "demo" / f"{name}.oventa.json").read_text())
    return found


class SharedOutTest(SimpleTestCase):
    def test_every_layout_of_every_demo_board_has_all_its_leads_and_no_fault(self) -> None:
        for path in sorted((ROOT / "demo").glob("*.oventa.json")):
            raw = json.loads(path.read_text())
            for layout in raw["layouts"]:
                layout.pop("wiring", None)
            resolver = Resolver(check_job(raw).doc)
            for layout in resolver.doc.layouts:
                if not resolver.setting(layout, "board"):
                    self.assertEqual(shared_out(resolver, layout), [])
                    continue
                raw_one = json.loads(json.dumps(raw))
                own = next(x for x in raw_one["layouts"] if x["id"] == layout.id)
                own["wiring"] = [p.model_dump(mode="json", exclude_unset=True) for p in shared_out(resolver, layout)]
                after = Resolver(check_job(raw_one).doc)
                with self.subTest(job=raw["name"], layout=layout.id):
                    self.assertFalse({f.code for f in wiring_findings(after, layout.id)} & OF_LEADS)
                    left = [x.plug.name for x in leads_of(after, after.layout(layout.id)) if x.plug.header is None]
                    drives = {x.drive for x in leads_of(after, after.layout(layout.id))}
                    self.assertTrue(not left or len(drives) > 1, left)

    def test_what_was_chosen_stays(self) -> None:
        raw = job("chart-server")
        layout = raw["layouts"][0]
        layout["wiring"] = [{"of": "r1", "header": "case 5"}]
        resolver = Resolver(check_job(raw).doc)
        found = shared_out(resolver, resolver.layout(layout["id"]))
        self.assertNotIn("r1", {p.of for p in found})
        self.assertNotIn("case 5", {p.header for p in found})
        self.assertIn(("pump", "pump"), {(p.of, p.header) for p in found})
