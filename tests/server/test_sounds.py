"""Clips over HTTP: kept beside the database, listened to, tied, struck, packed; levels on the way to one that is wanted."""

import errno
import io
import json
import re
import zipfile
from collections.abc import Callable
from datetime import timedelta
from typing import Any
from unittest.mock import patch

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from cli.learn import learning_of
from desk.job.resolve import Resolver
from desk.learn.packaged import packed_runs
from desk.sound.document import sound_of
from documents.errors import DocumentError
from documents.package.document import write_package
from documents.soundclip.reader import open_clip
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import loaded, operating_point
from engine.machine import at_speeds
from instruments.recorder import calibrator, record, wav
from server.apps.bench.models import Run
from server.apps.jobs.models import Job
from server.apps.jobs.services import BIN_DAYS, empty_bin
from server.apps.sounds import services
from server.apps.sounds.models import Clip, LevelReading, Of
from server.apps.tasks.services import ask_clip, take_up
from server.apps.verdicts.packing import pack, unpack
from server.keep import copies
from tests.clips_apart import clips_apart
from tests.demo_rows import load_demo
from tests.machines import machine


class SoundCase(TestCase):
    def setUp(self) -> None:
        load_demo()
        self.job = Job.objects.get(name="Watch-room plotter")
        self.base = f"/api/jobs/{self.job.pk}"
        self.folder = clips_apart(self)

    def post(self, path: str, body: Any, status: int = 200) -> Any:
        answer = self.client.post(path, json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer.json()

    def hand_in(self, data: bytes, status: int = 201, **said: Any) -> Any:
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.client.post(f"{self.base}/clips", {"file": SimpleUploadedFile("a.wav", data), "layout": "A"} | said)
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer.json()

    def clip(self, clip_id: int) -> Any:
        return self.client.get(f"/api/clips/{clip_id}").json()


class ClipTest(SoundCase):
    def test_a_clip_is_kept_listened_to_tied_and_struck(self) -> None:
        samples, truth = record(machine(), 10, 1)
        made = self.hand_in(wav(samples), distance_m=0.5, side="front")
        whole = self.clip(made["id"])
        self.assertEqual((whole["clip"]["state"], whole["clip"]["calibrated"]), ("done", False))
        self.assertLess(whole["sound"]["laeq_dba"], 0)  # re full scale
        self.assertTrue(Clip.objects.get(pk=made["id"]).sources)
        cal = self.hand_in(wav(calibrator(6.0)), kind="calibrator", level_db=94)
        self.assertEqual((cal["tie"], cal["tie_level"]), ("none", 94))
        with self.captureOnCommitCallbacks(execute=True):
            self.post(f"/api/clips/{made['id']}/tie", {"tie": "calibrator", "level_db": 94, "by": cal["id"]})
        whole = self.clip(made["id"])
        self.assertTrue(whole["clip"]["calibrated"])
        self.assertAlmostEqual(whole["sound"]["laeq_dba"], truth.level_dba, delta=0.4)
        self.assertIsNotNone(whole["sound"]["loudness_sone"])
        spectra = self.client.get(f"{self.base}/spectra").json()
        self.assertEqual([(s["layout"], s["clip"]) for s in spectra], [("A", made["id"])])
        self.assertIn("centre_hz", self.client.get(f"/api/clips/{made['id']}/octaves.csv").content.decode())
        heard = self.client.get(f"/api/clips/{made['id']}/sound.wav")
        self.assertEqual(b"".join(heard.streaming_content), wav(samples))  # type: ignore[attr-defined]
        self.post(f"/api/clips/{made['id']}/strike", {"why": "a door"})
        self.assertEqual(self.client.get(f"{self.base}/spectra").json(), [])
        self.assertEqual(self.clip(made["id"])["clip"]["struck"], "a door")

    def test_a_meter_of_the_same_moment_ties_at_once(self) -> None:
        made = self.hand_in(wav(record(machine(), 8, 2)[0]), tie="meter", level_db=36.2)
        self.assertAlmostEqual(self.clip(made["id"])["sound"]["laeq_dba"], 36.2, delta=0.01)

    def test_tones_of_a_speed_that_was_set_are_named_by_that_speed(self) -> None:
        fan = next(f for f in self.client.get(self.base).json()["document"]["parts"]["fans"] if f["id"] == "tern-120")
        hz = fan["speed_max_rpm"] * 0.44 / 60 * fan["blades"]
        t = np.arange(10 * 48_000) / 48_000
        noise = np.random.default_rng(3).normal(0, 0.01, len(t))
        data = wav((noise + 0.03 * np.sin(2 * np.pi * hz * t)).astype(np.float32))
        said: tuple[tuple[dict[str, Any], bool], ...] = (({}, False), ({"mounts": "f2", "load": "idle", "speed_pct": "44"}, True))
        for at, named in said:
            made = self.hand_in(data, **at)
            self.assertEqual("F2" in self.clip(made["id"])["sound"]["tones"][0]["of"], named)

    def test_a_gain_that_moves_ties_nothing(self) -> None:
        made = self.hand_in(wav(record(machine(), 8, 2)[0]), tie="meter", level_db=36.2, gain_moves="true")
        self.assertFalse(self.clip(made["id"])["clip"]["calibrated"])
        refused = self.post(f"/api/clips/{made['id']}/tie", {"tie": "meter", "level_db": 36.0}, 422)
        self.assertIn("gain", refused["faults"][0]["what"])

    def test_what_is_no_clip_leaves_nothing_behind(self) -> None:
        for data in (b"", b"not a sound", b"RIFF" + bytes(40)):
            self.hand_in(data, 422)
        self.hand_in(wav(record(machine(), 2, 1)[0]), 422, layout="nowhere")
        self.assertEqual(Clip.objects.count(), 0)
        self.assertFalse(self.folder.is_dir() and any(self.folder.iterdir()))

    def test_no_calibrator_is_said(self) -> None:
        made = self.hand_in(wav(record(machine(), 6, 1)[0]))
        other = self.hand_in(wav(record(machine(), 6, 2)[0]), kind="calibrator")
        with self.captureOnCommitCallbacks(execute=True):
            self.post(f"/api/clips/{made['id']}/tie", {"tie": "calibrator", "level_db": 94, "by": other["id"]})
        failed = self.clip(made["id"])["clip"]
        self.assertEqual(failed["state"], "failed")
        self.assertIn("calibrator", failed["fault"]["title"])
        self.post(f"/api/clips/{made['id']}/tie", {"tie": "calibrator", "level_db": 94, "by": made["id"]}, 422)
        self.post(f"/api/clips/{made['id']}/tie", {"tie": "meter"}, 422)

    def test_a_full_disk_stores_nothing_and_is_said(self) -> None:
        full = OSError(errno.ENOSPC, "no room")
        with patch("pathlib.Path.replace", side_effect=full), self.assertLogs("oventa.api", "ERROR"):
            told = self.hand_in(wav(calibrator(3.0)), 507, kind="calibrator")
        self.assertEqual(told["code"], "disk_full")
        self.assertEqual(Clip.objects.count(), 0)
        self.assertFalse(any(self.folder.iterdir()))

    def test_what_waited_at_a_stop_is_listened_to_after_it(self) -> None:
        answer = self.client.post(f"{self.base}/clips", {"file": SimpleUploadedFile("a.wav", wav(calibrator(3.0))), "layout": "A"})
        made = answer.json()["id"]  # the transaction of a test never ends: the queue has not been told
        self.assertEqual(self.clip(made)["clip"]["state"], "waiting")
        with self.captureOnCommitCallbacks(execute=True):
            self.assertGreaterEqual(take_up(), 1)
        self.assertEqual(self.clip(made)["clip"]["state"], "done")

    def test_one_that_was_stored_and_never_asked_for_is_listened_to_at_the_next_start(self) -> None:
        made = services.keep_clip(self.job, "A", wav(calibrator(3.0)), "b.wav", "calibrator")
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(take_up(), 0)
        self.assertEqual(self.clip(made.pk)["clip"]["state"], "done")

    def test_a_recording_goes_with_its_job_once_that_is_gone_for_good(self) -> None:
        self.hand_in(wav(calibrator(3.0)), kind="calibrator")
        self.assertEqual(len(list(self.folder.iterdir())), 1)
        self.client.delete(self.base)
        self.assertEqual(len(list(self.folder.iterdir())), 1)  # in the bin it can be taken out again
        Job.everything.filter(pk=self.job.pk).update(removed_at=timezone.now() - timedelta(days=BIN_DAYS + 1))
        with self.captureOnCommitCallbacks(execute=True):
            empty_bin()
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_a_job_holds_so_many(self) -> None:
        with patch.object(services, "MOST_CLIPS", 1):
            self.hand_in(wav(calibrator(3.0)), kind="calibrator")
            self.hand_in(wav(calibrator(3.0)), 422, kind="calibrator")

    def test_the_room_alone_is_taken_off(self) -> None:
        with self.captureOnCommitCallbacks(execute=True):
            made = self.post(f"{self.base}/clips/made-up", {"layout": "A", "seconds": 6}, 201)
        self.assertIsNone(self.clip(made["id"])["alone"])
        with self.captureOnCommitCallbacks(execute=True):
            room = self.post(f"{self.base}/clips/made-up", {"layout": "A", "kind": "room", "seconds": 6}, 201)
        whole, quiet = self.clip(made["id"]), self.clip(room["id"])
        self.assertLess(quiet["sound"]["laeq_dba"], whole["sound"]["laeq_dba"])
        self.assertLess(whole["alone"]["level_dba"], whole["sound"]["laeq_dba"])
        self.assertEqual(self.clip(room["id"])["alone"], None)

    def test_layouts_are_heard_as_forecast_at_one_gain(self) -> None:
        listed = self.client.get(f"{self.base}/listening").json()
        self.assertEqual([x["layout"] for x in listed], ["A", "B", "C", "D"])
        heard = []
        for x in listed[:2]:
            data = self.client.get(f"{self.base}/forecast-sound.wav?layout={x['layout']}").content
            heard.append(sound_of(open_clip(data)).levels.eq)
        self.assertAlmostEqual(heard[1] - heard[0], listed[1]["level_dba"] - listed[0]["level_dba"], delta=0.1)
        self.assertEqual(self.client.get(f"{self.base}/forecast-sound.wav?layout=Z").status_code, 422)

    def test_another_jobs_clip_is_behind_its_own_door(self) -> None:
        self.assertEqual(self.client.get("/api/clips/999").status_code, 404)
        self.assertEqual(self.client.get("/api/clips/abc").status_code, 404)


class LevelTest(SoundCase):
    def next(self, **more: Any) -> Any:
        return self.post(f"{self.base}/levels/next", {"layout": "A", "purpose": "equal", "target_dba": 34} | more)

    def test_the_made_up_machine_is_brought_to_a_level_in_few_readings(self) -> None:
        found = self.next()
        self.assertFalse(found["begun"])
        speed, count = found["procedure"]["next"]["speed_pct"], 0
        while speed is not None:
            body = {"layout": "A", "purpose": "equal", "target_dba": 34, "speed_pct": speed, "anew": count == 0}
            found = self.post(f"{self.base}/levels/made-up", body)
            speed, count = found["procedure"]["next"]["speed_pct"], count + 1
        self.assertTrue(found["procedure"]["next"]["within"])
        self.assertLessEqual(count, 6)
        self.assertAlmostEqual(found["readings"][-1]["level_dba"], 34, delta=0.5)

    def test_readings_by_hand_are_kept_struck_and_begun_anew(self) -> None:
        body = {"layout": "A", "purpose": "equal", "target_dba": 34, "speed_pct": 60, "level_dba": 31.2}
        self.assertEqual(len(self.post(f"{self.base}/levels", body)["readings"]), 1)
        found = self.post(f"{self.base}/levels", body | {"speed_pct": 80, "level_dba": 36.9})
        self.assertTrue(60 < found["procedure"]["next"]["speed_pct"] < 80)
        self.assertTrue(self.post(f"/api/levels/{found['readings'][0]['id']}/strike", {})["struck"])
        self.assertEqual(self.next(anew=True)["readings"], [])  # what is not begun yet shows nothing of the last
        anew = self.post(f"{self.base}/levels", body | {"anew": True})
        self.assertEqual((len(anew["readings"]), LevelReading.objects.count()), (1, 3))
        self.assertEqual(self.next(mounts=["f3"])["readings"], [])  # of other fans

    def test_bands_found_at_rest_are_kept_out_of_with_the_machine_loaded(self) -> None:
        for speed, level in ((40, 30.6), (50, 31.6), (60, 39.0), (70, 34.9), (80, 36.8), (90, 38.6)):
            services.add_reading(self.job, Of("A", "sweep", (), "idle"), speed, level, speed == 40)
        self.assertIn([55.0, 65.0], self.next()["procedure"]["found"])
        self.assertEqual(self.next(mounts=["f3"])["procedure"]["found"], [])  # of other fans

    def test_what_cannot_be_set_is_refused(self) -> None:
        self.post(f"{self.base}/levels/next", {"layout": "A", "purpose": "equal", "mounts": ["nowhere"]}, 422)
        self.post(f"{self.base}/levels", {"layout": "A", "purpose": "equal", "speed_pct": 140, "level_dba": 30}, 422)

    def test_a_step_of_a_sweep_has_its_clip(self) -> None:
        body = {"layout": "A", "purpose": "sweep", "speed_pct": 70}
        with patch("server.apps.sounds.standin.SWEEP_S", 4.0):
            found = self.post(f"{self.base}/levels/made-up", body)
        self.assertIsNotNone(found["readings"][0]["clip"])
        self.assertEqual(set(Clip.objects.values_list("kind", "state")), {("machine", "done"), ("calibrator", "done")})
        self.assertNotEqual(found["procedure"]["next"]["speed_pct"], 70)


class PackedTest(SoundCase):
    def test_clips_and_levels_travel_with_the_job(self) -> None:
        cal = self.hand_in(wav(calibrator(4.0)), kind="calibrator")
        made = self.hand_in(wav(record(machine(), 6, 1)[0]), tie="calibrator", level_db=94, by=cal["id"], distance_m=0.5)
        services.add_reading(self.job, Of("A", "equal", ("f3",)), 60, 33.1, True)
        data = write_package(pack(self.job))
        other, unknown = unpack(data)
        with self.captureOnCommitCallbacks(execute=True):
            for waiting in other.clips.filter(state="waiting"):
                ask_clip(waiting)
        self.assertEqual(unknown, ())
        one, two = Clip.objects.get(pk=made["id"]), other.clips.get(kind="machine")
        self.assertEqual((one.digest, one.microphone["distance_m"], one.level_db), (two.digest, two.microphone["distance_m"], two.level_db))
        assert two.by is not None and one.result is not None and two.result is not None
        self.assertEqual((two.by.job_id, two.result["laeq_dba"]), (other.pk, one.result["laeq_dba"]))
        self.assertEqual(LevelReading.objects.get(job=other).mounts, ["f3"])
        self.assertEqual([said["name"] for said, _ in pack(other).clips], [said["name"] for said, _ in pack(self.job).clips])

    def test_a_package_with_a_clip_that_is_none_is_refused_whole(self) -> None:
        self.hand_in(wav(calibrator(3.0)), kind="calibrator")
        jobs = Job.objects.count()
        good = pack(self.job)
        broken = type(good)(good.job, good.runs, good.verdicts, [(good.clips[0][0], b"no sound")])
        with self.assertRaises(DocumentError) as caught:
            unpack(write_package(broken))
        self.assertIn("clips[0]", caught.exception.faults[0].path)
        self.assertEqual(Job.objects.count(), jobs)


class OddPackageTest(SoundCase):
    """What a package says of its clips is not believed; what is refused leaves no file and no job."""

    def setUp(self) -> None:
        super().setUp()
        self.cal = self.hand_in(wav(calibrator(3.0)), kind="calibrator")
        self.hand_in(wav(record(machine(), 5, 1)[0]), tie="calibrator", level_db=94, by=self.cal["id"])
        services.add_reading(self.job, Of("A", "equal"), 60, 33.1, True, Clip.objects.get(kind="machine"))
        self.good = write_package(pack(self.job))

    def with_job(self, change: Callable[[dict[str, Any]], None], more: dict[str, bytes] | None = None) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(self.good)) as old, zipfile.ZipFile(out, "w") as new:
            for name in old.namelist():
                data = old.read(name)
                if name == "job.oventa.json":
                    raw = json.loads(data)
                    change(raw)
                    data = json.dumps(raw).encode()
                new.writestr(name, data)
            for name, extra in (more or {}).items():
                new.writestr(name, extra)
        return out.getvalue()

    def refused(self, data: bytes, place: str) -> None:
        files, jobs = sorted(self.folder.iterdir()), Job.objects.count()
        with self.assertRaises(DocumentError) as caught:
            unpack(data)
        self.assertIn(place, caught.exception.faults[0].path)
        self.assertEqual((sorted(self.folder.iterdir()), Job.objects.count()), (files, jobs))

    def test_numbers_and_names_that_are_none(self) -> None:
        def on(kind: str, index: int, **values: Any) -> Callable[[dict[str, Any]], None]:
            return lambda raw: raw[kind][index].update(values)

        for change, place in (
            (on("clips", 1, by=7), "clips[1].by"),
            (on("clips", 1, by=1), "clips[1].by"),  # no calibrator
            (on("clips", 1, run=999), "clips[1].run"),
            (on("clips", 1, file="clips/none.wav"), "clips[1]"),
            (on("clips", 1, file="clips/001.wav"), "clips[1]"),  # the calibrator's own
            (on("clips", 1, file="../../etc/passwd"), "clips[1]"),
            (on("clips", 1, tie="magic"), "clips[1].tie"),
            (on("clips", 1, level_db=4000), "clips[1].level_db"),
            (on("clips", 1, name=""), "clips[1].name"),
            (on("levels", 0, clip=5), "levels[0].clip"),
            (on("levels", 0, speed_pct=900), "levels[0].speed_pct"),
            (lambda raw: raw.update(clips={"file": "x"}), "clips"),
            (lambda raw: raw.update(clips=raw["clips"] * 300), "clips"),
        ):
            with self.subTest(place=place):
                self.refused(self.with_job(change), place)

    def test_a_file_of_the_zip_never_chooses_where_it_lies(self) -> None:
        def elsewhere(raw: dict[str, Any]) -> None:
            raw["clips"][1]["file"] = "../../../tmp/evil.wav"

        job, _ = unpack(self.with_job(elsewhere, {"../../../tmp/evil.wav": wav(calibrator(2.0))}))
        names = [c.file for c in job.clips.all()]
        self.assertTrue(all(re.fullmatch(r"[0-9a-f]{32}\.wav", n) for n in names), names)
        self.assertTrue(all((self.folder / n).is_file() for n in names))

    def test_what_fails_later_takes_its_files_away_again(self) -> None:
        before = sorted(self.folder.iterdir())
        with patch("server.apps.verdicts.packing.create_job", side_effect=RuntimeError("no more")), self.assertRaises(RuntimeError):
            unpack(self.good)
        self.assertEqual(sorted(self.folder.iterdir()), before)


