"""Expressions, route, evaluation, history and the job file."""

from __future__ import annotations

import io
import json
import os
import zipfile
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zuschnitt.core.errors import Cancelled, Refused
from zuschnitt.core.expressions import length_of, named_values, value_of, values_in_note
from zuschnitt.core.job.evaluate import Evaluator, run_all
from zuschnitt.core.job.history import History
from zuschnitt.core.job.job_file import job_bytes, job_from_bytes, load_job, save_job
from zuschnitt.core.job.route import Asset, Job, Row
from zuschnitt.core.job.task import keys
from zuschnitt.core.operations.registry import GROUPS, entries
from zuschnitt.core.progress import Progress
from zuschnitt.demo.job import cyclone_and_lid, demo_job

# --- expressions ---------------------------------------------------------------------------------


@pytest.mark.parametrize("text, value", [
    ("12", 12), (" 12.5 ", 12.5), ("rim*2+3", 43), ("(rim-5)/3", 5), ("2**3", 8), ("-rim", -20),
    ("sqrt(16)", 4), ("sin(30)", 0.5), ("atan(1)", 45), ("max(rim, 30)", 30), ("pi", 3.141592653589793), ("1e3", 1000)])  # fmt: skip
def test_expressions(text, value):
    assert value_of(text, {"rim": 20}) == pytest.approx(value)


@pytest.mark.parametrize("text, why", [
    ("", "missing"), ("rum*2", "'rum' is not a named value"), ("2*", "not complete"), ("1/0", "divides by zero"),
    ("nan", "finite"), ("1e400", "finite"), ("inf", "finite"), ("9**9**9", "no result|finite"), ("'a'*9", "not a number|cannot|no result"),
    ("__import__('os')", "not a named value|cannot"), ("rim.real", "cannot|no result"), ("2 3", "not complete"), ("rim > 3", "not a number|cannot|no result")])  # fmt: skip
def test_wrong_expressions_say_why(text, why):
    with pytest.raises(Refused, match=why):
        value_of(text, {"rim": 20})


@settings(max_examples=80, deadline=None)
@given(st.text(max_size=30))
def test_any_text_is_a_number_or_refused(text):
    try:
        assert isinstance(value_of(text, {"rim": 2.0}), float)
    except Refused as refusal:
        assert refusal.sentence.endswith(".")


def test_values_may_use_those_before_them():
    assert named_values([("rim", "400"), ("outlet", "rim*0.3")])["outlet"] == 120
    with pytest.raises(Refused, match="outlet"):
        named_values([("outlet", "rim*0.3"), ("rim", "400")])
    with pytest.raises(Refused, match="cannot be the name"):
        named_values([("2x", "1")])


def test_numbers_in_notes_are_named_values():
    assert values_in_note("wire 3 mm; pitch = 12.5, gap=-2") == [("pitch", "12.5"), ("gap", "-2")]
    job = Job().added("turned_body")
    job = job.changed(job.rows[0].id, note="rule of thumb: slope = 3.5")
    job = job.set(job.rows[0].id, "cone", "slope*100")
    assert run_all(job)[job.rows[0].id].status == "done"


# --- the registry --------------------------------------------------------------------------------


def test_every_operation_is_complete():
    """Its sentence names just its parameters, and each of these says what goes in."""
    import re

    for entry in entries().values():
        whole = " ".join([entry.type.sentence, *(clause.words for clause in entry.clauses)])
        named = re.findall(r"\{(\w+)\}", whole)
        left = {p.name for p in entry.parameters if not p.follows and p.kind != "identities"} - set(named)
        assert len(named) == len(set(named)) and left <= {"blank"}  # what is worked on may go without saying
        assert entry.group in GROUPS and entry.takes and entry.makes
        assert all(p.hint and p.kind for p in entry.parameters)


# --- route ---------------------------------------------------------------------------------------


def test_rows_are_numbered_in_tens_and_keep_their_numbers():
    job = cyclone_and_lid()
    assert [row.number for row in job.rows] == list(range(10, 101, 10))
    added = job.added("trace", after=job.row(20).id)
    assert [row.number for row in added.rows][:4] == [10, 20, 25, 30]
    assert added.row(30).id == job.row(30).id


def test_sources_are_the_nearest_above_or_the_one_asked_for():
    job = cyclone_and_lid()
    assert job.sources(job.row(70)) == (job.row(60),)
    assert job.sources(job.row(20)) == (job.row(10),)
    asked = job.set(job.row(70).id, "form", job.row(10).id)
    assert asked.sources(asked.row(70)) == (asked.row(10),)
    assert [row.number for row in job.sources(job.row(50))] == [20, 30]
    assert job.row(50).id in job.below(job.row(10)) and job.row(50).id not in job.below(job.row(60))


