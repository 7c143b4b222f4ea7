"""A material of the table."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..materials import Material, known_names, required_material
from ..record import record
from .parameter import Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class MaterialName(Parameter):
    """The name of a material; empty means the job's own."""

    kind = "material"
    chosen = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> Any:
        if value:
            required_material(value)
        return value

    def check(self, job: Job, row: Row | None, title: str, value: Any) -> None:
        if value not in job.materials:
            super().check(job, row, title, value)

    def in_task(self, job: Job, row: Row, title: str, keys: Mapping[str, str]) -> Material | None:
        return job.material_of(row, self)

    def options(self, job: Job, row: Row) -> list[tuple[str, str]]:
        names = dict.fromkeys((*known_names(), *job.materials))
        return [("", f"the job's material ({job.material})"), *((name, name) for name in names)]


def material(hint: str) -> Any:
    """The name of a material of the table; empty means the job's own."""
    return stands_in(MaterialName(words="the job's material", hint=hint))