class BackupTest(SoundCase):
    def test_clips_go_into_a_backup_and_come_out_of_it(self) -> None:
        self.hand_in(wav(calibrator(3.0)), kind="calibrator")
        name = Clip.objects.get().file
        folder = self.folder.parent / "of-a-backup"
        folder.mkdir()
        with zipfile.ZipFile(folder / "b.zip", "w") as zipped:
            zipped.write(self.folder / name, f"clips/{name}")
            zipped.writestr("clips/../../evil.wav", b"x")
            zipped.writestr("clips/evil.wav", b"x")
        copies._clips(folder / "b.zip", folder / "clips")
        self.assertEqual([f.name for f in (folder / "clips").iterdir()], [name])
        self.assertEqual((folder / "clips" / name).read_bytes(), (self.folder / name).read_bytes())


class TaughtBySweepsTest(SoundCase):
    """What is read at chosen speeds teaches the forecast of sound, of the layout as it was then."""

    def read(self, off_db: float, layout: str = "A", turns: int = 1) -> None:
        resolver = Resolver(services.document_of(self.job))
        machine_at = loaded(resolver.machine(layout), "both")
        for i in range(turns):
            for speed in (30, 45, 60, 75, 90, 100):
                level = forecast(operating_point(at_speeds(machine_at, (), speed))).sound.level_dba + off_db
                body = {
                    "layout": layout,
                    "purpose": "sweep",
                    "load": "both",
                    "speed_pct": speed,
                    "level_dba": round(level, 1),
                    "anew": speed == 30 and i > 0,
                }
                self.post(f"{self.base}/levels", body)

    def learned(self, raw: dict[str, Any] | None = None) -> Any:
        document = raw or self.client.get(self.base).json()["document"]
        return self.post(f"{self.base}/learned", {"document": document})

    def level(self, doc: Any, layout: str) -> tuple[float, float]:
        x = next(x for x in doc["layouts"] if x["id"] == layout)
        return x["sound"]["level_dba"], x["sound"]["band_db"]

    def test_a_sweep_is_told_apart_from_runs_and_teaches_the_level(self) -> None:
        runs = self.learned()["runs_used"]
        self.read(5.0)
        self.assertEqual((self.learned()["sweeps"], self.learned()["runs_used"]), (["sweep of A"], runs))
        LevelReading.objects.all().delete()
        Run.objects.filter(job=self.job).delete()
        before = self.learned()
        self.read(5.0)
        after = self.learned()
        self.assertEqual((after["sweeps"], after["runs_used"]), (["sweep of A"], []))
        self.assertAlmostEqual(self.level(after, "A")[0], self.level(before, "A")[0] + 5.0, delta=1.2)
        self.assertLess(self.level(after, "A")[1], 0.8 * self.level(before, "A")[1])
        (listed,) = self.client.get(f"{self.base}/levels").json()
        self.assertEqual((listed["layout"], listed["readings"], listed["outdated"]), ("A", 6, False))
        for r in LevelReading.objects.all():
            self.post(f"/api/levels/{r.pk}/strike", {})
        self.assertEqual(self.learned()["sweeps"], [])

    def test_a_layout_drawn_otherwise_begins_anew_and_what_was_read_stays_of_the_old_one(self) -> None:
        self.read(4.0)
        raw = self.client.get(self.base).json()["document"]
        asked = {"layout": "A", "purpose": "sweep", "load": "both"}
        self.assertTrue(self.post(f"{self.base}/levels/next", asked)["begun"])
        place = next(x for x in raw["layouts"] if x["id"] == "A")["fans"][0]
        place["speed_pct"] = 35  # how it is driven is no part of a sweep
        self.store(raw)
        found = self.post(f"{self.base}/levels/next", asked)
        self.assertEqual((found["begun"], found["outdated"]), (True, False))
        next(x for x in raw["layouts"] if x["id"] == "A")["fans"].pop()
        self.store(raw)
        found = self.post(f"{self.base}/levels/next", asked)
        self.assertEqual((found["begun"], found["outdated"], found["readings"]), (False, True, []))
        self.assertEqual(self.learned()["sweeps"], ["sweep of A"])
        self.assertTrue(self.client.get(f"{self.base}/levels").json()[0]["outdated"])
        for fan in raw["parts"]["fans"]:
            fan["noise_dba"] += 2
        self.store(raw)
        told = self.learned()
        self.assertEqual(told["sweeps"], [])
        self.assertIn("sweep of A", [x["run"] for x in told["left_aside"]])

    def test_at_rest_and_loaded_are_procedures_of_their_own_and_so_are_other_fans(self) -> None:
        body = {"layout": "A", "purpose": "sweep", "speed_pct": 50, "level_dba": 31.0}
        for load, mounts in (("idle", []), ("both", []), ("both", ["r1"])):
            found = self.post(f"{self.base}/levels", body | {"load": load, "mounts": mounts})
            self.assertEqual(len(found["readings"]), 1)
        anew = self.post(f"{self.base}/levels", body | {"load": "both", "anew": True})
        self.assertEqual(len(anew["readings"]), 1)
        rest = self.post(f"{self.base}/levels/next", {"layout": "A", "purpose": "sweep"})  # at rest, where it is not said
        self.assertEqual(len(rest["readings"]), 1)
        only = self.post(f"{self.base}/levels/next", {"layout": "A", "purpose": "sweep", "load": "both", "mounts": ["r1"]})
        self.assertEqual(len(only["readings"]), 1)  # another procedure's new beginning takes nothing from it
        self.assertLess(rest["procedure"]["floor_dba"], anew["procedure"]["floor_dba"] + 0.01)
        self.assertEqual(self.post(f"{self.base}/levels", body | {"load": "a game"}, 422)["code"], "bad_request")
        self.assertIn("sweep of A, at rest", self.learned()["sweeps"])

    def test_a_package_takes_along_what_they_were_read_of(self) -> None:
        self.read(5.0)
        raw = self.client.get(self.base).json()["document"]
        next(x for x in raw["layouts"] if x["id"] == "A")["fans"].pop()
        self.store(raw)
        told = self.learned()
        data = write_package(pack(self.job))
        other, _ = unpack(data)
        again = self.post(f"/api/jobs/{other.pk}/learned", {"document": self.client.get(f"/api/jobs/{other.pk}").json()["document"]})
        packed = learning_of(packed_runs(data)).document(told["load"])
        for document in (again, json.loads(packed.model_dump_json())):
            self.assertEqual(document["sweeps"], ["sweep of A"])
            for layout in "ABCD":
                np.testing.assert_allclose(self.level(document, layout), self.level(told, layout), atol=0.02)

    def store(self, raw: dict[str, Any]) -> None:
        revision = self.client.get(self.base).json()["revision"]
        answer = self.client.put(self.base, json.dumps({"document": raw, "revision": revision}), content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content[:300])


