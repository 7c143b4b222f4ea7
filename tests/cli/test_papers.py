"""Shop papers: a PDF for a whole job, with a page for each part, nest and brake plan."""

from __future__ import annotations

import re

import pytest

from tests.core.shop.test_shop_rows import shop_job
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.job_file import save_job
from zuschnitt.core.job.papers import papers_bytes

from .test_commands import call, refused


def pages(path):
    return len(re.findall(rb"/Type /Page\b", path.read_bytes()))


def test_a_job_has_a_page_for_each_part_nest_and_plan(tmp_path):
    job = shop_job().added("nest_parts", counts="1, 3, 2", sheets="1000 x 600", seconds="1").added("plan_bends")
    job = job.changed(job.row(20).id, note="weld hidden at the back; " + "long words " * 30)
    save_job(tmp_path / "a.zuschnitt", job)
    made = call("run", tmp_path / "a.zuschnitt", "--papers", tmp_path / "a.pdf", "--quiet")
    assert made.returncode == 0, made.stderr
    states = run_all(job)
    sheets = len(states[job.row(100).id].outcome.value.sheets)
    assert pages(tmp_path / "a.pdf") == 1 + 3 + sheets + 1
    # the same job gives the same bytes
    done = {row_id: state.outcome for row_id, state in states.items()}
    assert papers_bytes(job, done) == papers_bytes(job, done)


def test_a_long_bill_goes_on_on_another_page(tmp_path):
    job = shop_job()
    for k in range(40):
        job = job.added("lay_sheet", width=str(100 + k), height="50")
        job = job.changed(job.rows[-1].id, note=f"sheet {k}")
    done = {row_id: state.outcome for row_id, state in run_all(job).items()}
    (tmp_path / "a.pdf").write_bytes(papers_bytes(job, done))
    assert pages(tmp_path / "a.pdf") >= 43 + 3


def test_ribs_have_a_bill_of_pieces_even_without_a_blank(tmp_path, monkeypatch):
    from zuschnitt.core.job import papers
    from zuschnitt.core.job.route import Job

    written = []
    row = papers._Sheet.row

    def noted(self, words, *more):
        written.append(words)
        row(self, words, *more)

    monkeypatch.setattr(papers._Sheet, "row", noted)
    job = Job().added("domed_lid").added("make_ribs", x="60", y="60", thickness="4")
    done = {row_id: state.outcome for row_id, state in run_all(job).items()}
    (tmp_path / "a.pdf").write_bytes(papers_bytes(job, done))
    ribs = done[job.rows[-1].id].result("ribs").value.ribs
    assert pages(tmp_path / "a.pdf") == 2 and len(ribs) > 4
    for rib in ribs:
        x0, y0, x1, y1 = rib.area.bounds
        size = f"{x1 - x0:.1f} × {y1 - y0:.1f}"
        assert any(
            words[:4] == (rib.name, size, f"{rib.area.area / 100:.1f}", str(len(rib.slots))) for words in written
        )


def test_a_job_without_parts_has_no_papers(tmp_path):
    from zuschnitt.core.job.route import Job

    save_job(tmp_path / "a.zuschnitt", Job().added("turned_body"))
    assert "no blank in this job" in refused(call("run", tmp_path / "a.zuschnitt", "--papers", tmp_path / "a.pdf"), 4)
    assert not (tmp_path / "a.pdf").exists()


def test_papers_are_read_back_and_a_line_beside_its_place_is_not_written(monkeypatch):
    from zuschnitt.core.job import papers

    job = shop_job().added("nest_parts", counts="1, 3, 2", sheets="1000 x 600", seconds="1").added("plan_bends")
    done = {row_id: state.outcome for row_id, state in run_all(job).items()}
    papers_bytes(job, done)
    drawing = papers.path_of
    calls = iter(range(10**6))

    def bent(canvas, lines, closed):
        return drawing(canvas, [line + [0.02, 0] for line in lines] if next(calls) == 7 else lines, closed)

    monkeypatch.setattr(papers, "path_of", bent)
    with pytest.raises(CannotBeDone, match=r"beside its place"):
        papers_bytes(job, done)
