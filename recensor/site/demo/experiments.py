"""The demo's experiments: circuits of the weather station. Made up for it."""

from collections.abc import Iterable
from dataclasses import replace

from recensor.core.circuit import asking_everything, node_list, one_line
from recensor.core.editing import superposition
from recensor.core.examples import experiments as examples
from recensor.experiments.models import Experiment
from recensor.experiments.services import make_experiment
from recensor.people.models import User

_BRIDGE = """
V1 A gnd 5V 2%
R1 A B 2k2 1%
R2 A C 2k2 1%
R3 B gnd 2k2 1%
R4 C gnd 2k4 1%
R5 B C 10k 5%
"""
_JUNCTION = """
V1 A gnd 12V 5%
R1 A J 100 5% 2W
V2 B gnd 13.8V 2%
R2 B J 220 5% 1W
R3 J gnd 1k 5%
"""


def load(author: User) -> None:
    """Make the experiments, unless the author has some."""
    if Experiment.objects.filter(owner=author).exists():
        return
    vane = one_line.read("9V: 1k + (2k2 | 1k + (2k2 | 1k + 2k2)); 5%", "Wind vane ladder, three sections")
    make_experiment(author, asking_everything(vane), "Which section of the ladder takes which share of the voltage?")
    gauge = replace(examples.loaded_divider().sheet, title="Rain gauge pull-up, unloaded and loaded")
    make_experiment(author, gauge, "How far does the pulled-up line sink when the counter's input loads it?")
    bridge = node_list.read(_BRIDGE, "Temperature sensor bridge")
    make_experiment(
        author, asking_everything(bridge), "R4 stands for the sensor a little off balance: what does R5 see?"
    )
    junction = superposition(node_list.read(_JUNCTION, "Battery and regulator junction"), "main")
    for example in (examples.line_of_a_resistor, examples.lamp_curve, examples.light_diode, examples.switched,
                    examples.set_by_meter):  # fmt: skip
        make_experiment(author, example().sheet, example().aim)
    make_experiment(
        author,
        junction,
        "Battery and solar regulator feed one load: each alone, with a wire in place of the other, and both together.",
    )


def remove(authors: Iterable[User]) -> None:
    """Take these people's experiments away; runs that followed them keep their sheets."""
    Experiment.objects.filter(owner__in=authors).delete()
