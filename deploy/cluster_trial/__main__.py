"""Start it all, let people record, make one thing after another fail, and look what every node has in the end."""

import argparse
import contextlib
import os
import socket
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from campaigns.recorders import Recorder, Recording, lost
from campaigns.site import PASSWORD, Person
from deploy.cluster_trial.nodes import Node, missing
from deploy.cluster_trial.servers import AppServer, Proxy

RECORDERS = 4

Act = Callable[[], object]
MAKE_PEOPLE = f"""
from django.contrib.auth import get_user_model
for number in range({RECORDERS}):
    get_user_model().objects.create_user(f"trial-{{number}}", password="{PASSWORD}")
"""


def main() -> int:
    """Run the trial; the status is 1 where something was lost or doubled."""
    parser = argparse.ArgumentParser(prog="deploy/cluster-trial", description="Try Recensor on a cluster of three.")
    parser.add_argument("--seconds", type=float, default=8, help="for each failure, before it is mended (default 8)")
    parser.add_argument(
        "--nodes", type=int, choices=(1, 3), default=3, help="database nodes (default 3; 1 is no cluster)"
    )
    options = parser.parse_args()
    if wanted := missing():
        print(f"Missing: {', '.join(wanted)}; deploy/cluster-trial gets them.", file=sys.stderr)
        return 1
    with tempfile.TemporaryDirectory(prefix="recensor-cluster-") as folder, contextlib.ExitStack() as stack:
        return _trial(Path(folder), options.nodes, options.seconds, stack)


def _trial(folder: Path, count: int, seconds: float, stack: contextlib.ExitStack) -> int:
    nodes, apps, proxy = _started(folder, count, stack)
    people = [Person(proxy, f"trial-{number}", str(proxy.certificate)) for number in range(RECORDERS)]
    recorders = [Recorder(person, person.begin_run()) for person in people]
    with Recording(recorders) as recording:
        since = time.monotonic()
        time.sleep(seconds)
        _say(recording, since, "nothing fails")
        for words, fail, mend in _failures(nodes, apps):
            since, before = time.monotonic(), len(recording.acknowledged)
            fail()
            time.sleep(seconds)
            begun = time.monotonic()
            mend()
            mended = time.monotonic() - begun
            _say(recording, since, f"{words}; back after {mended:.1f} s", before)
    wrong = []
    for node in nodes:
        wrong += [f"node {node.number}: {line}" for line in lost(recording.acknowledged, _kept(node, recorders))]
    print("\n".join(wrong[:40]))
    print(
        f"cluster trial: {len(recording.acknowledged)} acknowledged, {recording.resent} resent, each looked for on "
        f"{len(nodes)} of {len(nodes)} nodes; {len(wrong)} lost, doubled or changed"
    )
    return 1 if wrong else 0


def _failures(nodes: list[Node], apps: list[AppServer]) -> Iterator[tuple[str, Act, Act]]:
    """What happens, how, and how it is mended."""
    yield "a database node is killed", nodes[0].kill, lambda: nodes[0].start(nodes)
    yield "an app server is killed", apps[0].kill, apps[0].start
    if len(nodes) > 1:
        yield "a node is cut off", lambda: nodes[1].isolate(apart=True), lambda: _rejoined(nodes[1])
        yield "the node that serves nobody is killed", nodes[2].kill, lambda: nodes[2].start(nodes)


def _started(folder: Path, count: int, stack: contextlib.ExitStack) -> tuple[list[Node], list[AppServer], Proxy]:
    ports = _free_ports()
    nodes = [Node(folder, number, ports) for number in range(count)]
    for node in nodes:
        node.make()
        stack.callback(node.stop)
    nodes[0].start(nodes, begins=True)
    nodes[0].make_account()
    for node in nodes[1:]:
        node.start(nodes)
    print(f"a cluster of {nodes[0].status('wsrep_cluster_size')} nodes" if count > 1 else "one database over TCP")
    shared = {
        "DJANGO_SETTINGS_MODULE": "recensor.site.settings",
        "SECRET_KEY": "the same on every app server, and long: " + "x" * 40,
        "RECENSOR_HTTPS": "1",
        "RECENSOR_HOSTS": "localhost",
        "RECENSOR_PROXIES": "127.0.0.1",
        "RECENSOR_CLUSTER": "1" if count > 1 else "0",
    }
    apps = []
    for number in range(2):
        beside = nodes[number % count]
        apps.append(AppServer(folder, number, ports + 40 + number, {**shared, "DATABASE_URL": beside.url}))
    apps[0].manage("migrate", "--verbosity", "0")
    apps[0].manage("shell", "--command", MAKE_PEOPLE)
    for app in apps:
        app.manage("collectstatic", "--noinput", "--verbosity", "0")
        app.start()
        stack.callback(app.stop)
    proxy = Proxy(folder, ports + 50, apps)
    stack.callback(proxy.stop)
    proxy.start()
    print(f"two app servers behind {proxy.base}")
    return nodes, apps, proxy


def _rejoined(node: Node) -> None:
    node.isolate(apart=False)
    while node.status("wsrep_local_state_comment") != "Synced" or node.status("wsrep_cluster_size") != "3":
        time.sleep(0.1)


def _say(recording: Recording, since: float, words: str, before: int = 0) -> None:
    more = len(recording.acknowledged) - before
    print(f"{words}: {more} acknowledged, longest gap {recording.longest_gap(since):.1f} s", flush=True)


def _kept(node: Node, recorders: list[Recorder]) -> dict[str, list[str]]:
    runs = ", ".join(str(recorder.run) for recorder in recorders)
    found: dict[str, list[str]] = {}
    rows = node.ask(f"SELECT `key`, text FROM recensor.bench_reading WHERE run_id IN ({runs})")
    for line in rows.splitlines():
        key, text = line.split("\t")
        found.setdefault(key, []).append(text)
    return found


def _free_ports() -> int:
    """The first of a hundred ports that nobody uses."""
    for first in range(21_000 + os.getpid() % 1000 * 10, 60_000, 100):
        with contextlib.suppress(OSError), contextlib.ExitStack() as probes:
            for port in range(first, first + 60):
                probes.enter_context(socket.socket()).bind(("127.0.0.1", port))
            return first
    raise RuntimeError("no free ports")


if __name__ == "__main__":
    sys.exit(main())
