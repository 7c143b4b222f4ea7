"""Bars along lines joined to the body they run along, or cut out of it."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Asset, Job

LINE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100">'
    b'<path d="M0,0 L120,-60"/></svg>'
)
LENGTH = float(np.hypot(120, 60))
STRIP = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm" viewBox="0 0 9 9">'
    b'<rect x="-2" y="-3" width="4" height="3"/></svg>'
)


@pytest.fixture
def swept(step):
    """A section run along a helix on a tube of radius 50, by the values of its row; the bodies, and what is said."""

    def made(part="tube", **values):
        job = Job().with_asset(Asset("tube.step", step(part).read_bytes())).with_asset(Asset("line.svg", LINE))
        job = job.with_asset(Asset("strip.svg", STRIP)).added("bring_in", file="tube.step")
        job = job.added("develop", faces="1").added("place_artwork", file="line.svg", x="40", y="30")
        state = list(run_all(job.added("sweep", **values)).values())[-1]
        if state.status != "done":
            raise CannotBeDone(state.reason)
        return state.outcome.results[0].made, state.outcome.messages

    return made


SECTIONS = {
    "round": ({"bar": "round", "size": "8"}, np.pi * 16),
    "half-round": ({"bar": "half-round", "size": "8"}, np.pi * 8),
    "triangle": ({"bar": "triangle", "size": "6"}, 9 * np.sqrt(3)),
    "hollow": ({"bar": "square", "size": "8", "wall": "1.5"}, 64 - 25),
    "drawn": ({"section": "strip.svg"}, 12.0),
}


@pytest.mark.parametrize("values, area", SECTIONS.values(), ids=SECTIONS)
def test_a_bar_apart_is_as_large_as_its_section_times_the_way_of_its_middle(swept, values, area):
    ((bar,), messages) = swept(**values)
    middle = {"half-round": 16 / (3 * np.pi), "drawn": 1.5}.get(values.get("bar", "drawn"), 0.0)
    # the normal curvature of the helix, by Euler: the section's centre lies so much above the line
    curved = (120 / LENGTH) ** 2 / 50
    assert not messages
    assert bar.volume == pytest.approx(area * LENGTH * (1 + curved * middle), rel=2e-4)


def test_what_is_joined_and_what_is_cut_out_are_the_bar(swept):
    """The outer half of a round bar is joined, the inner one cut out; a half-round bar is the outer one, rooted."""
    round_ = {"bar": "round", "size": "8"}
    ((bar,), _), ((joined,), _), ((cut,), _) = (swept(**round_, join=how) for how in ("apart", "joined", "cut"))
    whole = np.pi * 50**2 * 120
    assert joined.volume_change - cut.volume_change == pytest.approx(bar.volume, rel=1e-6)
    assert (joined.volume, cut.volume) == pytest.approx((whole + joined.volume_change, whole + cut.volume_change))
    ((half,), messages) = swept(bar="half-round", size="8", join="joined")
    assert not messages  # one body, though the bar only stands on it
    assert half.volume_change == pytest.approx(joined.volume_change, rel=1e-6)
    ((strip,), messages) = swept(section="strip.svg", join="joined")
    below = LENGTH * 2 * 2**3 / 6 * (60 / LENGTH) ** 2 / 50  # its flat side touches the tube in the middle only
    assert not messages
    assert strip.volume_change == pytest.approx(swept(section="strip.svg")[0][0].volume + below, rel=1e-4)


@pytest.mark.parametrize(
    "values, why",
    [
        ({"bar": "half-round", "size": "8", "join": "cut"}, "lies wholly beside the body, so nothing changes"),
        ({"bar": "drawn"}, "waits for a section; choose a drawing"),
        ({"bar": "square", "size": "8", "wall": "5"}, "leaves nothing hollow"),
        ({"bar": "square", "size": "8", "round": "5"}, "cannot be rounded with 5 mm"),
        ({"part": "octant", "bar": "round", "join": "joined"}, "no closed body"),
    ],
)
def test_what_cannot_be_run_along_lines_says_so(swept, values, why):
    with pytest.raises(CannotBeDone, match=why):
        swept(**values)
