"""Clocks that are wrong: a sender's that jumps, the server's own that is set. Nothing acknowledged is lost or hidden by them."""

import time
from datetime import timedelta
from unittest.mock import patch

from django.utils import timezone

from server.apps.bench import benches, clock, watching
from server.apps.bench.models import Batch, Bench, Run, Session
from tests.server.test_live import LiveCase, resting


class SenderClockTest(LiveCase):
    def setUp(self) -> None:
        super().setUp()
        clock.forget_all()

    def shown(self) -> list[float]:
        log = watching.present_log(self.bench, benches.now_s(self.bench))
        assert log is not None
        return [v for v in log.channels["cpu_package_c"].tolist() if v == v]

    def test_one_reading_years_ahead_does_not_make_a_run_of_sixteen_years(self) -> None:
        draft = self.started()
        self.send([float(t) for t in range(61, 91)], {"cpu_package_c": [40.0] * 30, "room_c": [22.0] * 30})
        self.send([5e8], {"cpu_package_c": [41.0], "room_c": [22.0]})
        self.send([91.0, 92.0], {"cpu_package_c": [42.0, 43.0], "room_c": [22.0, 22.0]})
        self.assertEqual(self.shown()[-3:], [41.0, 42.0, 43.0], "all are there, where they came in")
        self.assertIn("clock_jump", [m["tag"] for m in self.state()["run"]["marks"]])
        self.post(f"/api/live/{draft['id']}/end", {})
        run = Run.objects.get(pk=draft["id"])
        self.assertLess(run.duration_s, 120)
        self.assertIn("clock jumped", " ".join(run.notes))
        self.assertEqual(self.state()["bench"]["sources"][0]["clock_jumps"], 2)

    def test_a_bench_falls_silent_after_such_a_reading(self) -> None:
        self.send([0.0, 1.0], {"cpu_package_c": [30.0, 30.0]})
        self.send([5e8], {"cpu_package_c": [31.0]})
        self.assertFalse(benches.silent(self.bench))
        with patch.object(time, "monotonic", return_value=time.monotonic() + 11):
            self.assertTrue(benches.silent(self.bench))

    def test_preparing_a_run_deletes_nothing(self) -> None:
        self.send([0.0, 1.0], {"cpu_package_c": [30.0, 30.0]})
        Batch.objects.filter(bench_id=self.bench).update(first_s=-1e6, last_s=-1e6)
        self.send([2.0], {"cpu_package_c": [30.0]})
        self.prepare()
        self.assertEqual(Batch.objects.count(), 2)

    def test_a_clock_set_back_is_shown_and_told(self) -> None:
        self.send([1000.0, 1001.0], {"cpu_package_c": [30.0, 31.0]})
        self.send([3.0, 4.0], {"cpu_package_c": [32.0, 33.0]})
        self.assertEqual(self.shown(), [30.0, 31.0, 32.0, 33.0])
        self.assertEqual(self.state()["latest"]["cpu_package_c"], 33.0)

    def test_a_late_post_of_before_the_jump_falls_into_its_place(self) -> None:
        self.send([1000.0, 1001.0], {"cpu_package_c": [30.0, 31.0]}, seq=1)
        self.send([3.0, 4.0], {"cpu_package_c": [34.0, 35.0]}, seq=3)
        self.send([1002.0, 1003.0], {"cpu_package_c": [32.0, 33.0]}, seq=2)
        first, late = (Batch.objects.get(seq=n) for n in (1, 2))
        self.assertAlmostEqual(late.first_s - first.last_s, 1.0, places=2)
        self.assertEqual(set(self.shown()), {30.0, 31.0, 32.0, 33.0, 34.0, 35.0})

    def test_only_a_person_removes_readings_and_never_those_of_a_live_run(self) -> None:
        self.feed(resting(60))
        draft = self.ticked(self.prepare())
        self.post(f"/api/live/{draft['id']}/start", {})
        self.send([61.0], {"cpu_package_c": [30.0]})
        Batch.objects.filter(seq=1).update(first_s=-9e5, last_s=-9e5)
        told = self.client.get(f"/api/benches/{self.bench}/readings").json()
        self.assertEqual((told["posts"], told["older_posts"]), (Batch.objects.count(), 1))
        self.assertEqual(self.post(f"/api/benches/{self.bench}/readings/clear", {"older_than_h": 48}), {"removed": 1})
        self.assertEqual(self.post(f"/api/benches/{self.bench}/readings/clear", {"older_than_h": 1}), {"removed": 0})


class ServerClockTest(LiveCase):
    def setUp(self) -> None:
        super().setUp()
        clock.forget_all()

    def test_a_clock_set_back_hides_no_lost_sender(self) -> None:
        self.send([0.0, 1.0], {"cpu_package_c": [30.0, 30.0]})
        ahead = timezone.now() + timedelta(hours=3)  # as it was when the post came
        Session.objects.update(heard_at=ahead)
        with patch.object(time, "monotonic", return_value=time.monotonic() + 30):
            self.assertTrue(benches.silent(self.bench))
            self.assertEqual(benches.sources(self.bench, within_s=20), [])
            self.assertAlmostEqual(benches.now_s(self.bench), 1.0 + benches.SILENT_S, delta=0.5)

    def test_after_a_restart_a_moment_ahead_of_now_is_as_good_as_never(self) -> None:
        self.send([0.0, 1.0], {"cpu_package_c": [30.0, 30.0]})
        Session.objects.update(heard_at=timezone.now() + timedelta(hours=3))
        clock.forget_all()
        self.assertTrue(benches.silent(self.bench))
        self.assertAlmostEqual(benches.now_s(self.bench), 1.0, delta=0.1)
        self.send([2.0], {"cpu_package_c": [30.0]})
        self.assertFalse(benches.silent(self.bench))

    def test_a_clock_set_ahead_makes_no_jump(self) -> None:
        self.send([0.0, 1.0], {"cpu_package_c": [30.0, 30.0]})
        Session.objects.update(heard_at=timezone.now() - timedelta(hours=3))
        self.send([2.0, 3.0], {"cpu_package_c": [30.0, 30.0]})
        self.assertEqual(Session.objects.get().turns, [])
        self.assertEqual(Bench.objects.get(pk=self.bench).batches.count(), 2)


class ToldClockTest(LiveCase):
    """The clock that people see, and the moments of their marks."""

    def test_it_never_runs_back_and_never_further_than_the_next_post(self) -> None:
        self.send([0.0, 1.0], {"cpu_package_c": [40.0, 40.0]})
        self.send([2.0, 3.0], {"cpu_package_c": [40.0, 40.0]})
        seen = []
        for wait in (0.0, 0.5, 2.5, 8.0):  # the sender has stopped for a while: its last two posts were two seconds apart
            with patch("server.apps.bench.benches.since_heard_s", return_value=wait):
                seen.append(benches.told_s(self.bench))
        self.assertEqual(seen, sorted(seen))
        self.assertLessEqual(seen[-1], 3.0 + 1.5 * 2.0 + 1e-6)
        self.send([4.0], {"cpu_package_c": [40.0]})
        with patch("server.apps.bench.benches.since_heard_s", return_value=0.0):
            self.assertGreaterEqual(benches.told_s(self.bench), seen[-1])
