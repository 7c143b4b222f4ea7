"""Where a new row goes, and what it is linked to, by the row that is selected."""

from __future__ import annotations

import pytest

from zuschnitt.core.job.beginning import begun
from zuschnitt.core.job.chapters import chapters, named
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.operations.registry import entries

THROUGH = "0, -90, 18; 0, -40, 30"


def two_lids() -> tuple[Job, str, str, str]:
    """A lid, another form nearer above, and the development of the lid: ids of lid, other, blank."""
    job = Job().added("domed_lid").added("turned_body")
    job = job.added("develop", form=job.rows[0].id)
    return job, *(row.id for row in job.rows)


def operations(job: Job) -> list[str]:
    return [row.operation for row in job.rows]


def perimeter(state) -> float:
    return sum(contour.length for contour in state.outcome.value.outline)


def taken(job: Job, row: str, name: str):
    found = job.source(job.row(row), entries()[job.row(row).operation].parameter(name))
    return None if found is None else found.id


def test_a_relief_stands_before_the_develop_row_and_is_taken_by_it():
    job, lid, _, blank = two_lids()
    made, new = begun(job, "draw_relief", blank, through=THROUGH)
    assert operations(made) == ["domed_lid", "turned_body", "draw_relief", "develop"]
    assert taken(made, new, "form") == lid and taken(made, blank, "reliefs") == new
    states = run_all(made)
    assert len(states[new].outcome.value) == 1
    assert perimeter(states[blank]) > perimeter(run_all(job)[blank]) + 80  # a cut of some 50 mm, there and back


def test_a_second_relief_is_added_to_the_first():
    job, _, _, blank = two_lids()
    once, first = begun(job, "draw_relief", blank, through=THROUGH)
    for beside in (blank, first):
        twice, second = begun(once, "draw_relief", beside, through="90, 0, 18; 40, 0, 30")
        assert taken(twice, second, "others") == first and taken(twice, blank, "reliefs") == second
        assert operations(twice)[-3:] == ["draw_relief", "draw_relief", "develop"]
        states = run_all(twice)
        assert len(states[second].outcome.value) == 2 and states[blank].status == "done"


def test_what_works_on_a_result_stands_below_it():
    job, _, _, blank = two_lids()
    made, new = begun(job, "propose_reliefs", blank)
    assert operations(made)[-2:] == ["develop", "propose_reliefs"] and taken(made, new, "blank") == blank
    assert taken(made, blank, "reliefs") is None


def test_a_new_row_works_on_what_the_selected_one_works_on():
    job, lid, other, blank = two_lids()
    for operation in ("draw_curve", "develop", "plane_cut"):
        made, new = begun(job, operation, blank)
        assert taken(made, new, "form") == lid, operation
    made, new = begun(job, "develop", other)
    assert taken(made, new, "form") == other and made.row(new).parameters["form"] == ""


def test_curves_go_where_a_row_waits_for_them():
    job, lid, _, _ = two_lids()
    job, relief = begun(job, "curve_reliefs", lid)
    made, new = begun(job, "draw_curve", relief)
    assert taken(made, relief, "curves") == new and taken(made, new, "form") == lid
    assert made.place(new) < made.place(relief)


def test_a_row_put_before_the_first_of_a_chapter_is_in_it():
    job, _, _, blank = two_lids()
    job = named(job, blank, "Lid")
    made, new = begun(job, "draw_relief", blank)
    assert [c.name for c in chapters(made.rows)] == ["", "Lid"] and made.row(new).chapter == "Lid"


def test_with_nothing_selected_it_comes_last():
    job, *_ = two_lids()
    made, new = begun(job, "lay_sheet", None)
    assert made.rows[-1].id == new


@pytest.mark.parametrize("operation", entries())
def test_every_operation_can_be_begun_beside_every_kind_of_row(operation):
    job, lid, *_ = two_lids()
    job = job.added("draw_figures").added("draw_curve", form=lid)
    for row in job.rows:
        made, new = begun(job, operation, row.id, **entries()[operation].fresh())
        assert len(made.rows) == len(job.rows) + 1 and made.row(new).operation == operation
        for each in made.rows:
            assert all(made.place(source.id) < made.place(each.id) for source in made.sources(each))
        for each in job.rows:  # what others work on stays as it was, but for what the selected row takes anew
            if each.id != row.id:
                assert [s.id for s in made.sources(each)] == [s.id for s in job.sources(each)]
