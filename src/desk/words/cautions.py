"""Cautions, said at the step where the hand is. Each ends with the makers' manuals and the local rules, which come first."""

from collections.abc import Mapping
from types import MappingProxyType

CAUTIONS: Mapping[str, str] = MappingProxyType(
    {
        "fan": (
            "Shut down, switch off at the wall and unplug before you change a fan or a lead; let the blades stop, hold edges, earth "
            "yourself."
        ),
        "fanMore": (
            "Large or fast blades cut. Hold the rotor still when you blow dust off. Add up the currents on one header and stay "
            "within what its manual allows. Check afterwards that no cable touches a blade."
        ),
        "coolant": (
            "Check for leaks before power and again after the first warm-up; never cut, pull or pinch a tube. On a leak switch off "
            "at the wall and do not restart wet."
        ),
        "run": (
            "Stay with the machine while it runs at full load, keep vents clear, and stop if a part stays at its limit, you smell "
            "heat or a sealed cooler gurgles."
        ),
        "runMore": (
            "Power loads also heat the supply and the board. With the machine open: nothing dangling, hair and cuffs tied, only "
            "fixed, insulated probes near blades. Look for leaks before power and after the first warm-up."
        ),
        "panel": (
            "Panel off: blades and hot parts are within reach. Power off to take it off; lay glass flat on something soft, with two "
            "hands; keep children and pets away; put it back after the run."
        ),
        "cooler": (
            "Power off and let it cool. Peel the film off the cold plate, tighten in a star pattern, do not bend tubes tighter than "
            "their maker says; never cut or pierce a sealed cooler."
        ),
        "mains": (
            "Shut down, switch off, unplug, wait, press the button to drain it. Never open a supply; spills stay off mains; what is inside "
            "it or on mains is for a qualified person."
        ),
        "static": "Earth yourself on bare metal, hold boards and cards by their edges, put them on what carries static off.",
        "glass": (
            "Glass: loosen its screws evenly, two hands, flat on something soft, never on an edge. Shards: gloves and eye protection; "
            "children and pets away. A full tower is lifted by two."
        ),
        "sharp": "Sheet metal and fins cut: gloves when you reach inside. A full tower is lifted by two; mind the desk.",
        "film": "A film left on the cold plate overheats the processor: look, feel, then go on. Films on fans and panels too.",
        "paste": (
            "Keep paste from skin and sockets. Liquid metal conducts and eats aluminium: not on a sealed cooler's aluminium parts; "
            "a lid stays on its processor."
        ),
        "tighten": "Finger-tight in a star, then snug: no force with a driver. The bracket is that of the socket, not a like one.",
        "hot": "Cooler, radiator and the card's backplate stay hot: let them cool before you touch them.",
        "pump": (
            "A pump that gurgles or runs dry: stop and look. Set it constant, with an alarm on low speed; do not run long at a limit. "
            "Coolant above 60 °C softens plastic."
        ),
        "cardStrain": "A long card pulls on its slot: prop it up. A riser is made for a stated rate; see its sheet.",
        "dust": (
            "Dust outdoors, mask on. Hold each rotor still: driven fast it breaks and makes voltage. A can of gas stays upright, in fresh "
            "air, far from flames; it burns cold: eye protection."
        ),
        "lightPlug": "Lights of 5 V and 12 V have plugs that look alike: the wrong one destroys them.",
        "sweep": (
            "Slow fans carry little heat off: sweep with the machine at rest or lightly loaded, watch its temperatures, and stop where "
            "one comes near its limit. At the upper end it is loud."
        ),
        "loud": "Loud for long, close by: take breaks or protect your ears; where people work, the rules of the workplace apply.",
        "supply": (
            "Shut down, switch off at the wall, unplug, wait, and press the button once to drain it. Never open a power supply; "
            "what is inside it or on mains is for a qualified person."
        ),
        "lead": (
            "Unplug the machine before you change a lead. Add up starting currents and stay within what the header's manual allows; "
            "use a powered hub beyond that, and never join two supplies' +12 V. A 5 V light on a 12 V plug is destroyed."
        ),
        "radiator": (
            "Fins and sheet metal cut: gloves, and do not squash the fins. Keep to the tubes' smallest bend and never pull a cooler "
            "by them. A full tower is lifted by two."
        ),
        "openLoop": (
            "Glycol mix is harmful if swallowed and makes floors slippery. Fill and test for leaks with the machine unpowered; "
            "below 60 °C by design, let it cool before you open it. Liquid metal attacks aluminium."
        ),
        "improvised": (
            "Card, tape and blocked vents at full load: stay with the machine, set stop limits, keep them off the supply's vents, "
            "and put everything back after the run."
        ),
        "fog": (
            "Theatrical fluid only, short puffs, room aired; not for asthma; it can set off smoke detectors, its nozzle burns. "
            "Power off before fogging heavily."
        ),
        "solvent": "Pure alcohol as the paste's maker says; aired, no flame, gloves, power off and all dry again before power.",
        "capRaised": "Do not raise a limit for a test. Loads at the limit also stress the board and the supply: stay with the machine.",
        "longLoad": (
            "Full load for an hour or more: not unattended without a stop limit; nothing that burns near the vents; mind the load "
            "on the circuit."
        ),
        "chamber": "Parts colder than the air draw water: let them warm up before power. Nothing living goes inside; its own manual leads.",
    }
)
# Ticked before a run may start, by the key a protocol names them with: a short name, and the caution it is.
TICKED: Mapping[str, tuple[str, str]] = MappingProxyType(
    {
        "fog": ("fog", "fog"),
        "solvent": ("solvent", "solvent"),
        "panel_off": ("panel off", "panel"),
        "chamber": ("chamber", "chamber"),
        "cap_raised": ("a raised limit", "capRaised"),
        "blocked_vents": ("blocked vents", "improvised"),
        "long_load": ("an hour or more at full load", "longLoad"),
    }
)
