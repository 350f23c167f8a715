"""Drawing, working out, editing and trying out a circuit of 12 parts: ``.venv/bin/python -m benchmarks.circuits``."""

from functools import partial

from benchmarks import sites
from benchmarks.core import best
from recensor.core.boards import compare, planned
from recensor.core.circuit import asking_everything, node_list, one_line, tree_of_source
from recensor.core.solving import elements_of, reduce, stated, vary
from recensor.drawing.schematic import schematic

LADDER = "9V: 1k + (2k2 | 3k3 + (4k7 | 470 + (680 | 1k5 + (8k2 | 2k2 + 3k3)))) + 100; 5%"
MESHED = """V1 A gnd 9V
R1 A B 1k 5%\nR2 A C 2k 5%\nR3 B D 3k 5%\nR4 C E 4k 5%\nR5 B C 5k 5%\nR6 D E 1k 5%\nR7 D gnd 1k 5%
R8 E gnd 1k 5%\nR9 A E 1k 5%\nR10 B gnd 4k 5%\nI1 gnd D 10mA"""
ROUNDS = 5


def main() -> None:
    """Print the figures."""
    for name, sheet in (("ladder", one_line.read(LADDER)), ("meshed", node_list.read(MESHED))):
        drawn = best(lambda sheet=sheet: schematic(sheet, sheet.setup()), 20)
        print(f"schematic of a {name} circuit of {len(sheet.parts)} parts: {drawn * 1e3:.1f} ms")
    sheet = one_line.read(LADDER)
    values = stated(sheet, sheet.setup()).known
    _, tree = tree_of_source(sheet.setup(), sheet.parts)
    print(f"its reduction and back: {best(lambda: reduce(tree, values, voltage=9.0), 50) * 1e3:.2f} ms")
    elements = elements_of(sheet.setup(), sheet.parts, values)
    loose = dict.fromkeys(list(values)[1:], 0.05)
    tried = best(lambda: vary(elements, "gnd", {}, loose), 1)
    print(f"what-if with 10 000 samples and all corners: {tried * 1e3:.0f} ms")
    boards()
    over_http()


def boards() -> None:
    """Layouts, and a full board held against its drawing."""
    sheet = node_list.read(MESHED)
    links = [name for name in sheet.parts if name[0] == "R"][:4]
    laid_out = best(lambda: planned(sheet, sheet.setup(), links), 5)
    print(f"planned layout of a circuit of 12 parts: {laid_out * 1e3:.1f} ms")
    long = one_line.read("9V: " + " + ".join(f"(1k | 2k2 | {k + 1}k)" for k in range(16)))
    full = planned(long, long.setup())
    print(f"nets of a board with {len(full.placements)} placements: {best(full.nets, 20) * 1e3:.2f} ms; "
          f"held against its drawing: {best(lambda: compare(long, long.setup(), full), 5) * 1e3:.1f} ms")  # fmt: skip


def over_http() -> None:
    """A structural edit and the worked page against the bare view."""
    with sites.database():
        from django.contrib.auth import get_user_model

        from recensor.experiments.services import make_experiment

        person = get_user_model().objects.create_user("bench", password="bench-bench")
        experiment = make_experiment(person, asking_everything(one_line.read(LADDER, "Ladder")))
        from benchmarks.core import sixty_readings
        from recensor.runs import services

        begun = services.start_run(person, sixty_readings().sheet)  # what the bare view inserts into
        headers = sites.signed_in(person)
        with sites.served():
            post = sites.asker(sites.OURS, "POST", experiment.get_absolute_url(), headers)
            edit = partial(
                post, act="change", setup="main", part="R3", name="R3", value="3k3", tolerance="5", rating=""
            )
            worked = sites.asker(sites.OURS, "GET", f"{experiment.get_absolute_url()}worked/", headers)
            place = sites.asker(sites.OURS, "POST", f"{begun.get_absolute_url()}board/", headers)
            put = partial(place, act="put", setup="main", what="R1 b3 b7")
            bare = sites.asker(sites.BARE, "GET", "/bare/", {})
            signed_in = partial(sites.asker(sites.SIGNED_IN, "POST", "/bare/signed-in/", headers), text="1.00")
            actions = (edit, worked, put, bare, signed_in)
            for action in actions:
                action()
            times = [[sites.mean(action) for action in actions] for _ in range(ROUNDS)]
        edited, shown, placed, barest, behind = (min(column) for column in zip(*times, strict=True))
        print(f"a structural edit: {edited * 1e3:.1f} ms, {edited / barest:.1f} times the barest insert, "
              f"{edited / behind:.1f} times the same for someone signed in")  # fmt: skip
        print(f"placing a part: {placed * 1e3:.1f} ms, {placed / barest:.1f} times the barest insert, "
              f"{placed / behind:.1f} times the same for someone signed in")  # fmt: skip
        print(f"the worked page: {shown * 1e3:.1f} ms")


if __name__ == "__main__":
    main()
