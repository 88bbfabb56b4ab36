"""The worth of a run against sampling, chances, when to stop, and what is put aside."""

import numpy as np
from django.test import SimpleTestCase

from engine.learn.next_run import SURE, Knowledge, expected_gain, needed, state_of, worth


def known(mean: list[float], sigma: float = 2.0, runs: list[int] | None = None, share: float = 0.3, noise: float = 0.6) -> Knowledge:
    n = len(mean)
    covariance = sigma**2 * ((1 - share) * np.eye(n) + share)
    return Knowledge(np.array(mean), covariance, np.full(n, noise), np.full(n, 60.0), np.array(runs or [0] * n))


class WorthTest(SimpleTestCase):
    def test_two_alternatives_against_the_closed_form(self) -> None:
        """E max(0, s Z - d) = s phi(d/s) - d Phi(-d/s), the loss function of decision theory; from memory."""
        from scipy.stats import norm

        for gap, sigma in ((0.0, 1.0), (1.5, 2.0), (4.0, 1.0)):
            k = Knowledge(np.array([0.0, gap]), np.diag([0.0, sigma**2]), np.array([0.5, 0.5]), np.full(2, 60.0), np.ones(2, int))
            s = sigma**2 / np.hypot(sigma, 0.5)
            self.assertAlmostEqual(expected_gain(k, 1), s * norm.pdf(gap / s) - gap * norm.cdf(-gap / s), delta=0.01)

    def test_against_sampling_what_a_run_would_tell(self) -> None:
        k = known([0.0, 0.4, 1.0, 2.5])
        rng = np.random.default_rng(1)
        truth = rng.multivariate_normal(k.mean, k.covariance, 200_000)
        told = truth[:, 1] + rng.normal(0, 0.6, len(truth))
        gain = k.covariance[:, 1] / (k.covariance[1, 1] + 0.36)
        after = k.mean + np.outer(told - k.mean[1], gain)
        self.assertAlmostEqual(expected_gain(k, 1), k.mean.min() - after.min(axis=1).mean(), delta=0.01)

    def test_more_is_never_worth_less_and_what_is_known_is_worth_nothing(self) -> None:
        k = known([0.0, 0.3, 3.0])
        gains = [expected_gain(k, 1, n) for n in (1, 2, 4)]
        self.assertEqual(gains, sorted(gains))
        sure = Knowledge(k.mean, np.zeros((3, 3)), k.noise_k, k.minutes, k.runs)
        self.assertEqual(expected_gain(sure, 1), 0.0)
        self.assertGreater(expected_gain(k, 1), expected_gain(known([0.0, 9.0, 9.0]), 1))

    def test_a_quick_run_is_worth_more_by_the_hour(self) -> None:
        k = known([0.0, 0.3])
        slow = Knowledge(k.mean, k.covariance, k.noise_k, 3 * k.minutes, k.runs)
        self.assertAlmostEqual(worth(k, 1).gain_k_per_h, 3 * worth(slow, 1).gain_k_per_h, places=9)


class StateTest(SimpleTestCase):
    def test_chances_are_those_of_the_normal(self) -> None:
        from scipy.stats import norm

        k = Knowledge(np.array([0.0, 1.0]), np.diag([0.5, 0.5]), np.ones(2), np.full(2, 60.0), np.ones(2, int))
        found = state_of(k, 1.5, 1)
        self.assertEqual((found.pick, found.challenger), (0, 1))
        self.assertAlmostEqual(found.chance, norm.cdf(1.0), delta=0.02)
        self.assertAlmostEqual(found.within, norm.cdf(2.5), delta=0.01)

    def test_it_ends_when_sure_and_everything_in_question_was_run(self) -> None:
        self.assertTrue(state_of(known([0.0, 9.0], 0.5, [2, 1]), 1.5, 1).stop)
        waiting = state_of(known([0.0, 5.0], 0.5, [1, 0]), 1.5, 1)
        self.assertFalse(waiting.stop)
        self.assertEqual(waiting.open, (1,))
        self.assertFalse(state_of(known([0.0, 0.2], 2.0, [1, 1]), 0.5, 1).stop)

    def test_a_pick_that_was_run_once_is_run_again_before_it_ends(self) -> None:
        once, twice = (state_of(known([0.0, 9.0], 0.5, [n, 1]), 1.5, 1) for n in (1, 2))
        self.assertEqual([(s.pick, s.enough, s.stop) for s in (once, twice)], [(0, True, False), (0, True, True)])

    def test_far_behind_is_put_aside_and_taken_back(self) -> None:
        k = known([0.0, 20.0, 1.0], 0.8, [1, 0, 1])
        self.assertEqual(state_of(k, 1.5, 1).struck, (1,))
        self.assertTrue(state_of(k, 1.5, 1).enough)
        self.assertEqual(state_of(k, 1.5, 1, kept=[1]).open, (1,))

    def test_by_the_forecast_alone_nobody_is_out(self) -> None:
        self.assertEqual(state_of(known([0.0, 30.0], 0.8, [0, 0]), 1.5, 1).struck, ())
        self.assertEqual(state_of(known([0.0, 4.0], 0.1, [1, 0]), 1.5, 1).struck, ())  # many sigmas, few kelvins

    def test_looking_again_asks_for_more(self) -> None:
        asked = [needed(n) for n in (1, 2, 3, 4, 9)]
        self.assertEqual(asked[0], SURE)
        self.assertEqual(asked, sorted(asked))

    def test_one_layout_alone(self) -> None:
        found = state_of(known([0.0], runs=[1]), 1.5, 1)
        self.assertEqual((found.pick, found.challenger, found.stop), (0, None, True))
