"""Sweep: a section run along lines that lie on a blank, on its form."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from ..errors import CannotBeDone, Lacking, Refused
from ..parameters import choice, number, optional_file, origin, source
from ..progress import Progress
from ..results.result import Outcome, outcome
from ..wording import counted
from .body_outcome import changed, drawn
from .registry import operation

if TYPE_CHECKING:
    from ..carry.tracks import Track
    from ..form.made_body import MadeBody
    from ..plane.contour import Contour


@operation(
    "sweep",
    title="Run a section along lines",
    stage="blank>form",
    group="Bodies",
    gives="form",
    takes="lines on a blank, a closed section, or the size of a bar",
    makes="a bar along each line, on the form; apart from it, joined to it or cut out of it",
)
class Sweep:
    artwork: Any = source("artwork", hint="the lines; the section runs along each of them")
    section: Any = optional_file(
        ".svg", ".dxf", words="no drawing", hint="the section, one closed outline; its origin runs along the line",
        instead="bar",
    )  # fmt: skip
    bar: Any = choice(
        "drawn",
        {"drawn": "as it is drawn", "round": "that of a round bar", "half-round": "that of a half-round bar",
         "square": "that of a square bar", "triangle": "that of a triangular bar"},
        "whether the section is drawn, or that of a bar by numbers",
    )  # fmt: skip
    size: Any = number(6, "mm", "the bar's diameter or side", above=0)
    wall: Any = number(0, "mm", "the wall of a hollow bar; 0 for a solid one", low=0)
    round: Any = number(0, "mm", "the radius of the bar's edges", low=0)
    join: Any = choice(
        "apart",
        {"apart": "stay apart", "joined": "are joined to the body", "cut": "are cut out of the body"},
        "what becomes of the bars and the body they run along",
    )
    ends: Any = choice(
        "square",
        {"square": "square", "fitted": "at the faces' edge, or mitred"},
        "square to their line, or cut along the faces' edge and mitred where the line turns",
    )
    blank: Any = origin("artwork", "blank")
    form: Any = origin("artwork", "form")
    upright: Any = choice(
        "surface",
        {"surface": "square to the surface", "axis": "upright to the axis"},
        "how the section stands: square to line and surface, or in the planes through the axis of a cylinder or cone",
    )

    sentence = "Run {section} along the lines of {artwork}, {upright}."
    clauses = (
        (
            "a bar by numbers",
            "The section is {bar}, {size} across, with a wall of {wall}, its edges rounded by {round}.",
        ),
        ("ends of bars", "Bars end {ends}."),
        ("with the body", "The bars {join}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..carry.tracks import tracks
        from ..solids.sweeping import on_mesh
        from ..solids.under import has_triangles

        section, hole = self._sections(progress.part(0, 0.1))
        found = tracks(self.form, self.blank.correspondence, drawn(self.artwork), progress.part(0.1, 0.3))
        if not found:
            raise CannotBeDone("None of the lines lies on the blank; move or scale them.")
        of_mesh = any(map(on_mesh, found)) or (self.join != "apart" and has_triangles(self.form, self.blank))
        make = self._by_mesh if of_mesh else self._exact
        made, messages = make(found, section, hole, progress.part(0.3, 0.8))
        parts = sum(1 for track in found if ", part " in track.name)
        if parts and self.ends == "square":
            messages.append(
                f"Lines with corners, or that leave the blank, became {counted(parts, 'bar')}, square at their ends."
            )
        progress.step(0.8, "reading faces")
        name = "bars" if self.join == "apart" else self.form.name
        return outcome(changed(self.form, made, name), messages=messages)

    def _exact(
        self, found: Sequence[Track], section: Contour, hole: Contour | None, progress: Progress
    ) -> tuple[list[MadeBody], list[str]]:
        from ..solids.bar_ends import fitted
        from ..solids.bodies import made_body
        from ..solids.joining import with_form
        from ..solids.sweeping import swept

        run, square, messages = [], 0, []
        for k, track in enumerate(found):
            progress.step(0.8 * k / len(found), "running the section along")
            if self.ends == "fitted":
                carried, kept = fitted(self.form, track, section, self.upright, hole)
                square += kept
            else:
                carried = swept(track, section, self.upright, hole)
            run.append(carried)
        if self.join == "apart":
            made = [made_body(t.name, each.shape, each.deviation) for t, each in zip(found, run, strict=True)]
        else:
            progress.step(0.8, "joining" if self.join == "joined" else "cutting")
            off = max(each.deviation for each in run)
            whole, said = with_form(self.form, self.blank, [each.shape for each in run], self.join == "joined", off)
            made, messages = [whole], list(said)
        if square:
            messages.append(f"{counted(square, 'end')} stayed square: a cut there would run too far along the bar.")
        return made, messages

    def _by_mesh(
        self, found: Sequence[Track], section: Contour, hole: Contour | None, progress: Progress
    ) -> tuple[list[MadeBody], list[str]]:
        """Bars along a mesh, of triangles."""
        from ..solids.by_mesh import mesh_made
        from ..solids.joining import with_mesh
        from ..solids.sweeping_by_mesh import swept_by_mesh

        if self.ends == "fitted":
            raise CannotBeDone("The form is a mesh, on which bars end square; leave them so, or take the form as STEP.")
        run, off = [], []
        for k, track in enumerate(found):
            progress.step(0.8 * k / len(found), "running the section along")
            body, away = swept_by_mesh(track, section, self.upright, hole)
            run.append(body)
            off.append(away)
        if self.join == "apart":
            return [mesh_made(t.name, body, away) for t, body, away in zip(found, run, off, strict=True)], []
        progress.step(0.8, "joining" if self.join == "joined" else "cutting")
        whole, said = with_mesh(self.form, self.blank, run, self.join == "joined", max(off))
        return [whole], list(said)

    def _sections(self, progress: Progress) -> tuple[Contour, Contour | None]:
        """The section and its hole."""
        from ..solids.bars import Bar, sections_of
        from ..solids.joining import rooted

        joined = self.join == "joined"
        if self.bar != "drawn":
            return sections_of(Bar(self.bar, self.size, self.wall, radius=self.round, rooted=joined))
        section = self._section(progress)
        return rooted(section) if joined else section, None

    def _section(self, progress: Progress) -> Contour:
        from ..files.artwork_file import read_artwork

        if self.section is None:
            raise Lacking("The sweep waits for a section; choose a drawing of it, or say which bar it is.")
        drawing = read_artwork(self.section.content, self.section.name, progress)
        closed = [contour for contour in drawing.contours if contour.closed]
        if len(closed) != 1 or len(drawing.contours) != 1:
            raise Refused(
                f"{self.section.name} must hold one closed outline to be a section; it holds "
                f"{counted(len(drawing.contours), 'line')}, {len(closed)} of them closed."
            )
        return closed[0]
