"""How a chance is said: nothing is certain."""

from django.test import SimpleTestCase

from desk.words.chance import chance_words


class ChanceWordsTest(SimpleTestCase):
    def test_no_chance_is_ever_said_to_be_all_or_none(self) -> None:
        said = [chance_words(x) for x in (0.0, 0.004, 0.01, 0.5, 0.949, 0.99, 0.9951, 1.0)]
        self.assertEqual(said, ["under 1 %", "under 1 %", "1 %", "50 %", "95 %", "99 %", "over 99 %", "over 99 %"])
