"""A job that is read while another window saves it is read whole."""

import copy
import threading
import time

from django.db import connection
from django.test import TransactionTestCase

from documents.job.reader import check_job
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job, save_document
from tests.machines import demo_raw

SECONDS = 2.0


class SnapshotTest(TransactionTestCase):
    def test_reads_beside_saves_see_one_moment(self) -> None:
        job = create_job(check_job(demo_raw()).doc)
        raw, stop = document(job), threading.Event()
        faults: list[str] = []
        reads: list[int] = []

        def read() -> None:
            try:
                while not stop.is_set():
                    reads.append(len(document(Job.objects.get(pk=job.pk))["layouts"]))
            except Exception as error:  # any fault at all is what this is about
                faults.append(repr(error))
            finally:
                connection.close()

        readers = [threading.Thread(target=read) for _ in range(2)]
        for reader in readers:
            reader.start()
        until = time.monotonic() + SECONDS
        while time.monotonic() < until:
            job.refresh_from_db()
            save_document(job.pk, job.revision, check_job(copy.deepcopy(raw)).doc)
        stop.set()
        for reader in readers:
            reader.join()
        self.assertEqual(faults, [])
        self.assertEqual(set(reads), {len(raw["layouts"])})
        self.assertGreater(len(reads), 5)
