"""The form as it is drawn: its triangles, their colours, and the lines on it. Knows no widget."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

import numpy as np
from PyQt6.QtGui import QColor, QImage

from ...core.develop.blank import Blank
from ...core.develop.limit import Parted, excess, parted
from ...core.develop.stretch_scale import colours, mapped, scale_limit
from ...core.form.form import Form
from ...core.form.glimpse import Glimpse
from ..theme import theme
from .camera import Camera, hit, silhouette
from .scene import Bodies, LineSets, Scene
from .stand_in import MANY, StandIn, stand_in
from .stretch_colours import MAPS

NO_TINTS: Mapping[int, int] = MappingProxyType({})


NEIGHBOURS = 3
"""A point of the form has the stretch of so many points that were developed, the nearest ones."""


class FormPicture:
    """``form`` is what it shows, ``colours`` (t, 3) those of the triangles drawn, ``face_of`` (t,) their faces.

    ``limit`` is the end of the scale of its map, in percent; ``bodies`` are seen through the form.
    """

    def __init__(self) -> None:
        self.form: Form | None = None
        self.limit = 1.0
        self.points = self._normals = np.zeros((0, 3))
        self.edges: dict[int, np.ndarray] = {}
        self._all = self._triangles = np.zeros((0, 3), int)
        self._owners = np.zeros(0, int)
        self._every_edge: dict[int, np.ndarray] = {}
        self._corners = np.zeros((0, 3, 3))
        self._face_of = np.zeros(0, int)
        self.colours = np.zeros((0, 3), np.uint8)
        self.face_of = np.zeros(0, int)
        self._scene: Scene | None = None
        self._nearest: tuple[Blank, np.ndarray] | None = None
        self._limit: tuple[Blank, Parted] | None = None
        self._drawn: Parted | None = None
        self._faces: tuple[np.ndarray, np.ndarray, np.ndarray] = (self.points, self._normals, self._triangles)
        self._stand_in: StandIn | None = None
        self._light: StandIn | None = None
        self.bodies: Bodies | None = None
        self._glimpse: Glimpse | None = None

    def take(self, form: Form | None) -> None:
        """Shows another form, or none."""
        self.form = form
        self._nearest = self._glimpse = None
        if form is None:
            return
        if self._scene is None:
            self._scene = Scene()
        offsets = np.cumsum([0, *(len(m.points) for m in form.meshes)])
        self.points = np.vstack([m.points for m in form.meshes])
        self._normals = np.vstack([m.normals for m in form.meshes])
        self._all = np.vstack([m.triangles + o for m, o in zip(form.meshes, offsets, strict=False)])
        self._owners = np.repeat([f.number for f in form.faces], [len(m.triangles) for m in form.meshes])
        self._every_edge = {e.number: form.lines[k] for k, e in enumerate(form.edges) if k not in form.seams}
        self.hide(frozenset())

    def glimpse(self, glimpse: Glimpse | None) -> bool:
        """Has a glimpse drawn in place of the form, with its lines, or the form again; whether that is another one."""
        if glimpse is self._glimpse:
            return False
        hidden = frozenset(self._owners.tolist()) - frozenset(self._face_of.tolist())
        self._glimpse = glimpse
        if glimpse is None:
            self.hide(hidden)
            return True
        self.edges = dict(enumerate(glimpse.lines, 1))
        self._draw((glimpse.points, glimpse.normals, glimpse.triangles))
        return True

    def hide(self, hidden: frozenset[int]) -> None:
        """Leaves faces out, and the edges that only they have."""
        assert self._scene is not None and self.form is not None
        seen = ~np.isin(self._owners, sorted(hidden))
        self._triangles, self._face_of = self._all[seen], self._owners[seen]
        self._corners = self.points[self._triangles]
        self.edges = {
            number: points
            for number, points in self._every_edge.items()
            if not self.form.edges[number - 1].faces or set(self.form.edges[number - 1].faces) - hidden
        }
        self._nearest = self._limit = self._drawn = self._glimpse = None
        self._draw((self.points, self._normals, self._triangles))

    def under(self, camera: Camera, x: float, y: float, size: tuple[float, float]) -> tuple[int, np.ndarray] | None:
        """Face number and point (3,) under a pixel of a stage of that size."""
        if self.form is None:
            return None
        origin, direction = camera.ray(x, y, size)
        met = hit(origin - direction * 4 * self.form.size, direction, self._corners)
        return None if met is None else (int(self._face_of[met[0]]), met[1])

    # --- colours -------------------------------------------------------------------------------

    def colour(
        self,
        picked: tuple[int, ...],
        broken: tuple[int, ...],
        blank: Blank | None,
        mode: str,
        hover: int | None,
        tints: Mapping[int, int] = NO_TINTS,
    ) -> None:
        """Colours faces that are picked, broken or under the mouse, and what ``mode`` maps of the blank.

        ``tints`` are those of faces whose body has one of its own.
        """
        assert self._scene is not None
        now = theme()
        if self._glimpse is not None:
            self._scene.set_colours(np.tile(shade(now.form_face), (len(self._glimpse.triangles), 1)))
            return
        result = np.tile(shade(now.form_face), (len(self._triangles), 1))
        for tint in set(tints.values()):
            mine = [number for number, other in tints.items() if other == tint]
            result[np.isin(self._face_of, mine)] = shade(now.body_tints[tint])
        chosen = np.isin(self._face_of, picked)
        own = np.isin(self._face_of, list(tints))
        result[chosen & ~own] = shade(now.form_tint)
        result[chosen & own] = (result[chosen & own] * 0.75 + shade(now.form) * 0.25).astype(np.uint8)
        result[np.isin(self._face_of, broken)] = shade(now.failing)
        if blank is not None and mode in dict(MAPS):
            self._map(result, blank, mode)
        parts = None
        if blank is not None and mode not in dict(MAPS) and blank.verdict is not None and not blank.verdict.can:
            parts = self._parted(blank)
            result = result[parts.parent]
            result[parts.above] = shade(now.failing)
        face_of = self._face_of if parts is None else self._face_of[parts.parent]
        if hover is not None:
            over = face_of == hover
            result[over] = (result[over] * 0.88 + shade(now.form) * 0.12).astype(np.uint8)
        self._show(parts)
        self.colours, self.face_of = result, face_of
        self._scene.set_colours(result if self._light is None else result[self._light.parent])

    def _show(self, parts: Parted | None) -> None:
        """Has the triangles drawn as they are, or divided where the material reaches its limit."""
        assert self._scene is not None
        if parts is self._drawn:
            return
        self._drawn = parts
        if parts is None:
            self._draw((self.points, self._normals, self._triangles))
        else:
            self._draw((parts.at(self.points), parts.at(self._normals), parts.triangles))

    def _draw(self, faces: tuple[np.ndarray, np.ndarray, np.ndarray]) -> None:
        """Has triangles drawn: points, normals, triangles."""
        assert self._scene is not None
        self._faces, self._light, self._stand_in = faces, None, None
        self._scene.set_faces(*faces)

    def _lighten(self, moving: bool) -> None:
        """Has a lighter form drawn while it is ``moving``, where there are very many triangles."""
        assert self._scene is not None
        if self._glimpse is not None:
            return
        lighter = moving and len(self._faces[2]) > MANY
        if lighter == (self._light is not None):
            return
        if lighter:
            self._stand_in = self._stand_in or stand_in(*self._faces)
            self._light = self._stand_in
            self._scene.set_faces(self._light.points, self._light.normals, self._light.triangles)
            self._scene.set_colours(self.colours[self._light.parent])
        else:
            self._light = None
            self._scene.set_faces(*self._faces)
            self._scene.set_colours(self.colours)

    def _parted(self, blank: Blank) -> Parted:
        """The triangles in sight, divided at the contour where the material reaches its limit."""
        from scipy.spatial import cKDTree

        if self._limit is None or self._limit[0] is not blank:
            values = np.full(len(self.points), -1.0)
            if blank.mesh is not None:
                mine = np.unique(self._triangles[self._measured(blank)])
                gaps, near = cKDTree(blank.mesh.points_form).query(self.points[mine], k=NEIGHBOURS)
                weights = 1 / np.maximum(gaps, 1e-9)
                values[mine] = (weights * excess(blank)[near]).sum(axis=1) / weights.sum(axis=1)
            self._limit = (blank, parted(self._triangles, values))
        return self._limit[1]

    def _map(self, result: np.ndarray, blank: Blank, mode: str) -> None:
        result[np.isin(self._face_of, blank.faces)], self.limit = colours(np.zeros(1), 1.0)[0], 1.0
        if blank.mesh is None:
            return
        mine = self._measured(blank)
        self.limit = scale_limit(blank.mesh.stretch)
        nearest = self._nearest_developed(blank, mine)
        result[mine] = colours(mapped(blank.mesh.stretch, mode)[nearest], self.limit)

    def _measured(self, blank: Blank) -> np.ndarray:
        """Which display triangles lie on faces whose stretch was measured, and not laid exactly."""
        return np.isin(self._face_of, np.unique(blank.mesh.faces) if blank.mesh is not None else np.zeros(0, int))

    def _nearest_developed(self, blank: Blank, mine: np.ndarray) -> np.ndarray:
        """For each display triangle of ``mine``, the developed triangle nearest to its middle."""
        from scipy.spatial import cKDTree

        assert blank.mesh is not None
        if self._nearest is None or self._nearest[0] is not blank:
            centres = blank.mesh.points_form[blank.mesh.triangles].mean(axis=1)
            self._nearest = (blank, cKDTree(centres).query(self._corners[mine].mean(axis=1))[1])
        return self._nearest[1]

    def show_within(self, bodies: Bodies | None) -> None:
        """Has bodies drawn, which are seen through the form; or the form alone."""
        assert self._scene is not None
        if bodies is not self.bodies:
            self.bodies = bodies
            none = np.zeros((0, 3, 3)), np.zeros((0, 3), np.uint8)
            self._scene.set_bodies(*((bodies.corners, bodies.colours) if bodies is not None else none))

    @property
    def lines(self) -> LineSets:
        """The lines that are drawn with it."""
        assert self._scene is not None
        return self._scene.lines

    def image(self, camera: Camera, size: tuple[float, float], detail: float, moving: bool = False) -> QImage:
        """The picture, ``detail`` times as fine as ``size`` in pixels; of a lighter form while it is ``moving``."""
        assert self._scene is not None and self.form is not None
        self._lighten(moving)
        light = self._light
        faces = (self.points, self._normals, self._triangles)
        if self._glimpse is not None:
            faces = (self._glimpse.points, self._glimpse.normals, self._glimpse.triangles)
        elif light is not None:
            faces = (light.points, light.normals, light.triangles)
        segments = silhouette(*faces, camera.axes[2])
        self.lines.of("silhouette", 1.2).segments(segments, theme().form)
        width, height = (int(v) for v in size)
        return self._scene.picture(camera, width, height, detail, theme().form_paper, self.form.size)


def shade(colour: str) -> np.ndarray:
    made = QColor(colour)
    return np.array([made.red(), made.green(), made.blue()], np.uint8)
