"""How to take a reading: stage, power, dial, where the probes go, what to put back; and in which order."""

from recensor.core.plan.before_power import Check, before_power
from recensor.core.plan.card import Card, card
from recensor.core.plan.disturbance import Disturbance, disturbance
from recensor.core.plan.drift import sources_to_read_again
from recensor.core.plan.opening import Opening, Way, opening
from recensor.core.plan.order import Order, in_order, next_in, read_at
from recensor.core.plan.planning import Plan, bench_of, plan, walk
from recensor.core.plan.route import shortest
from recensor.core.plan.stage import Stage, called, in_a_sentence, stage_of, title, title_in_setup
from recensor.core.plan.state import Move, State, moves, rebuilding, unsafe, unsafe_change
from recensor.core.plan.steps import Bench, Step

__all__ = [
    "Bench",
    "Card",
    "Check",
    "Disturbance",
    "Move",
    "Opening",
    "Order",
    "Plan",
    "Stage",
    "State",
    "Step",
    "Way",
    "before_power",
    "bench_of",
    "called",
    "card",
    "disturbance",
    "in_a_sentence",
    "in_order",
    "moves",
    "next_in",
    "opening",
    "plan",
    "read_at",
    "rebuilding",
    "shortest",
    "sources_to_read_again",
    "stage_of",
    "title",
    "title_in_setup",
    "unsafe",
    "unsafe_change",
    "walk",
]  # fmt: skip
