"""A full disk and a busy database are answered in the application's own words, and nothing is half stored."""

import sqlite3
import threading
import time
from contextlib import closing
from typing import Any

from django.db import connection
from django.test import Client, TransactionTestCase

from documents.job.reader import check_job
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job
from tests.machines import demo_raw


class DatabaseWordsTest(TransactionTestCase):
    def setUp(self) -> None:
        self.client: Client = Client(raise_request_exception=False)
        self.job = create_job(check_job(demo_raw()).doc)

    def save(self, **change: Any) -> Any:
        body = {"revision": Job.objects.get(pk=self.job.pk).revision, "document": demo_raw() | change}
        return self.client.put(f"/api/jobs/{self.job.pk}", body, content_type="application/json")

    def test_a_full_disk(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("VACUUM")  # other tests leave free pages behind
            pages = cursor.execute("PRAGMA page_count").fetchone()[0]
            cursor.execute(f"PRAGMA max_page_count = {pages + 1}")
        try:
            answer = self.save(note="x" * 100_000)
        finally:
            with connection.cursor() as cursor:
                cursor.execute("PRAGMA max_page_count = 1073741823")
        self.assertEqual((answer.status_code, answer.json()["code"]), (507, "disk_full"))
        self.assertIn("Make room on the disk", answer.json()["faults"][0]["do"])
        self.assertEqual(self.client.get(f"/api/jobs/{self.job.pk}").json()["document"], demo_raw())
        self.assertEqual(self.save(note="short").status_code, 200)

    def test_a_busy_database(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA busy_timeout = 300")
        done = threading.Event()
        held = threading.Event()

        def hold() -> None:
            with closing(sqlite3.connect(connection.settings_dict["NAME"], isolation_level=None)) as other:
                other.execute("BEGIN IMMEDIATE")
                held.set()
                done.wait(10)
                other.execute("ROLLBACK")

        holder = threading.Thread(target=hold)
        holder.start()
        self.assertTrue(held.wait(5))
        began = time.monotonic()
        answer = self.save(name="other")
        done.set()
        holder.join()
        self.assertLess(time.monotonic() - began, 5)
        self.assertEqual((answer.status_code, answer.json()["code"], answer["Retry-After"]), (503, "database_busy", "2"))
        self.assertEqual(self.save(name="other").status_code, 200)
