"""Reading at the bench: the page, recording, and putting right what was recorded."""

from collections.abc import Callable
from dataclasses import replace

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from recensor.bench.forms import (
    AnswerForm,
    DisagreementForm,
    MoveForm,
    OwnValueForm,
    ReadingCorrectionForm,
    ReadingForm,
    TypedChangeForm,
)
from recensor.bench.page.context import BenchPage, BenchState
from recensor.bench.page.keys import KEYS
from recensor.bench.page.panes import Pane
from recensor.bench.page.parts_in_hand import TypedInPane
from recensor.core import lengths
from recensor.core.circuit import PartsLine, Setup, Sheet, Target
from recensor.core.entries import TypedChange, named, place, split_circuits, typed_change, typed_circuit
from recensor.core.errors import Refused
from recensor.core.quantity import VOLTAGE, Measurand
from recensor.core.record import DisagreementReason
from recensor.ledger.sweeps import next_in_table, other_column
from recensor.people.requests import SignedIn
from recensor.runs import queries, services
from recensor.runs.access import run_view
from recensor.runs.models import RunRow
from recensor.runs.queries import RunSnapshot
from recensor.runs.services import change_circuit, circuit_changes
from recensor.runs.services.record import Recorded
from recensor.web.fields import whole_number
from recensor.web.forms import KeyForm
from recensor.web.refusals import UNPROCESSABLE, first_error, run_or_refuse
from recensor.web.transactions import atomic_with_retry


@require_GET
@run_view("runs.view")
def bench(request: SignedIn, run: RunRow) -> HttpResponse:
    """The bench page, or its live part when another measurement is made the next one."""
    loaded, asked = queries.load(run, request.user), request.GET
    at = loaded.target_at(asked.get("measurement"))
    if typed := asked.get("circuits") or _typed_circuits(request, loaded):
        state = BenchState(at, pane=Pane.PARTS, in_pane=TypedInPane(text=typed[: lengths.PROSE]))
        return render_bench(request, run, loaded, state)
    try:
        if proposed := _typed_change(request, loaded):
            state = BenchState(at, sought=asked["read"], proposed=proposed)
            return render_bench(request, run, loaded, state)
        sought = _sought(request, loaded)
    except Refused as error:
        state = BenchState(at, sought=asked.get("read", ""), sought_refused=error.message)
        return render_bench(request, run, loaded, state, UNPROCESSABLE)
    state = BenchState(sought or at, correcting=None if sought else whole_number(asked.get("correct")))
    return render_bench(request, run, loaded, state)


def _sought(request: SignedIn, loaded: RunSnapshot) -> Target | None:
    """What is to be read next by where the probes go, as it was typed or pointed at; None where nothing was."""
    asked, sheet = request.GET, loaded.core.sheet
    if "read" not in asked:
        return None
    wanted = asked.get("quantity", "")
    measurand = Measurand(wanted) if wanted in set(Measurand) else VOLTAGE
    return place(asked["read"], sheet, sheet.setup(asked.get("setup")), measurand)


def _typed_circuits(request: SignedIn, loaded: RunSnapshot) -> str:
    """The circuits of parts in hand that were typed in place of where the probes go; empty where it was none."""
    text, sheet = request.GET.get("read", ""), loaded.core.sheet
    setup = sheet.setup(request.GET.get("setup"))
    if named(text, sheet, setup):
        return ""
    try:
        typed = [typed_circuit(piece, sheet, setup) for piece in split_circuits(text)]
    except Refused:
        return ""
    are_lines = all(isinstance(one, PartsLine) and not one.new for one in typed)
    return text if are_lines else ""


def _typed_change(request: SignedIn, loaded: RunSnapshot) -> TypedChange | None:
    """The change of the circuit that was typed in place of where the probes go, tried; None where none was."""
    asked, sheet = request.GET, loaded.core.sheet
    setup = sheet.setup(asked.get("setup"))
    change = typed_change(asked.get("read", ""), sheet, setup)
    if change:
        circuit_changes.typed_so(change, setup.name)(sheet)
    return change


def _asked_change(form: TypedChangeForm, sheet: Sheet, setup: Setup) -> TypedChange:
    """The change of a setup that a form asks for. Raises `Refused` where it asks for none."""
    change = typed_change(form.cleaned_data["change"], sheet, setup) if form.is_valid() else None
    if change is None:
        raise Refused(f"“{form.data.get('change', '')[:40]}” changes nothing in this circuit.")
    return change


