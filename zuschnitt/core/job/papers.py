"""Shop papers: one PDF for a job, with each part's form and flat, bends and figures, nests, brake plans, notes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from io import BytesIO
from typing import Any

import numpy as np

from ..errors import CannotBeDone
from ..files.pdf import MM, colour_of, path_of, write_text
from ..files.pdf_back import require_drawn
from ..form.form import Form
from ..geometry.curves import Array
from ..plane.contour import Contour, bounds
from ..plane.lettering import lettering
from ..results.result import Outcome
from ..shop.bend_table import HEADS, bend_rows, named
from .route import Job, Row

PAPER = (297.0, 210.0)
"""A4, lying, in mm."""
EDGE = 14.0
LAST = 17.0
LINE = 5.2
SIZE = 3.0
HEAD = 5.0
"""Margins, height of the last line, distance of lines, height of the em square of text and of heads, in mm."""
FROM_A_CORNER = np.array([[0.7071, 0.7071, 0.0], [-0.3536, 0.3536, 0.8660]])
"""Space to the paper, as a form is seen from a corner: x to the right, y upwards."""
FINE = 0.05
"""Lines are flattened within this on the paper, in mm."""
WIDE_NOTE = 92
"""Letters of a note on one line."""


def papers_bytes(job: Job, outcomes: Mapping[str, Outcome]) -> bytes:
    """The papers of a job. Raises CannotBeDone where nothing in it gives a blank or ribs."""
    from reportlab.pdfgen.canvas import Canvas

    blanks = [(row, outcomes[row.id]) for row in job.rows if _gives(outcomes.get(row.id), "blank")]
    if not blanks and not any(_gives(outcomes.get(row.id), "ribs") for row in job.rows):
        raise CannotBeDone("There is no blank in this job, so there are no papers to write; develop something first.")
    out = BytesIO()
    canvas = Canvas(out, pagesize=tuple(MM * side for side in PAPER), invariant=1)
    canvas.setTitle(job.name)
    canvas.setCreator("Zuschnitt")
    sheet = _Sheet(canvas, job.name)
    _bill(sheet, job, blanks)
    for row, outcome in blanks:
        _part(sheet, job, row, outcome, outcomes)
    for row in job.rows:
        if _gives(outcomes.get(row.id), "ribs"):
            _pieces(sheet, row, outcomes[row.id].result("ribs"))
        if _gives(outcomes.get(row.id), "nest"):
            _nest(sheet, row, outcomes[row.id].result("nest"))
        if _gives(outcomes.get(row.id), "brake_plan"):
            _plan(sheet, row, outcomes[row.id].result("brake_plan"))
    sheet.end()
    canvas.save()
    content = out.getvalue()
    require_drawn(content, PAPER, sheet.drawn)
    return content


def _gives(outcome: Outcome | None, kind: str) -> bool:
    return outcome is not None and outcome.result(kind) is not None


class _Sheet:
    """Pages one after the other; ``y`` is where the next line stands."""

    def __init__(self, canvas: Any, title: str) -> None:
        self.canvas, self.title = canvas, title
        self.number = 0
        self.y = 0.0
        self.drawn: list[list[Array]] = []
        """What is drawn on each page, in mm."""

    def begin(self, head: str) -> None:
        self.end()
        self.number += 1
        self.drawn.append([])
        self.canvas.scale(MM, MM)
        self.y = PAPER[1] - EDGE - HEAD
        write_text(self.canvas, head, HEAD, EDGE, self.y, 0)
        self.rule(self.y - 3)
        write_text(self.canvas, f"{self.title}   page {self.number}", 2.4, EDGE, EDGE / 2, 0)
        self.y -= 3 + 1.6 * LINE

    def end(self) -> None:
        if self.number:
            self.canvas.showPage()

    def rule(self, y: float, left: float = EDGE, right: float = PAPER[0] - EDGE) -> None:
        self.canvas.setStrokeColorRGB(*colour_of(Contour.polyline([[0, 0], [1, 0]], layer="REFERENCE")))
        self.canvas.setLineWidth(0.15)
        self.canvas.line(left, y, right, y)

    def row(self, words: Sequence[str], columns: Sequence[float], head: str = "") -> None:
        """A line of a table; a page that is full goes on on another one under ``head``."""
        if self.y < LAST:
            self.begin(head)
        ends = [*columns[1:], PAPER[0] - EDGE]
        for text, x, end in zip(words, columns, ends, strict=True):
            write_text(self.canvas, _short(text, end - x - 2), SIZE, x, self.y, 0)
        self.y -= LINE

    def contours(self, contours: Sequence[Contour], box: tuple[float, ...], field: tuple[float, ...]) -> float:
        """Contours with what ``box`` (x0, y0, x1, y1) holds in the middle of a ``field`` of the paper; the scale."""
        scale, shift = _fitted(box, field)
        self.canvas.setLineJoin(1)
        for contour in contours:
            points = contour.flattened(FINE / scale) * scale + shift
            self.canvas.setStrokeColorRGB(*colour_of(contour))
            self.canvas.setLineWidth(0.35 if contour.layer == "CUT" else 0.18)
            self.canvas.drawPath(path_of(self.canvas, [points], contour.closed), stroke=1, fill=0)
            self.drawn[-1].append(points)
        return scale

    def lines(self, lines: Sequence[Array], box: tuple[float, ...], field: tuple[float, ...], width: float) -> None:
        scale, shift = _fitted(box, field)
        self.canvas.setStrokeColorRGB(0.06, 0.36, 0.43)
        self.canvas.setLineWidth(width)
        for points in lines:
            self.canvas.drawPath(path_of(self.canvas, [points * scale + shift], False), stroke=1, fill=0)
            self.drawn[-1].append(points * scale + shift)

    def dimension(self, box: tuple[float, ...], field: tuple[float, ...]) -> None:
        """The overall width below and the height beside what ``box`` holds in a field."""
        scale, shift = _fitted(box, field)
        (x0, y0), (x1, y1) = np.reshape(box, (2, 2)) * scale + shift
        self.rule(y0 - 6, x0, x1)
        for x in (x0, x1):
            self.canvas.line(x - 1, y0 - 7, x + 1, y0 - 5)
        write_text(self.canvas, f"{box[2] - box[0]:.2f}", SIZE, (x0 + x1) / 2 - 6, y0 - 10.5, 0)
        self.canvas.line(x0 - 6, y0, x0 - 6, y1)
        for y in (y0, y1):
            self.canvas.line(x0 - 7, y - 1, x0 - 5, y + 1)
        write_text(self.canvas, f"{box[3] - box[1]:.2f}", SIZE, x0 - 7.5, (y0 + y1) / 2 - 6, 90)


def _fitted(box: tuple[float, ...], field: tuple[float, ...]) -> tuple[float, Array]:
    """Scale and shift (2,) that lay a box into the middle of a field."""
    low, high = np.reshape(np.asarray(box, float), (2, 2))
    left, right = np.reshape(np.asarray(field, float), (2, 2))
    scale = float(((right - left) / np.maximum(high - low, 1e-9)).min())
    return scale, (left + right) / 2 - scale * (low + high) / 2


def _short(text: str, room: float) -> str:
    """As much of a text as there is room for, in mm."""
    while text and lettering(text, SIZE, tolerance=0.1)[1] > room:
        text = text[:-2].rstrip() + "…" if len(text) > 2 else ""
    return text


def _bill(sheet: _Sheet, job: Job, blanks: Sequence[tuple[Row, Outcome]]) -> None:
    """What is to be made, and what was noted."""
    head = f"{job.name}: bill of material"
    sheet.begin(head)
    columns = (EDGE, 30.0, 110.0, 152.0, 184.0, 222.0)
    sheet.row(("row", "part", "size, mm", "area, cm²", "material", "verdict"), columns)
    sheet.rule(sheet.y + 0.62 * LINE)
    for row, outcome in blanks:
        blank = outcome.result("blank").value  # type: ignore[union-attr]
        x0, y0, x1, y1 = blank.bounds
        verdict = blank.verdict
        made = row.parameters.get("material") or job.material
        said = (
            "" if verdict is None else "it can take it" if verdict.can else f"{verdict.failing.mean():.1%} of it cannot"
        )
        size, area = f"{x1 - x0:.1f} × {y1 - y0:.1f}", f"{blank.figures.area_blank / 100:.1f}"
        sheet.row((str(row.number), row.name, size, area, str(made), said), columns, head)
    noted = [(row, line) for row in job.rows for line in _wrapped(row.note)]
    if noted:
        sheet.y -= LINE
        sheet.row(("notes", "", ""), (EDGE, 30.0, 110.0), head)
        sheet.rule(sheet.y + 0.62 * LINE)
        for row, line in noted:
            sheet.row((str(row.number), row.name, line), (EDGE, 30.0, 110.0), head)


def _wrapped(note: str) -> list[str]:
    import textwrap

    return textwrap.wrap(note, WIDE_NOTE)


def _part(sheet: _Sheet, job: Job, row: Row, outcome: Outcome, outcomes: Mapping[str, Outcome]) -> None:
    """One part: its form and its flat with dimensions, its bends, its figures."""
    blank = outcome.result("blank").value  # type: ignore[union-attr]
    sheet.begin(f"{row.number}  {row.name}")
    top = sheet.y
    form = _form_of(job, row, outcome, outcomes)
    if form is not None:
        own, others = _seen(form, set(blank.faces))
        every = np.vstack([*own, *others])
        box = (*every.min(axis=0).tolist(), *every.max(axis=0).tolist())
        field = (EDGE, 92.0, 118.0, top)
        sheet.lines(others, box, field, 0.12)
        sheet.lines(own, box, field, 0.3)
    contours = [*blank.outline, *blank.folds, *blank.marks, *_drawn_on(job, row, outcomes)]
    field = (142.0, 92.0, PAPER[0] - EDGE, top)
    box = bounds(contours)
    scale = sheet.contours(contours, box, field)
    sheet.dimension(box, field)
    write_text(sheet.canvas, f"1 : {1 / scale:.3g}", SIZE, PAPER[0] - EDGE - 18, 92.0 - 10.5, 0)
    sheet.y = 72.0
    columns = (EDGE, 60.0)
    for figure in outcome.figures[:9]:
        sheet.row((figure.label, figure.text), columns)
    for line in _wrapped(row.note)[:2]:
        sheet.row(("note", line), columns)
    rows = bend_rows(blank.folds)
    if rows:
        sheet.y = 72.0
        places = (142.0, 174.0, 204.0, 226.0, 250.0)
        sheet.row(HEADS, places)
        sheet.rule(sheet.y + 0.62 * LINE, places[0])
        for numbers, words in rows[:9]:
            sheet.row((named(numbers), *words), places)
        if len(rows) > 9:
            sheet.row((f"and {len(rows) - 9} more", "", "", "", ""), places)


def _drawn_on(job: Job, row: Row, outcomes: Mapping[str, Outcome]) -> list[Contour]:
    """What artwork and drawings there are on a blank."""
    found: list[Contour] = []
    for other in job.rows:
        made = outcomes[other.id].result("artwork") if other.id in outcomes else None
        if made is not None and any(taken.id == row.id for taken in job.sources(other)):
            found.extend(made.value.contours)
    return found


def _form_of(job: Job, row: Row, outcome: Outcome, outcomes: Mapping[str, Outcome]) -> Form | None:
    """The form that a blank was developed from."""
    source = outcome.result("form")
    if source is None:
        origin = job.origin(row, ("form",))
        found = outcomes.get(origin.id) if origin is not None else None
        source = found.result("form") if found is not None else None
    return None if source is None else source.value


def _seen(form: Form, faces: set[int]) -> tuple[list[Array], list[Array]]:
    """The edges of the developed faces and all others, as lines (n, 2) seen from a corner."""
    own: list[Array] = []
    others: list[Array] = []
    for edge in form.edges:
        line = edge.points(form.size / 2000) @ FROM_A_CORNER.T
        (own if faces & set(edge.faces) else others).append(line)
    return own, others


def _pieces(sheet: _Sheet, row: Row, result: Any) -> None:
    """The bill of pieces of ribs, in the order in which they go together, and of the rods through them."""
    ribs = result.value
    head = f"{row.number}  {row.name}: pieces, {ribs.thickness:g} mm thick"
    columns = (EDGE, 50.0, 110.0, 152.0, 184.0, 222.0)
    sheet.begin(head)
    sheet.row(("piece", "size, mm", "area, cm²", "slots", "cut, mm", ""), columns)
    sheet.rule(sheet.y + 0.62 * LINE)
    for rib in ribs.ribs:
        x0, y0, x1, y1 = rib.area.bounds
        size, area = f"{x1 - x0:.1f} × {y1 - y0:.1f}", f"{rib.area.area / 100:.1f}"
        sheet.row((rib.name, size, area, str(len(rib.slots)), f"{rib.area.length:.0f}", rib.mended), columns, head)
    for rod in ribs.rods:
        sheet.row((rod.name, f"round {rod.diameter:g} × {rod.length:.1f}", "", "", "", ""), columns, head)


def _nest(sheet: _Sheet, row: Row, nest: Any) -> None:
    """Each sheet of a nest, and what lies on it."""
    for number, laid in enumerate(nest.value.sheets, 1):
        sheet.begin(f"{row.number}  {row.name}: sheet {number} of {len(nest.value.sheets)}")
        width, height = laid.size
        box, field = (0.0, 0.0, width, height), (EDGE + 8, 50.0, PAPER[0] - EDGE, sheet.y)
        scale = sheet.contours(laid.contours(), box, field)
        sheet.dimension(box, field)
        _, shift = _fitted(box, field)
        for placed in laid.parts:
            at = placed.shape.representative_point()
            x, y = np.array([at.x, at.y]) * scale + shift
            text = _short(placed.part.name, 40)
            write_text(sheet.canvas, text, 2.4, x - lettering(text, 2.4, tolerance=0.1)[1] / 2, y, 0)
        counts: dict[str, int] = {}
        for placed in laid.parts:
            counts[placed.part.name] = counts.get(placed.part.name, 0) + 1
        wide, high = laid.offcut(nest.value.how.margin)
        sheet.y = 30.0
        sheet.row((f"yield {laid.share:.1f} %, offcut {wide:.0f} × {high:.0f} mm",), (EDGE,))
        sheet.row((", ".join(f"{count} × {name}" for name, count in counts.items()),), (EDGE,))


def _plan(sheet: _Sheet, row: Row, plan: Any) -> None:
    """The steps of a brake plan, and the flat with the numbers of its bends."""
    head = f"{row.number}  {row.name}: order of the bends"
    sheet.begin(head)
    walls = [Contour.polyline(np.array(wall.exterior.coords)[:-1], True, "REFERENCE") for wall in plan.flat.walls]
    bends = [Contour.polyline(b.line, layer="BEND_UP" if b.up else "BEND_DOWN") for b in plan.flat.bends]
    box, field = bounds([*walls, *bends]), (150.0, 40.0, PAPER[0] - EDGE, sheet.y)
    sheet.contours([*walls, *bends], box, field)
    scale, shift = _fitted(box, field)
    for step, each in enumerate(plan.value.steps, 1):
        bend = next(b for b in plan.flat.bends if b.number == each.bend)
        x, y = bend.line.mean(axis=0) * scale + shift
        write_text(sheet.canvas, str(step), HEAD, x - 1.5, y - 1.5, 0)
    columns = (EDGE, 30.0, 46.0, 66.0, 86.0)
    sheet.row(("step", "bend", "angle", "stops", "tool"), columns)
    sheet.rule(sheet.y + 0.62 * LINE, EDGE, 140.0)
    for step, each in enumerate(plan.value.steps, 1):
        stops = "" if each.gauge is None else f"{each.gauge:.1f}"
        words = (str(step), str(each.bend), f"{each.angle:g}°", stops, each.reason if each.collides else each.tool)
        sheet.row(words, columns, head)
