"""What is kept of answers: made once, however many ask, and let go when it is old."""

from concurrent.futures import ThreadPoolExecutor
from functools import partial
from threading import Event

from django.test import SimpleTestCase

from desk.forecast.document import Memory


class MemoryTest(SimpleTestCase):
    def test_what_is_asked_twice_at_once_is_made_once(self) -> None:
        memory: Memory[int] = Memory(2)
        begun, go = Event(), Event()
        made: list[int] = []

        def make() -> int:
            made.append(1)
            begun.set()
            go.wait(10)
            return 7

        with ThreadPoolExecutor(2) as pool:
            first = pool.submit(memory.made, "one", make)
            begun.wait(10)
            second = pool.submit(memory.made, "one", make)
            go.set()
            self.assertEqual((first.result(10), second.result(10)), (7, 7))
        self.assertEqual(len(made), 1)

    def test_what_could_not_be_made_is_tried_again_and_what_is_old_goes(self) -> None:
        memory: Memory[int] = Memory(2)
        with self.assertRaises(ZeroDivisionError):
            memory.made("one", lambda: 1 // 0)
        self.assertEqual([memory.made(key, partial(len, key)) for key in ("one", "three", "seven")], [3, 5, 5])
        self.assertIsNone(memory.get("one"))