@require_POST
@run_view("runs.record")
def change_circuit_so(request: SignedIn, run: RunRow) -> HttpResponse:
    """Change the circuit as it was typed: what is read next is read in the new one."""
    form = TypedChangeForm(request.POST)

    def changed() -> TypedChange:
        sheet = queries.load(run).core.sheet
        form.is_valid()
        setup = sheet.setup(form.cleaned_data.get("setup"))
        change = _asked_change(form, sheet, setup)
        change_circuit.change(run, request.user, circuit_changes.typed_so(change, setup.name), form.cleaned_data["key"])
        return change

    def done(change: TypedChange) -> HttpResponse:
        said = f"{change.words} What was read stays with the circuit as it was."
        return render_bench(request, run, queries.load(run, request.user), BenchState(done=said))

    return run_or_refuse(
        changed, done, lambda error, status: where_it_was(request, run, BenchState(message=error.message), status)
    )


@require_POST
@run_view("runs.record")
def record(request: SignedIn, run: RunRow) -> HttpResponse:
    """Record a reading and go on to the next point; on the empty field, accept what a source was turned to."""

    @atomic_with_retry
    def recorded() -> tuple[ReadingForm, Recorded | Target | int | None]:
        loaded = queries.load_locked(run, request.user)
        form = ReadingForm(request.POST, loaded=loaded)
        if form.is_valid():
            return form, services.enter(run, form.loaded, request.user, form.entry)
        if form.is_empty:
            if form.target and (column := other_column(form.target, loaded.core)):
                return form, column
            return form, services.accept(run, loaded, request.user)
        return form, None

    def refused(error: Refused, status: int) -> HttpResponse:
        form = ReadingForm(request.POST, loaded=queries.load(run, request.user))
        form.is_valid()
        text = "" if error.place == "text" else error.message
        return render_bench(request, run, form.loaded, BenchState(form.target, form=form, message=text), status)

    def done(result: tuple[ReadingForm, Recorded | Target | int | None]) -> HttpResponse:
        form, came = result
        if isinstance(came, Recorded):
            return render_bench(request, run, came.loaded, _after(came, form.entry.reading.target))
        if came is not None and not isinstance(came, int):
            return render_bench(request, run, form.loaded, BenchState(came, done="The other column of the table."))
        if came is not None:
            loaded = queries.load(run, request.user)
            return render_bench(request, run, loaded, BenchState(recorded=loaded.target_of(came), answered=came))
        return render_bench(request, run, form.loaded, BenchState(form.target, form=form), UNPROCESSABLE)

    return run_or_refuse(recorded, done, refused)


def _after(came: Recorded, target: Target) -> BenchState:
    """The page's state after an entry: in a free table the next of its rows, which nobody asked for."""
    state = BenchState.after(came, target)
    return state if state.chosen else replace(state, chosen=next_in_table(target, came.loaded.core))


def stands_at(request: SignedIn, loaded: RunSnapshot) -> Target | None:
    """The measurement that the page which sent this stands at."""
    return loaded.target_at(request.POST.get("measurement"))


@require_POST
@run_view("runs.record")
def repeat(request: SignedIn, run: RunRow) -> HttpResponse:
    """What was read last shows again: another trial; the page stays where it is."""
    form = KeyForm(request.POST)

    def repeated() -> Recorded:
        if not form.is_valid() or form.cleaned_data["key"] is None:
            raise Refused("Press the button for the same once more.")
        return services.repeat(run, request.user, form.cleaned_data["key"])

    def done(came: Recorded) -> HttpResponse:
        loaded = came.loaded
        state = BenchState(stands_at(request, loaded), recorded=loaded.target_of(came.row.pk), came=came)
        return render_bench(request, run, loaded, state)

    return run_or_refuse(
        repeated, done, lambda error, status: where_it_was(request, run, BenchState(message=error.message), status)
    )


@require_POST
@run_view("runs.record")
def switch(request: SignedIn, run: RunRow) -> HttpResponse:
    """Power was switched, and what the card said to do before it is done."""
    form, target = MoveForm(request.POST), stands_at(request, queries.load(run, request.user))

    def switched() -> None:
        if not form.is_valid():
            raise Refused("Say whether power is on or off.")
        typed = form.cleaned_data
        services.switch(run, request.user, target, typed["key"], on=typed["power"] == "ON")

    return moved(request, run, switched, f"Power is {form.cleaned_data['power']}." if form.is_valid() else "")


@require_POST
@run_view("runs.record")
def put_back(request: SignedIn, run: RunRow) -> HttpResponse:
    """Everything is put back, and the red lead is in the voltage jack."""
    form = KeyForm(request.POST)
    key = form.cleaned_data["key"] if form.is_valid() else None
    return moved(request, run, lambda: services.put_back(run, request.user, key), "Everything is put back.")


