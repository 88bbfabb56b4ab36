"""Published sources the engine rests on, by key. A formula or constant names one of these keys."""

from types import MappingProxyType

SOURCES = MappingProxyType(
    {
        "idelchik": "Idelchik, I. E.: Handbook of Hydraulic Resistance. Thin perforated plates, orifices, bends.",
        "contam": "Multizone air-flow theory: power-law and orifice links between well-mixed zones (textbook).",
        "incropera": "Incropera, DeWitt: Fundamentals of Heat and Mass Transfer. Effectiveness-NTU, film coefficients.",
        "fan_laws": "Fan affinity laws: flow ~ speed, pressure ~ speed^2 (ISO 5801, textbook).",
        "abramovich": "Abramovich: The Theory of Turbulent Jets. Entrainment of a free jet.",
        "fritsch_carlson": "Fritsch, Carlson (1980): Monotone piecewise cubic interpolation.",
        "sandberg": "Sandberg (1981): What is ventilation efficiency? Age of air by tracer gas.",
        "kinsler": "Kinsler et al.: Fundamentals of Acoustics. Energy sum of levels, spherical spreading.",
        "iec_61672": "IEC 61672-1:2013: sound level meters. Frequency weightings A and C, time weightings F and S.",
        "iec_61260": "IEC 61260-1:2014: octave-band and fractional-octave-band filters. Mid-band frequencies and band edges.",
        "ecma_74": "ECMA-74 / ECMA-418-1: discrete tones by tone-to-noise ratio and by prominence ratio.",
        "iso_3744": "ISO 3744:2010: sound power, engineering grade. Correction for background; repeatable operation 0.5 dB (from memory).",
        "iso_3746": "ISO 3746:2010: sound power, survey grade. Correction for background and its limit (from memory).",
        "iso_7779": "ISO 7779 / ECMA-74: noise of information technology equipment. Positions of operator and bystander (from memory).",
        "cipm": "Moist air as a mixture of ideal gases; saturation pressure after Magnus (WMO No. 8).",
        "gum": "JCGM 100:2008 (GUM): Guide to the Expression of Uncertainty in Measurement.",
        "gum_mc": "JCGM 101:2008: Propagation of distributions using a Monte Carlo method.",
        "holm": "Holm, S. (1979): A simple sequentially rejective multiple test procedure.",
        "regwq": "Ryan, Einot, Gabriel and Welsch: stepwise studentized range; Kramer (1956) for unlike errors.",
        "studentized_range": "Pearson and Hartley, Biometrika Tables for Statisticians, vol. 1, table 29: the studentized range.",
        "tost": "Schuirmann, D. J. (1987): two one-sided tests procedure for equivalence.",
        "satterthwaite": "Welch (1947), Satterthwaite (1946): effective degrees of freedom.",
        "bartlett": "Bartlett (1935), Zwiers and von Storch (1995): effective size of an autocorrelated sample.",
        "mann_kendall": "Mann (1945), Kendall (1975): rank test for a trend; exact tails in Kendall, Rank Correlation Methods.",
        "grubbs": "Grubbs (1969): procedures for detecting outlying observations in samples.",
        "smyth": "Smyth (2004): variances moderated by a prior, posterior on d0 + d degrees of freedom.",
        "frazier": "Frazier, Powell and Dayanik (2009): the knowledge-gradient policy for correlated normal beliefs.",
        "held_karp": "Held and Karp (1962): a dynamic programming approach to sequencing problems.",
        "rfc5545": "RFC 5545: Internet Calendaring and Scheduling Core Object Specification (iCalendar).",
        "rasmussen": "Rasmussen and Williams (2006): Gaussian Processes for Machine Learning; evidence (5.4.1), leaving out (5.4.2).",
        "raftery": "Hoeting, Madigan, Raftery and Volinsky (1999): Bayesian model averaging; evidence by marginal likelihood.",
        "lomb": "Lomb (1976), Scargle (1982): least-squares spectrum of readings.",
        "widrow": "Widrow and Kollar: Quantization Noise. What rounding leaves of a mean that noise dithers.",
        "sen": "Sen (1968): slope as the median of pairwise slopes, with its confidence limits.",
        "trade": "Common practice, no source: fitted to facts of the trade.",
        "memory": "Typical value from memory, to be replaced by a published one.",
    }
)
