"""Parts and cases as files of their own: out and in again without loss, and what is said about bad ones."""

import json
from typing import Any

from django.test import SimpleTestCase

from desk.begin.schools import starters
from desk.job.resolve import Resolver
from documents.errors import DocumentError
from documents.job.reader import check_job
from documents.parts.files import case_json, parts_csv, parts_json, parts_raw, read_case, read_parts
from tests.engine.test_loops import tower_raw
from tests.machines import ROOT, demo_raw, machine


class PartsFilesTest(SimpleTestCase):
    def test_json_and_csv_come_back_as_they_went(self) -> None:
        for raw in (demo_raw(), tower_raw()):
            raw["parts"]["fans"][0]["curve"] = {"flow_m3h": [0, 40, 90], "pressure_pa": [20, 12, 0]}
            raw["parts"].setdefault("boards", []).append({"id": "b", "headers": [{"id": "h", "limit_a": 1}]})
            doc = check_job(raw).doc
            for write, name in ((parts_json, "p.json"), (parts_csv, "p.csv")):
                with self.subTest(name=name):
                    self.assertEqual(read_parts(write(doc).encode(), name), parts_raw(doc))

    def test_a_table_from_a_spreadsheet_with_semicolons_and_decimal_commas(self) -> None:
        text = "part;id;name;size_mm;speed_max_rpm;flow_max_m3h;pressure_max_pa;noise_dba\nfans;tern;Tern;120;1500;91,5;17,2;26,5\n"
        self.assertEqual(read_parts(text.encode("utf-8-sig"), "fans.csv")["fans"][0]["flow_max_m3h"], 91.5)

    def test_bad_files_say_what_where_and_what_to_do(self) -> None:
        for text, words in (
            ("part,id\nwings,w\n", "row 2"),
            ("id,name\na,b\n", "part and id"),
            ("part,id,name,size_mm\nfans,f,Fan without figures,120\n", "Fan without figures"),
            ('part,id,curve\nfans,f,"{""flow"": "\n', "row 2, curve"),
            ('{"format": "oventa-parts", "parts": {}}', "no part"),
            ('{"format": "something"}', "no file of parts"),
            ('{"format": ', "line 1"),
        ):
            with self.subTest(words=words), self.assertRaises(DocumentError) as caught:
                read_parts(text.encode(), "f")
            self.assertIn(words, " ".join(caught.exception.lines()))
        with self.assertRaises(DocumentError):
            read_parts(b"\xff\xfe\x00", "f")

    def test_a_case_goes_out_and_comes_in(self) -> None:
        doc = check_job(demo_raw()).doc
        self.assertEqual(read_case(case_json(doc).encode(), "c").case, doc.case)
        for text in ("[]", '{"format": "oventa-case", "case": {}}', "{"):
            with self.subTest(text=text), self.assertRaises(DocumentError):
                read_case(text.encode(), "c")


class LibraryTest(SimpleTestCase):
    def test_every_shipped_part_is_a_part_of_the_format(self) -> None:
        parts = json.loads((ROOT / "demo/library/parts.json").read_text(encoding="utf-8"))
        self.assertEqual({k: len(v) for k, v in read_parts(json.dumps({"format": "oventa-parts", "parts": parts}).encode(), "p").items()},
                         {k: len(v) for k, v in parts.items()})  # fmt: skip
        self.assertGreaterEqual(sum(len(v) for v in parts.values()), 60)


class StartersTest(SimpleTestCase):
    def test_each_school_s_layout_can_be_forecast_as_it_is(self) -> None:
        for path in sorted((ROOT / "tests/reference/trade").glob("*.oventa.json")):
            raw: dict[str, Any] = json.loads(path.read_text(encoding="utf-8"))
            for s in starters(check_job(raw).doc):
                raw["layouts"] = [{"id": "S", **s.layout}]
                with self.subTest(job=path.name, school=s.key):
                    try:
                        made = Resolver(check_job(raw).doc).machine("S")
                    except DocumentError as error:
                        self.assertIn("radiator", str(error))  # a sealed base cooler without a radiator says so
                        continue
                    self.assertTrue(made.fans or made.open_faces)

    def test_the_demo_case_offers_its_schools(self) -> None:
        found = {s.key: s.layout for s in starters(check_job(demo_raw()).doc)}
        self.assertLessEqual({"front_to_rear", "chimney", "few", "radiator_out", "radiator_in"}, set(found))
        self.assertNotIn("bottom_to_top", found)  # it has no floor mounts
        self.assertEqual({f["direction"] for f in found["radiator_out"]["fans"] if f["mount"].startswith("t")}, {"exhaust"})
        self.assertEqual(found["chimney"]["cooler_direction"], "up")
        self.assertEqual(len(found["few"]["fans"]), 2)
        raw = demo_raw()
        raw["layouts"] = [{"id": "S", **found["radiator_in"]}]
        self.assertEqual(machine(raw, "S").loops[0].radiators[0].mounts, tuple(found["radiator_in"]["radiator"]["mounts"]))