def test_a_row_put_in_between_takes_nothing_away():
    """A form dropped in the middle of the route card once became that of all rows below it."""
    job = cyclone_and_lid()
    between = job.added("domed_lid", after=job.row(10).id)
    for number in range(20, 101, 10):
        assert [r.id for r in between.sources(between.row(number))] == [r.id for r in job.sources(job.row(number))]
    assert between.row(70) == job.row(70)  # what is not concerned stays as it is
    again = between.added("develop", after=between.row(15).id)
    assert again.sources(again.rows[2]) == (again.row(15),)


def test_edits_that_are_no_good_change_nothing():
    job = cyclone_and_lid()
    row = job.row(10).id
    for name, value, why in [
        ("top", "rum", "rum"), ("top", "-3", "too small"), ("top", "0", "must be above"), ("way", "x", "no value 'way'"),
    ]:  # fmt: skip
        with pytest.raises(Refused, match=why):
            job.set(row, name, value)
    with pytest.raises(Refused, match="not one of"):
        job.set(job.row(20).id, "way", "melted")
    with pytest.raises(Refused, match="three numbers"):
        job.set(job.row(20).id, "hold", "1, 2")
    with pytest.raises(Refused, match="names no faces"):
        job.set(job.row(20).id, "faces", "the round one")
    with pytest.raises(Refused, match="does not give Develop the form"):
        job.set(job.row(70).id, "form", job.row(20).id)
    with pytest.raises(Refused, match="outlet.*rim"):
        job.with_value("rim", None)
    with pytest.raises(Refused, match="Row 10.*outlet"):
        job.with_value("outlet", None)


def test_rows_move_where_their_inputs_allow():
    job = cyclone_and_lid()
    up = job.moved(job.row(60).id, -5)
    assert up.rows[0].operation == "domed_lid" and [r.number for r in up.rows] == list(range(10, 101, 10))
    # the body is now nearest above the first development, as before
    with pytest.raises(Refused, match="must stay below"):
        job.moved(job.row(20).id, -1)
    with pytest.raises(Refused, match="must stay below"):
        job.moved(job.row(10).id, 1)
    assert job.moved(job.row(10).id, -1) is job


# --- evaluation ----------------------------------------------------------------------------------


def test_the_demo_job_begins_with_cyclone_and_lid():
    begun = tuple(replace(row, chapter="") for row in demo_job().rows[:10])
    assert begun == cyclone_and_lid().rows


def test_only_what_changed_runs_again():
    evaluator, job = Evaluator(), cyclone_and_lid()
    ran = []

    def note(row, key):
        ran.append(row.number)
        return Progress()

    list(evaluator.evaluate(job, note))
    assert ran == list(range(10, 101, 10))
    ran.clear()
    turned = job.set(job.row(30).id, "turn", "15")
    list(evaluator.evaluate(turned, note))
    assert ran == [30, 40, 50]
    ran.clear()
    list(evaluator.evaluate(job, note))  # undone: all is still known
    assert ran == []
    assert keys(job) != keys(turned)


def test_broken_and_switched_off_rows_hold_up_what_follows():
    job = cyclone_and_lid()
    broken = run_all(job.set(job.row(70).id, "way", "exact"))
    assert broken["d70"].status == "broken" and "both ways" in broken["d70"].reason and broken["d70"].faces == (1,)
    assert broken["d80"].status == "waiting" and "row 70, which is broken" in broken["d80"].reason
    assert broken["d50"].status == "done"
    off = run_all(job.changed("d10", enabled=False))
    assert off["d10"].status == "off" and "switched off" in off["d20"].reason and off["d70"].status == "done"
    gone = run_all(job.removed("d10"))
    assert gone["d20"].status == "waiting" and gone["d20"].lacks and "waits for the form" in gone["d20"].reason


def test_a_removed_source_is_said_and_not_replaced_in_silence():
    job = cyclone_and_lid()
    job = job.set("d70", "form", "d60").removed("d60")
    state = run_all(job)["d70"]
    assert state.status == "broken" and "is gone" in state.reason


def test_stopping_stops_that_row_and_all_after_it():
    stop_at = "d70"

    def progress(row, key):
        return Progress(stopped=lambda: row.id == stop_at)

    states = {row.id: state for row, state in Evaluator().evaluate(cyclone_and_lid(), progress)}
    assert states["d60"].status == "done" and states["d70"].status == "stopped" and states["d80"].status == "stopped"
    with pytest.raises(Cancelled):
        Progress(stopped=lambda: True).step(0.5)


def test_a_mistake_of_ours_breaks_one_row_only(monkeypatch):
    from zuschnitt.core.operations.domed_lid import DomedLid

    monkeypatch.setattr(DomedLid, "run", lambda self, progress: 1 / 0)
    states = run_all(cyclone_and_lid())
    assert states["d60"].status == "broken" and "ZeroDivisionError" in states["d60"].reason
    assert states["d50"].status == "done"