class MeterTest(SoundCase):
    """The class of the sound meter is the meter's own error; unlike meters are held against each other by nobody."""

    def change(self, run: Run, meter: str, status: int = 200) -> Any:
        body = json.dumps({"microphone": {**run.microphone, "meter": meter}})
        answer = self.client.patch(f"/api/runs/{run.pk}", body, content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:300])

    def own_error(self, run: Run) -> tuple[str, float]:
        run.refresh_from_db()
        channel = next(c for c in run.analysis["channels"] if c["name"] == "sound_dba")
        return next((x["what"], x["standard"]) for x in channel["budget"] if x["common"])

    def test_a_run_says_what_it_was_read_with(self) -> None:
        runs = list(Run.objects.filter(job=self.job, state="valid", layout_key__in="AD").order_by("pk"))
        plain = self.own_error(runs[0])
        self.change(runs[0], "unclassed")
        words, wide = self.own_error(runs[0])
        self.assertIn("without a class", words)
        self.assertAlmostEqual(wide, 4.0 / 3**0.5, places=6)
        self.change(runs[0], "class_1")
        self.assertLess(self.own_error(runs[0])[1], plain[1])
        self.change(runs[0], "a good one", 422)
        self.change(runs[0], "")
        self.assertEqual(self.own_error(runs[0]), plain)

    def test_levels_of_unlike_meters_are_not_compared(self) -> None:
        runs = list(Run.objects.filter(job=self.job, state="valid", layout_key__in="AD").order_by("pk"))
        for run in runs:
            self.change(run, "class_1" if run.layout_key == "A" else "unclassed")
        pairs = self.client.get(f"{self.base}/comparison").json()["pairs"]
        told = [p for p in pairs if {p["a"], p["b"]} == {"A", "D"}]
        self.assertTrue(told)
        words = json.dumps(told)
        self.assertIn("unlike microphone's meter", words)
        package = write_package(pack(self.job))
        other, _ = unpack(package)
        self.assertEqual({r.microphone["meter"] for r in other.runs.filter(layout_key="D", state="valid")}, {"unclassed"})