def moved(request: SignedIn, run: RunRow, action: Callable[[], None], said: str = "") -> HttpResponse:
    """Carry out what changes no reading, and show the bench where it was, though nothing was read there yet."""
    return run_or_refuse(
        action,
        lambda _: where_it_was(request, run, BenchState(done=said)),
        lambda error, status: where_it_was(request, run, BenchState(message=error.message), status),
    )


def where_it_was(request: SignedIn, run: RunRow, state: BenchState | None = None, status: int = 200) -> HttpResponse:
    """The bench at the measurement that the page stood at."""
    loaded = queries.load(run, request.user)
    return render_bench(request, run, loaded, replace(state or BenchState(), chosen=stands_at(request, loaded)), status)


@require_POST
@run_view("runs.record")
def see(request: SignedIn, run: RunRow) -> HttpResponse:
    """A lamp or a light diode is dark, dim or bright; the page stays where it is."""
    form, asked = KeyForm(request.POST), request.POST
    key = form.cleaned_data["key"] if form.is_valid() else None

    def seen() -> None:
        services.see(run, request.user, asked.get("setup", ""), asked.get("part", ""), asked.get("light", ""), key)

    return moved(request, run, seen, f"{asked.get('part', '')} was seen {asked.get('light', '')}.")


@require_POST
@run_view("runs.record")
def own_value(request: SignedIn, run: RunRow) -> HttpResponse:
    """Keep what somebody worked out for a point; the page stays there."""
    loaded = queries.load(run, request.user)
    form = OwnValueForm(request.POST, loaded=loaded)
    is_valid = form.is_valid()
    target = form.cleaned_data.get("target")
    if target is None:
        return render_bench(request, run, loaded, BenchState(message=first_error(form)), UNPROCESSABLE)
    if not is_valid:
        return render_bench(request, run, loaded, BenchState(target, own_form=form), UNPROCESSABLE)

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error(None, error.message)
        return render_bench(request, run, loaded, BenchState(target, own_form=form), status)

    typed = form.cleaned_data
    return run_or_refuse(
        lambda: services.work_out(run, request.user, target, typed["value"], typed["formula"], typed["key"]),
        lambda _: render_bench(request, run, queries.load(run, request.user), BenchState(target, done=_KEPT)),
        refused,
    )


_KEPT = "It is kept beside the reading."


@require_POST
@run_view("runs.view")
def shows_own(request: SignedIn, run: RunRow) -> HttpResponse:
    """Open the field for one's own calculation, or put it away, as the button said: it stays so."""
    request.user.own_calculations = request.POST.get("shown") == "yes"
    request.user.save(update_fields=["own_calculations"])
    return where_it_was(request, run)


@require_POST
@run_view("runs.view")
def shows_readings(request: SignedIn, run: RunRow) -> HttpResponse:
    """The readings, or the drawing, stand at the left from now on."""
    request.user.bench_shows = "readings" if request.POST.get("shown") == "readings" else "drawing"
    request.user.save(update_fields=["bench_shows"])
    return where_it_was(request, run)


@require_POST
@run_view("runs.record")
def correct(request: SignedIn, run: RunRow, reading_id: int) -> HttpResponse:
    """Put a reading right, by one of the corrections that are offered for it."""
    form = ReadingCorrectionForm(request.POST)

    def corrected() -> int:
        if not form.is_valid():
            raise Refused("Choose what is to be done to the reading.")
        return services.correct_reading(
            run, request.user, reading_id, form.cleaned_data["correction"], form.cleaned_data["reason"]
        )

    return _changed(request, run, corrected, "Corrected.", goes_to_it="measurement" not in request.POST)


@require_POST
@run_view("runs.record")
def answer_question(request: SignedIn, run: RunRow, reading_id: int) -> HttpResponse:
    """Say what a doubtful reading is, and go on."""

    def answered() -> int:
        given = AnswerForm(request.POST).given(queries.load(run))
        return services.answer_question(run, request.user, reading_id, given)

    return _changed(request, run, answered, "", about=reading_id)


@require_POST
@run_view("runs.record")
def explain(request: SignedIn, run: RunRow, reading_id: int) -> HttpResponse:
    """Say why a reading is another than the one before, though nothing was changed."""
    form = DisagreementForm(request.POST)

    def explained() -> int:
        if not form.is_valid():
            raise Refused("Choose why they do not agree.")
        return services.explain(run, request.user, reading_id, DisagreementReason(form.cleaned_data["why"]))

    was_rewired = request.POST.get("why") == DisagreementReason.REWIRED
    said = (
        "What was read before belongs to the circuit as it was then, a setup of its own." if was_rewired else "Noted."
    )
    return _changed(request, run, explained, said)


