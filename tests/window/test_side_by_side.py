"""Two forms on one stage: the one that is not worked on as lines, and where they clash."""

from __future__ import annotations

import pytest

from zuschnitt.core.job.route import Job

from .conftest import opened, settle


@pytest.fixture
def window(application, tmp_path):
    job = Job().added("make_block", width="160", depth="100", height="60").added("make_block", width="90", height="40")
    block, other = (row.id for row in job.rows)
    job = job.added("lay_on_face", form=other, face="5", other=block, onto="6", gap="-5")
    made = opened(tmp_path, job.added("find_clashes", one=job.rows[-1].id, other=block))
    yield next(made)
    made.close()


def drawn(window, name):
    """How many lines of a set the form stage shows."""
    lines = window.form_stage.picture.lines.sets.get(name)
    return 0 if lines is None else lines.actor.GetMapper().GetInput().GetNumberOfLines()


def test_the_other_form_is_seen_as_lines_and_the_clash_too(window):
    session = window.session
    for number, beside, clash in ((10, 0, 0), (30, 12, 0), (40, 12, 12), (20, 0, 0)):
        session.select(session.job.row(number).id)
        settle(window)
        assert (drawn(window, "beside"), drawn(window, "clashes")) == (beside, clash)
    session.select(session.job.row(40).id)
    session.edit("Raise", lambda job: job.set(job.row(30).id, "gap", "3"))
    settle(window)
    assert drawn(window, "clashes") == 0
    value = session.value(session.job.row(40), "clashes")
    assert value.found == () and value.gap == pytest.approx(3)
