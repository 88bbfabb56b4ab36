"""While everything heavy goes on, a bench's posts are acknowledged within a second; and a server that is killed loses nothing."""

from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401
from bench.busy import busy
from bench.kills import ALONE, AT_THE_SERVER, kills
from bench.serving import Serving

WITHIN_MS = 1000.0


class BusyTest(SimpleTestCase):
    def test_posts_are_acknowledged_within_a_second(self) -> None:
        """A package of sixty runs comes in, a decision is frozen, a million cells are imported, and a bench posts at 5 Hz."""
        server = Serving().prepare().start()
        self.addCleanup(server.stop)
        found = busy(server)
        self.assertEqual(found.refused, [])
        self.assertGreater(len(found.post_ms), 25)
        self.assertLess(max(found.post_ms), WITHIN_MS)


class KillsTest(SimpleTestCase):
    def test_a_killed_server_loses_nothing_acknowledged(self) -> None:
        """One kill of each kind; the evidence in docs/ has over a hundred."""
        told = kills(len(AT_THE_SERVER) + len(ALONE), seed=11)
        self.assertEqual(told.wrong, [])
        self.assertEqual(set(told.kills.values()), {1})
        self.assertGreater(told.readings, 20)
