"""Air density against a reference library."""

from CoolProp.HumidAirProp import HAPropsSI
from django.test import SimpleTestCase

from engine.air.properties import density_kg_m3, saturation_pressure_pa
from engine.errors import ImpossibleInputError


class AirTest(SimpleTestCase):
    def test_density_of_moist_air_agrees_with_coolprop(self) -> None:
        # Source: CoolProp, humid-air formulation of ASHRAE RP-1485 (real gas). Ideal gas differs by under 0.15 % here.
        for celsius, hpa, humidity in ((15, 1013.25, 0), (22, 1013.25, 50), (29, 1013.25, 70), (35, 850, 30), (50, 1030, 10)):
            volume = HAPropsSI("V", "T", celsius + 273.15, "P", hpa * 100, "R", humidity / 100)
            ratio = HAPropsSI("W", "T", celsius + 273.15, "P", hpa * 100, "R", humidity / 100)
            expected = (1 + ratio) / volume
            self.assertAlmostEqual(density_kg_m3(celsius, hpa, humidity) / expected, 1.0, delta=1.5e-3)

    def test_standard_atmosphere(self) -> None:
        # Source: ISO 2533, standard atmosphere at sea level, dry air 15 deg C: 1.225 kg/m3.
        self.assertAlmostEqual(density_kg_m3(15, 1013.25, 0), 1.225, delta=5e-4)

    def test_saturation_pressure_against_steam_tables(self) -> None:
        # Source: steam tables (IAPWS-IF97): 2.339 kPa at 20 deg C, 4.247 kPa at 30 deg C.
        self.assertAlmostEqual(saturation_pressure_pa(20) / 2339, 1.0, delta=4e-3)
        self.assertAlmostEqual(saturation_pressure_pa(30) / 4247, 1.0, delta=4e-3)

    def test_impossible_pressure_is_refused(self) -> None:
        with self.assertRaises(ImpossibleInputError):
            density_kg_m3(20, 0)