def test_a_row_of_an_unknown_operation_is_broken_and_kept():
    job = replace(cyclone_and_lid(), rows=(*cyclone_and_lid().rows, Row("x", 110, "weld", {"bead": 3})))
    assert "does not know the operation 'weld'" in run_all(job)["x"].reason
    assert job_from_bytes(job_bytes(job), "a").rows[-1].parameters == {"bead": 3}


# --- history -------------------------------------------------------------------------------------


def test_undo_and_redo():
    first = Job()
    second, third = first.added("turned_body"), first.added("domed_lid")
    history = History(first).edited(second, "Add").edited(third, "Change")
    assert history.undone().now is second and history.undone().undone().now is first
    assert history.undone().redone().now is third
    assert history.undone().edited(first, "Other").redone().now is first
    assert (history.undo_what, history.undone().redo_what) == ("Change", "Change")
    assert History(first).undone().now is first


def test_a_drag_is_one_step_and_going_back_is_none():
    job = cyclone_and_lid()
    history = History(job)
    for x in range(5):
        history = history.edited(job.set("d30", "x", str(x)), "Move", merge="drag")
    assert len(history.past) == 1 and history.undone().now == job
    assert len(history.with_step_ended().edited(job.set("d30", "x", "9"), "Move", merge="drag").past) == 2
    assert not history.edited(job, "Move", merge="drag").past


# --- the job file --------------------------------------------------------------------------------


def test_a_job_comes_back_as_it_was(tmp_path):
    job = cyclone_and_lid()
    save_job(tmp_path / "a.zuschnitt", job)
    assert load_job(tmp_path / "a.zuschnitt") == job
    with zipfile.ZipFile(tmp_path / "a.zuschnitt") as archive:
        assert set(archive.namelist()) == {"job.json", "assets/amsel.svg", "assets/decal.svg"}