@require_POST
@run_view("runs.record")
def on_purpose(request: SignedIn, run: RunRow, reading_id: int) -> HttpResponse:
    """What shows nothing was opened or shorted on purpose: it counts in a circuit of its own."""
    form = TypedChangeForm(request.POST)

    def made() -> int:
        loaded = queries.load(run)
        index, sheet = loaded.index_of(reading_id), loaded.core.sheet
        setup = sheet.setup(None if index is None else loaded.core.readings[index].target.setup)
        change = _asked_change(form, sheet, setup)
        return change_circuit.made_on_purpose(run, request.user, reading_id, change, form.cleaned_data["key"])

    return _changed(request, run, made, "It counts, in a circuit of its own.", goes_to_it=True)


@require_POST
@run_view("runs.record")
def take_as_read(request: SignedIn, run: RunRow, reading_id: int) -> HttpResponse:
    """Take a source as what it was read to give."""
    taken = "All is calculated from what it gives."
    return _changed(request, run, lambda: services.take_as_read(run, request.user, reading_id), taken)


@require_POST
@run_view("runs.record")
def leave_out(request: SignedIn, run: RunRow) -> HttpResponse:
    """Leave out what the page shows, its step, or all that is not read yet; or read what was left out after all."""
    step = request.POST.get("step", "")
    what = step or request.POST.get("what", "")

    def left() -> None:
        if what == "nothing":
            services.take_up_again(run, request.user)
            return
        target = None if what == "all" else queries.load(run).target_at(what)
        if what != "all" and target is None:
            raise Refused("Choose what is left out.")
        services.leave_out(run, request.user, target, with_step=bool(step))

    def bench(status: int = 200, *, done: str = "", message: str = "") -> HttpResponse:
        loaded = queries.load(run, request.user)
        state = BenchState(done=done, message=message, left_out=bool(done) and what != "nothing")
        return render_bench(request, run, loaded, state, status)

    def done(_: None) -> HttpResponse:
        said = "It is to be measured after all." if what == "nothing" else "Not measured: the report will say so."
        return bench(done=said) if request.htmx else redirect(run)

    return run_or_refuse(left, done, lambda error, status: bench(status, message=error.message))


@require_POST
@run_view("runs.record")
def undo(request: SignedIn, run: RunRow) -> HttpResponse:
    """Take back the last thing that the person did, which the page names, and go to its point."""
    named = request.POST.get("last", "")
    return _changed(request, run, lambda: services.undo(run, request.user, named), "Taken back.", goes_to_it=True)


def _changed(
    request: SignedIn, run: RunRow, action: Callable[[], int | None], said: str, *, about: int | None = None,
    goes_to_it: bool = False,
) -> HttpResponse:  # fmt: skip
    """Carry a correction out: the page stays at its point, or goes to the reading's.

    After an answer `about` a reading it goes on, unless the work went on meanwhile.
    """

    def done(reading_id: int | None) -> HttpResponse:
        loaded = queries.load(run, request.user)
        index = loaded.index_of(reading_id)
        if reading_id is None:
            return render_bench(request, run, loaded, BenchState(done=said))
        state = BenchState(stands_at(request, loaded))
        asked = loaded.index_of(about)
        if index is None:
            return render_bench(request, run, loaded, replace(state, done=said, looks_back=about is None))
        reading = loaded.core.readings[index]
        if asked is not None:
            is_there = state.chosen is None or state.chosen.key == loaded.core.readings[asked].target.key
            if is_there and reading.counted is not False:
                state = BenchState(recorded=reading.target)
            elif is_there:
                state = BenchState(reading.target)
            return render_bench(request, run, loaded, replace(state, answered=reading_id))
        if goes_to_it:
            state = BenchState(reading.target)
        return render_bench(request, run, loaded, replace(state, done=said, looks_back=True))

    return run_or_refuse(
        action, done, lambda error, status: where_it_was(request, run, BenchState(message=error.message), status)
    )


def render_bench(
    request: SignedIn, run: RunRow, loaded: RunSnapshot, state: BenchState, status: int = 200
) -> HttpResponse:
    """The whole bench, or its live part for htmx; a plain form post that went well is sent back to the page."""
    page = BenchPage.of(run, loaded, state, request.user)
    if request.method == "POST" and not request.htmx and status == 200:
        return redirect(page.address)
    context: dict[str, object] = {"run": run, "bench": page.view(request)}
    if request.htmx:
        return render(request, "bench/_bench.html", context, status=status)
    context["keys"] = KEYS
    return render(request, "bench/bench.html", context, status=status)
