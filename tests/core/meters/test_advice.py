"""Setting the meter: what is advised is what the display can show, no jack above its fuse; contradictions are told."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from recensor.core.circuit import asking_everything, one_line
from recensor.core.judgement import assess
from recensor.core.meters import (
    EXACT,
    SHIPPED,
    Accuracy,
    Profile,
    Range,
    contradictions,
    display,
    disturbs_by,
    fuse_of,
    setting,
)  # fmt: skip
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE
from recensor.core.record import Run

MANUAL = SHIPPED["3½-digit manual"]
WITH_RANGES = [profile for profile in SHIPPED.values() if profile.ranges]


class Advised(TestCase):
    def test_dial_jack_range_and_display_of_worked_examples(self) -> None:
        """Worked by hand after the sheets of such meters (common practice, no source)."""
        for name, measurand, value, said in [
            ("3½-digit manual", VOLTAGE, 2.8125, ("V/Ω", "V DC", "20 V", "2.81", "V")),
            ("3½-digit manual", VOLTAGE, -0.1234, ("V/Ω", "V DC", "200 mV", "-123.4", "mV")),
            ("3½-digit manual", RESISTANCE, 1999.6, ("V/Ω", "Ω", "20 kΩ", "2.00", "kΩ")),
            ("3½-digit manual", CURRENT, 0.0018749, ("mA", "mA DC", "2 mA", "1.875", "mA")),
            ("3½-digit manual", CURRENT, 0.25, ("10A", "A DC", "10 A", "0.25", "A")),
            ("4000-count automatic", VOLTAGE, 3.9994, ("V/Ω", "V DC", "4 V", "3.999", "V")),
            ("4000-count automatic", VOLTAGE, 3.9996, ("V/Ω", "V DC", "40 V", "4.00", "V")),
            ("6000-count automatic", CURRENT, 0.045, ("mA", "mA DC", "60 mA", "45.00", "mA")),
            ("4½-digit bench", RESISTANCE, 47.123, ("V/Ω", "Ω", "200 Ω", "47.12", "Ω")),
        ]:
            found = setting(SHIPPED[name], measurand, value)
            shown = (found.jack, found.dial, found.range, found.shows.digits, found.unit)
            self.assertEqual(shown, said)

    @given(st.sampled_from(WITH_RANGES), st.floats(-12, 12))
    def test_a_known_current_is_never_put_through_a_fuse_that_it_blows(self, profile: Profile, current: float) -> None:
        found = setting(profile, CURRENT, current)
        fuse = fuse_of(profile, found.taken)
        if abs(current) > min(fuse, found.taken.full):
            self.assertIn("do not read it", " ".join(found.cautions))
        self.assertEqual(bool(found.cautions), abs(current) > min(0.8 * fuse, found.taken.full))
        self.assertEqual(found.dial == "A DC", found.taken.full > 1)  # box, dial and jack agree
        self.assertEqual(found.jack == "10A", found.taken.full > max(profile.fuses["mA"], 0.63))

    @given(st.sampled_from(WITH_RANGES), st.sampled_from([VOLTAGE, RESISTANCE, CURRENT]))
    def test_a_value_that_is_not_known_is_read_from_the_top_down(self, profile: Profile, measurand) -> None:
        ranges = profile.ranges[measurand]
        found = setting(profile, measurand, None)
        self.assertEqual([found.taken, *found.then], list(reversed(ranges)))
        self.assertIsNone(found.shows)
        bounded = setting(profile, measurand, None, at_most=0.9 * ranges[0].full)
        self.assertIs(bounded.taken, ranges[-1] if measurand is CURRENT else ranges[0])

    def test_over_range_zero_and_minus(self) -> None:
        volts = MANUAL.ranges[VOLTAGE]
        shown = [display(-2.8131, VOLTAGE, taken, "1").text for taken in volts]
        self.assertEqual(shown, ["1", "1", "−2.81 V", "−2.8 V", "−3 V"])
        self.assertEqual(display(0.004, VOLTAGE, volts[3]).digits, "0.0")

    def test_what_each_other_range_of_the_jack_would_show(self) -> None:
        found = setting(MANUAL, VOLTAGE, 2.8125).elsewhere()
        self.assertEqual(found, [("200 mV", "1"), ("2 V", "1"), ("200 V", "2.8 V"), ("600 V", "3 V")])
        self.assertEqual([name for name, _ in setting(MANUAL, CURRENT, 0.001).elsewhere()], ["20 mA", "200 mA"])
        self.assertEqual(setting(MANUAL, CURRENT, None).elsewhere(), [])

    def test_what_the_meter_does_to_the_circuit_is_its_own_affair(self) -> None:
        self.assertEqual(disturbs_by(MANUAL, CURRENT, 0.0018), 100.0)
        self.assertEqual(disturbs_by(MANUAL, CURRENT, 0.0018, 0.2), 1.0)
        self.assertEqual(disturbs_by(MANUAL, VOLTAGE, 3.0), 1e7)
        self.assertIsNone(disturbs_by(MANUAL, RESISTANCE, 1e3))
        self.assertIsNone(disturbs_by(EXACT, CURRENT, 0.1))


class Contradicting(TestCase):
    def test_each_is_told_at_its_field(self) -> None:
        good = Range(0.4, 1e-4, Accuracy(1.5, 3), burden=1.0, jack="mA")
        volts = Range(4.0, 1e-3, Accuracy(0.5, 2), 1e7, jack="V")
        fuses = {"mA": 0.4, "V": None}
        self.assertEqual(contradictions(Profile("own", {CURRENT: (good,), VOLTAGE: (volts,)}, fuses=fuses)), [])
        for ranges, more, place in [
            ({CURRENT: (replace(good, step=0.01),)}, {}, "functions.current[0].step"),
            ({CURRENT: (replace(good, accuracy=Accuracy(1.0, 5000)),)}, {}, "functions.current[0].accuracy"),
            ({CURRENT: (replace(good, jack="A"),)}, {}, "functions.current[0].jack"),
            ({CURRENT: (good, replace(good, full=10.0, step=1e-3, burden=0.03))}, {}, "functions.current[1].jack"),
            ({CURRENT: (replace(good, burden=100.0),)}, {}, "functions.current[0].burden"),
            ({VOLTAGE: (replace(volts, input_resistance=100.0),)}, {}, "functions.voltage[0].input"),
            ({VOLTAGE: (replace(volts, burden=1.0),)}, {}, "functions.voltage[0].burden"),
            ({VOLTAGE: (volts, volts)}, {}, "functions.voltage[1].full"),
            ({VOLTAGE: (volts, replace(volts, full=40.0, step=1e-4))}, {}, "functions.voltage[1].step"),
            ({VOLTAGE: (replace(volts, jack="mA"),)}, {}, "jacks"),
            ({VOLTAGE: (volts,)}, {"over_range": ()}, "over_range"),
        ]:
            profile = Profile("own", ranges, fuses=fuses, **more)
            self.assertEqual([one.place for one in contradictions(profile)], [place])
            run = Run(asking_everything(one_line.read("9V: 1k")), meters={"own": profile})
            self.assertIn(f"meters.own.{place}", [warned.at for warned in assess(run).warnings])