def repacked(change=lambda content: None, leave=(), extra=()) -> bytes:
    """The demo job's archive with its job.json changed, entries left out, or others added."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(job_bytes(cyclone_and_lid()))) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            if name in leave:
                continue
            data = old.read(name)
            if name == "job.json":
                content = json.loads(data)
                change(content)
                data = json.dumps(content).encode()
            new.writestr(name, data)
        for name, data in extra:
            new.writestr(name, data)
    return out.getvalue()


def test_unknown_keys_survive():
    def change(content):
        content["from_the_future"] = {"a": [1]}
        content["rows"][0]["colour"] = "red"

    job = job_from_bytes(repacked(change), "a")
    again = job_from_bytes(job_bytes(job.set("d30", "x", "5")), "a")
    assert again.extra["from_the_future"] == {"a": [1]} and again.rows[0].extra["colour"] == "red"


BAD_JOBS = {
    "empty": (b"", "is empty"),
    "text": (b"not a zip at all", "not a whole job file"),
    "cut in half": (job_bytes(cyclone_and_lid())[: len(job_bytes(cyclone_and_lid())) // 2], "not a whole job file"),
    "newer": (repacked(lambda c: c.update(schema=99)), "newer version"),
    "missing asset": (repacked(leave=["assets/decal.svg"]), "lacks something it needs: assets/decal.svg"),
    "changed asset": (repacked(lambda c: c["assets"].update({"decal.svg": "0" * 64})), "changed from outside"),
    "climbing path": (repacked(extra=[("../../evil", b"x")]), "climbs out"),
    "absolute path": (repacked(extra=[("/etc/evil", b"x")]), "climbs out"),
    "windows path": (repacked(extra=[("C:\\evil", b"x")]), "climbs out"),
    "no job": (repacked(leave=["job.json"]), "holds no job.json"),
    "no schema": (repacked(lambda c: c.pop("schema")), "schema is missing"),
    "a schema that is no number": (repacked(lambda c: c.update(schema="1")), "schema is no whole number"),
    "a row without an operation": (
        repacked(lambda c: c["rows"][0].pop("operation")),
        r"rows\[0\].operation is missing",
    ),
    "two rows with one id": (repacked(lambda c: c["rows"][1].update(id=c["rows"][0]["id"])), "as that of another row"),
    "a number that is a word": (repacked(lambda c: c["rows"][0].update(number="ten")), "no whole number"),
    "enabled that is a word": (repacked(lambda c: c["rows"][0].update(enabled="no")), "neither true nor false"),
    "a parameter that is an object": (
        repacked(lambda c: c["rows"][0]["parameters"].update(top={"a": 1})),
        "is no text",
    ),
    "a number that is not finite": (repacked(lambda c: c.update(thickness=float("nan"))), "not a finite number"),
    "a vector that is a number": (repacked(lambda c: c["rows"][1]["parameters"].update(hold=5.0)), "hold is no text"),
    "a memory that is a number": (repacked(lambda c: c["rows"][1]["parameters"].update(remembered=5)), "is no object"),
    "a memory of another shape": (
        repacked(lambda c: c["rows"][1]["parameters"].update(remembered={"faces": {"like": {"1": ["plane"]}}})),
        "not a kind, a size and a middle",
    ),
    "values that are no list": (repacked(lambda c: c.update(values={"a": 1})), "values is no list"),
    "a value without a text": (repacked(lambda c: c.update(values=[{"name": "a"}])), r"values\[0\].text is missing"),
    "a view that is a list": (repacked(lambda c: c["rows"][0].update(view=[1])), "view is no object"),
    "half a letter": (repacked(lambda c: c["rows"][0].update(note="\ud800")), "half a letter"),
    "an asset with a path": (repacked(lambda c: c["assets"].update({"../x": "0"})), "which no file can have"),
    "rows that are no rows": (repacked(lambda c: c.update(rows=[3])), "not as it should be"),
}


@pytest.mark.parametrize("case", BAD_JOBS)
def test_bad_job_files_are_refused(case):
    content, why = BAD_JOBS[case]
    with pytest.raises(Refused, match=why):
        job_from_bytes(content, "bad.zuschnitt")


def test_a_folder_that_cannot_be_written(tmp_path):
    with pytest.raises(Refused, match="cannot be written"):
        save_job(tmp_path / "missing" / "a.zuschnitt", cyclone_and_lid())
    assert not list(tmp_path.glob("**/*.zuschnitt"))


def test_a_full_disk_leaves_the_old_file_whole(tmp_path, monkeypatch):
    """os.fsync stands in for the disk: it is where a full one is heard of at the latest."""
    path = tmp_path / "a.zuschnitt"
    save_job(path, cyclone_and_lid())
    before = path.read_bytes()

    def full(_handle):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(Refused, match="no space left"):
        save_job(path, Job())
    assert path.read_bytes() == before and len(list(tmp_path.iterdir())) == 1


@pytest.mark.skipif(not os.path.exists("/dev/full"), reason="needs /dev/full")
def test_a_disk_that_is_really_full(tmp_path, monkeypatch):
    """The temporary file is /dev/full itself, which refuses every byte."""
    import tempfile

    def full(**_):
        name = str(tmp_path / "temporary")
        os.symlink("/dev/full", name)
        return os.open(name, os.O_RDWR), name

    monkeypatch.setattr(tempfile, "mkstemp", full)
    with pytest.raises(Refused, match="no space left"):
        save_job(tmp_path / "a.zuschnitt", cyclone_and_lid())
    assert not list(tmp_path.iterdir())


def test_assets_are_untouched():
    content = bytes(range(256)) * 9
    job = cyclone_and_lid().with_asset(Asset("odd name – ü.svg", content))
    assert job_from_bytes(job_bytes(job), "a").assets["odd name – ü.svg"].content == content


@pytest.mark.parametrize(("text", "mm"), [("1/16in", 25.4 / 16), ("2.5 cm", 25), ("(rim+1)m", 5000), ("1ft - 2in", 254),
    ("3*rim", 12), ("0.5m/4", 125), ("7", 7)])  # fmt: skip
def test_a_length_may_carry_its_unit(text, mm):
    assert length_of(text, {"rim": 4.0}) == pytest.approx(mm, rel=1e-12)


@pytest.mark.parametrize("text", ["m", "5 parsec", "in", "2 rim"])
def test_what_is_no_length_is_refused(text):
    with pytest.raises(Refused):
        length_of(text, {"rim": 4.0})


def test_units_belong_to_lengths_alone():
    job = Job().added("turned_body").added("develop", tab="1/4in")
    assert job.parameter(job.rows[1], "tab").in_task(job, job.rows[1], "", {}) == pytest.approx(6.35)
    with pytest.raises(Refused):
        job.set(job.rows[1].id, "tab_angle", "30 m")


def test_what_an_edit_does_not_concern_keeps_its_task_and_what_it_does_gets_another():
    from zuschnitt.core.job.task import tasks

    job = cyclone_and_lid().with_value("rim", "400")
    before = tasks(job)
    moved = tasks(job.set("d60", "crown", "37"))
    assert moved["d20"] is before["d20"] and moved["d60"].key != before["d60"].key
    assert moved["d70"].key != before["d70"].key  # it works on the row that was changed
    valued = tasks(job.with_value("rim", "410"))
    assert valued["d10"].key != before["d10"].key and valued["d60"].key == before["d60"].key
    again = tasks(job)
    assert {row: task.key for row, task in again.items()} == {row: task.key for row, task in before.items()}
    broken = Job(rows=job.rows, values=(("rim", "1/0"),))
    assert all(isinstance(task, Refused) for task in tasks(broken).values())
