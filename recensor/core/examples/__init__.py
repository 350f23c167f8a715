"""Circuits and experiments to begin from, to be changed by whoever takes one."""

from recensor.core.examples import circuits, experiments, shapes
from recensor.core.examples.experiments import EXPERIMENTS, Example

__all__ = ["EXPERIMENTS", "Example", "circuits", "experiments", "shapes"]
