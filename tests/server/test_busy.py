"""While everything heavy goes on, a bench's posts are acknowledged and none waits for it; a server that is killed loses nothing."""

from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401
from bench.busy import busy
from bench.kills import ALONE, AT_THE_SERVER, kills
from bench.serving import Serving

OF_THE_WORK = 0.05
"""The longest post, as a share of what the heavy work takes: how long a second is depends on the machine (``./oventa bench``)."""


class BusyTest(SimpleTestCase):
    def test_no_post_waits_for_heavy_work(self) -> None:
        """A package of sixty runs comes in, a decision is frozen, a million cells are imported, and a bench posts at 5 Hz."""
        server = Serving().prepare().start()
        self.addCleanup(server.stop)
        found = busy(server)
        self.assertEqual(found.refused, [])
        self.assertGreater(len(found.post_ms), 25)
        self.assertLess(max(found.post_ms), OF_THE_WORK * 1000 * max(found.work_s.values()))


class KillsTest(SimpleTestCase):
    def test_a_killed_server_loses_nothing_acknowledged(self) -> None:
        """One kill of each kind; the evidence in docs/ has over a hundred."""
        told = kills(len(AT_THE_SERVER) + len(ALONE), seed=11)
        self.assertEqual(told.wrong, [])
        self.assertEqual(set(told.kills.values()), {1})
        self.assertGreater(told.readings, 20)
