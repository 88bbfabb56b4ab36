"""Reading at one moment: within itself, beside a writer that goes on, and never holding the write lock."""

import sqlite3
from contextlib import closing

from django.db import connection
from django.test import TransactionTestCase

from documents.job.reader import check_job
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job
from server.database import one_moment
from tests.machines import demo_raw


class OneMomentTest(TransactionTestCase):
    def test_it_can_stand_within_itself_and_ends(self) -> None:
        job = create_job(check_job(demo_raw()).doc)
        with one_moment():
            self.assertEqual(adapters.document(job), demo_raw())
            with one_moment():
                self.assertTrue(connection.connection.in_transaction)
            self.assertTrue(connection.connection.in_transaction)
        self.assertFalse(connection.connection.in_transaction)

    def test_an_error_within_ends_it(self) -> None:
        with self.assertRaises(Job.DoesNotExist), one_moment():
            Job.objects.get(pk=987654)
        self.assertFalse(connection.connection.in_transaction)
        create_job(check_job(demo_raw()).doc)

    def test_another_reader_may_begin_to_write_meanwhile(self) -> None:
        """The write lock is free: another connection takes it at once."""
        create_job(check_job(demo_raw()).doc)
        with one_moment():
            Job.objects.count()
            with closing(sqlite3.connect(connection.settings_dict["NAME"], timeout=0.2, isolation_level=None)) as other:
                other.execute("BEGIN IMMEDIATE")
                other.execute("ROLLBACK")