class RecordTest(SoundCase):
    """What was heard is kept with a frozen verdict, run by run."""

    def test_levels_clips_and_places_stand_in_the_record_and_on_its_paper(self) -> None:
        run = Run.objects.filter(job=self.job, state="valid", layout_key="D").order_by("pk")[0]
        run.microphone = {"distance_m": 0.7, "side": "front", "meter": "class_2"}
        run.save(update_fields=["microphone"])
        tone = (0.05 * np.sin(2 * np.pi * 146 * np.arange(8 * 48_000) / 48_000)).astype(np.float32)
        noise = np.random.default_rng(1).normal(0, 0.01, len(tone)).astype(np.float32)
        self.hand_in(wav(noise + tone), layout="D", run=run.pk)
        record = self.post(f"{self.base}/verdicts", {"layout": "D", "reason": "quiet", "signed_by": "K. Vane"}, 201)
        kept = self.client.get(f"/api/verdicts/{record['id']}/record.json").json()
        own = next(s for s in kept["sounds"] if s["run"] == run.name)
        self.assertEqual((own["microphone"], own["clips"]), ("0.7 m, front, meter class 2", 1))
        self.assertIn("a tone at 146 Hz", own["told"][0])
        self.assertGreater(own["over_room_db"], 0)
        self.assertLess(own["l90_dba"], own["l10_dba"])
        self.assertEqual(len(kept["sounds"]), Run.objects.filter(job=self.job, state="valid").count())
        page = self.client.get(f"/api/verdicts/{record['id']}/report.html").content.decode()
        self.assertIn("Sound, run by run", page)
        self.assertIn("a tone at 146 Hz", page)
        self.assertIn("not recorded", page)
