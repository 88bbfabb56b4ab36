"""Each job has a made-up machine of its own: a live run of one does not keep another from starting."""

from typing import Any
from unittest.mock import patch

from django.test import TestCase

from documents.job.planned import from_template
from documents.job.reader import check_job
from server.apps.bench import live, players
from server.apps.bench.models import Bench
from server.apps.jobs.services import create_job
from tests.machines import demo_raw


class StandInsTest(TestCase):
    def setUp(self) -> None:
        quiet = patch.object(players, "play", side_effect=lambda _machine, _sender, _pace, stop, _tell: stop.wait(30))
        quiet.start()
        self.addCleanup(quiet.stop)
        self.jobs = [create_job(check_job(demo_raw() | {"name": f"job {i}"}).doc) for i in range(2)]

    def start(self, job: Any) -> Bench:
        bench = players.start_standin(job.pk, "A", "http://127.0.0.1:9/", 10.0, 1)
        self.addCleanup(players.stop_standin, bench.pk)
        return bench

    def test_two_jobs_have_two(self) -> None:
        one = self.start(self.jobs[0])
        live.prepare_run(one.pk, self.jobs[0].pk, "A", from_template("short"), "both")
        other = self.start(self.jobs[1])
        self.assertNotEqual(one.pk, other.pk)
        self.assertIn("job 1", other.name)
        self.assertEqual((players.standin_job(one.pk), players.standin_job(other.pk)), (self.jobs[0].pk, self.jobs[1].pk))

    def test_the_same_job_takes_its_own_again(self) -> None:
        first = self.start(self.jobs[0])
        self.assertEqual(self.start(self.jobs[0]).pk, first.pk)
        self.assertEqual(Bench.objects.count(), 1)
