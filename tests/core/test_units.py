"""Lengths in a job's unit: what is shown, what is typed, and that the job itself stays in mm."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zuschnitt.core.errors import Refused
from zuschnitt.core.expressions import length_of
from zuschnitt.core.job.route import Job
from zuschnitt.core.units import UNITS, in_unit, kept, shown, typed

NAMES = {"rim": 10.0}


@pytest.mark.parametrize(
    ("unit", "text", "mm"),
    [
        ("in", "2", 50.8),
        ("in", "1/16", 25.4 / 16),
        ("in", "2 1/2", 63.5),
        ("in", "-1/4", -6.35),
        ("in", "2+1/4", 57.15),
        ("in", "2*(1+1/2)", 76.2),
        ("in", ".5", 12.7),
        ("in", "1e-1", 2.54),
        ("in", "12 mm", 12.0),
        ("in", "rim*2+3", 23.0),  # beside named values bare numbers are mm
        ("in", "1/2in+rim", 22.7),
        ("cm", "2.5", 25.0),
        ("cm", "2-.5", 15.0),
        ("m", "0.12", 120.0),
        ("mm", "12.5", 12.5),
        ("mm", "2 1/2in", 63.5),
        ("mm", "1 1/4in*2+1", 64.5),
    ],
)
def test_what_is_typed_is_kept_as_it_is_meant(unit, text, mm):
    assert length_of(kept(text, unit), NAMES) == pytest.approx(mm, rel=1e-12)


@given(st.sampled_from(sorted(UNITS)), st.integers(-10_000_000, 10_000_000))
def test_what_is_shown_and_typed_again_is_the_same_length(unit, microns):
    mm = microns / 1000
    again = length_of(kept(typed(f"{mm:g}" if microns % 1000 else str(microns // 1000), unit), unit))
    assert math.isclose(again, float(f"{mm:g}"), abs_tol=6e-4)


@given(st.integers(1, 64 * 400))
def test_fractions_of_an_inch_are_shown_as_fractions(parts):
    mm = parts * 25.4 / 64
    assert length_of(kept(shown(mm, "in"), "in")) == pytest.approx(mm, rel=1e-12)
    assert "." not in shown(mm, "in")


@pytest.mark.parametrize(
    ("text", "unit", "said"),
    [
        ("The hold point is 2.54 mm off", "in", "The hold point is 0.1000 in off"),
        ("40 × 25.4 mm", "in", "1.57 × 1.000 in"),
        ("1.2000 m² · 3.50 cm²", "in", "1,860.00 in² · 0.5425 in²"),
        ("2.50 m", "cm", "250 cm"),
        ("−0.030 mm, +1,234.0 mm", "cm", "−0.0030 cm, +123.40 cm"),
        ("90 mm/min, M4, layer 2 mmx, 30 %", "in", "90 mm/min, M4, layer 2 mmx, 30 %"),
        ("16.4 cm³", "in", "1.0008 in³"),
    ],
)
def test_sentences_say_their_lengths_in_the_unit(text, unit, said):
    assert in_unit(text, unit) == said and in_unit(text, "mm") == text


def test_a_value_reads_and_is_typed_in_the_job_s_unit_but_is_kept_in_mm():
    job = Job().added("lay_sheet", width="50.8", height="40").with_unit("in")
    job = job.set(job.rows[0].id, "width", "50.8")
    row, parameter = job.rows[0], job.parameter(job.rows[0], "width")
    assert parameter.reads(job, row) == "2 in" and parameter.typed(job, row) == "2"
    changed = job.set(row.id, "width", parameter.kept(job, "3 1/8"))
    assert parameter.plain(changed, changed.rows[0]) == pytest.approx(3.125 * 25.4)
    assert parameter.reads(changed, changed.rows[0]) == "3 1/8 in"
    assert parameter.reads(changed.with_unit("mm"), changed.rows[0]) == "3 1/8in = 79.375 mm"
    with pytest.raises(Refused, match="furlong"):
        job.with_unit("furlong")
