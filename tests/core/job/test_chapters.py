"""Chapters: where they begin and end, and what becomes of them when rows come, go and move."""

from __future__ import annotations

import json
import zipfile
from io import BytesIO

import pytest

from zuschnitt.core.errors import Refused
from zuschnitt.core.job.chapters import chapter_of, chapters, named
from zuschnitt.core.job.job_file import job_bytes, load_job
from zuschnitt.core.job.route import Job
from zuschnitt.core.job.task import keys_of, tasks


def job_of(*kinds: str) -> Job:
    job = Job()
    for kind in kinds:
        job = job.added(kind)
    return job


def two_parts() -> Job:
    """Rows 10 to 30 are the body, 40 and 50 the lid."""
    job = job_of("turned_body", "develop", "lay_sheet", "domed_lid", "develop")
    return named(named(job, job.row(10).id, "Body"), job.row(40).id, " Lid ")


def shape(job: Job) -> list[tuple[str, str, list[str]]]:
    return [(c.name, c.numbers, [row.operation for row in c.rows]) for c in chapters(job.rows)]


def test_a_chapter_goes_on_until_the_next_one():
    assert [(name, numbers) for name, numbers, _ in shape(two_parts())] == [("Body", "10–30"), ("Lid", "40–50")]
    job = job_of("turned_body", "develop")
    assert [(name, numbers) for name, numbers, _ in shape(job)] == [("", "10–20")]
    later = named(job, job.row(20).id, "Flat")
    assert [(name, numbers) for name, numbers, _ in shape(later)] == [("", "10"), ("Flat", "20")]
    assert chapter_of(later, later.row(20).id).name == "Flat" and chapters(()) == ()
    assert shape(named(later, later.row(20).id, "")) == shape(job)


def test_a_new_row_is_in_the_chapter_of_the_row_above():
    job = two_parts()
    assert shape(job.added("lay_sheet", job.row(30).id))[0][2] == ["turned_body", "develop", "lay_sheet", "lay_sheet"]
    assert shape(job.added("lay_sheet"))[1][2] == ["domed_lid", "develop", "lay_sheet"]


def test_a_chapter_outlives_its_first_row_and_goes_with_its_last():
    job = two_parts()
    without = job.removed(job.row(40).id)
    assert shape(without)[1] == ("Lid", "50", ["develop"])
    assert [name for name, *_ in shape(without.removed(job.row(50).id))] == ["Body"]


def test_a_row_that_steps_over_a_beginning_changes_its_chapter_not_its_place():
    job = two_parts()
    sheet, lid = job.row(30).id, job.row(40).id
    down = job.moved(sheet, 1)
    assert shape(down) == [
        ("Body", "10–20", ["turned_body", "develop"]),
        ("Lid", "30–50", ["lay_sheet", "domed_lid", "develop"]),
    ]
    assert shape(down.moved(sheet, -1)) == shape(job)
    up = job.moved(lid, -1)
    assert [row.id for row in up.rows] == [row.id for row in job.rows]
    assert shape(up)[0][2][-1] == "domed_lid" and shape(up)[1] == ("Lid", "50", ["develop"])


def test_beginnings_stay_where_they_are_when_rows_change_places_within():
    job = two_parts()
    with pytest.raises(Refused, match="must stay below"):
        job.moved(job.row(40).id, 2)
    sheet = job.row(30).id
    first = job.moved(sheet, -2)
    assert shape(first)[0] == ("Body", "10–30", ["lay_sheet", "turned_body", "develop"])
    assert first.rows[0].id == sheet and first.rows[0].chapter == "Body"


def test_results_do_not_depend_on_chapters():
    job = two_parts()
    assert keys_of(tasks(job)) == keys_of(tasks(named(job, job.row(40).id, "")))


def test_they_are_kept_in_the_file(tmp_path):
    job = two_parts()
    path = tmp_path / "job.zuschnitt"
    path.write_bytes(job_bytes(job))
    assert load_job(path) == job
    content = json.loads(zipfile.ZipFile(BytesIO(job_bytes(job))).read("job.json"))
    assert [row.get("chapter") for row in content["rows"]] == ["Body", None, None, "Lid", None]


def test_a_chapter_that_is_no_text_is_refused(tmp_path):
    content = json.loads(zipfile.ZipFile(BytesIO(job_bytes(two_parts()))).read("job.json"))
    content["rows"][0]["chapter"] = 3
    path = tmp_path / "job.zuschnitt"
    with zipfile.ZipFile(path, "w") as made:
        made.writestr("job.json", json.dumps(content))
    with pytest.raises(Refused, match=r"rows\[0\]\.chapter"):
        load_job(path)
