"""The processes that compute, as the engine sees them: forked, given tasks, held, ended, and heard."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
from collections import deque
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass, field
from multiprocessing.connection import Connection, wait
from pathlib import Path
from typing import Any

from ..core.job.task import Look, Task
from ..core.record import record
from .store import Store


@dataclass(eq=False)
class Member:
    """One process.

    ``task`` is what it computes; ``held`` says that it stands aside; ``early`` that it was forked before all slow
    imports were done; ``knows`` is what it has at hand. ``glimpses`` says that it is there for glimpses alone, and
    ``look`` which one it is at.
    """

    connection: Connection
    pid: int | None = None
    task: Task | None = None
    held: bool = False
    ended: bool = False
    early: bool = False
    glimpses: bool = False
    look: Look | None = None
    progress: tuple[float, str] = (0.0, "")
    knows: set[str] = field(default_factory=set)


@record
class Heard:
    """A message of a member; ("ended", code) where its process has ended by itself."""

    member: Member
    message: tuple[Any, ...]


class LostError(Exception):
    """The process that others are forked from is gone, and they with it."""


class Crew:
    """All members, and the process that they are forked from (``template.py``)."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self.members: list[Member] = []
        self._unborn: deque[Member] = deque()
        self._start()

    @property
    def pid(self) -> int:
        """That of a member at work, of any member, or else of the process that they are forked from."""
        known = [member for member in self.members if member.pid is not None]
        busy = [member for member in known if member.task is not None and not member.held]
        return next((m.pid for m in (*busy, *known) if m.pid is not None), self._template.pid)

    @property
    def template_pid(self) -> int:
        return self._template.pid

    @property
    def silent(self) -> bool:
        """Whether something was asked of the template that it has not answered yet."""
        return self._asked > 0

    def hire(self) -> Member:
        """A new member; its process may still be on its way."""
        ours, theirs = socket.socketpair()
        member = Member(Connection(ours.detach()))
        self._ask(b"fork", theirs.fileno())
        theirs.close()
        self.members.append(member)
        self._unborn.append(member)
        return member

    def call(self) -> None:
        """Asks the template for a sign of life."""
        self._ask(b"here?")

    def _ask(self, what: bytes, *descriptors: int) -> None:
        self._asked += 1
        with suppress(OSError):  # where it is gone, ``heard`` says so
            socket.send_fds(self._control, [what], descriptors)

    def give(self, member: Member, task: Task) -> None:
        member.task, member.progress = task, (0.0, "")
        member.knows.update((task.key, *task.results))
        with suppress(OSError):  # it has just ended, which is heard of
            member.connection.send(task)

    def show(self, member: Member, look: Look) -> None:
        """Has a process that is there for it give a glimpse."""
        member.look = look
        with suppress(OSError):
            member.connection.send(look)

    @property
    def idle(self) -> list[Member]:
        """Those that could be given a task."""
        return [member for member in self.members if member.task is None and not member.glimpses]

    def end(self, member: Member) -> None:
        """Ends a process at once, whatever it is doing."""
        member.ended = True
        if member in self.members:
            self.members.remove(member)
        if member.pid is not None:
            _signal(member.pid, signal.SIGKILL)

    def spare(self, most: int) -> None:
        """Ends processes that have nothing to do, but for so many."""
        for member in self.idle[most:]:
            self.end(member)

    def reserve(self) -> None:
        """Has a process ready that has nothing to do, and two while forking may wait for the template's imports."""
        for member in [m for m in self.idle if m.early]:
            self.end(member)
        for _ in range(len(self.idle), 1 if self._ready else 2):
            self.hire()

    def hold(self, member: Member, held: bool = True) -> None:
        """Has a process stand aside, or go on."""
        if member.pid is not None and member.held != held:
            member.held = held
            _signal(member.pid, signal.SIGSTOP if held else signal.SIGCONT)

    def heard(self, others: Iterable[int], seconds: float | None) -> list[Heard]:
        """Waits until a member says something, one of the ``others`` can be read, or time is up. Raises LostError."""
        by_connection = {member.connection: member for member in self.members if not member.ended}
        found: list[Heard] = []
        for ready in wait([*by_connection, self._control, *others], seconds):
            if ready is self._control:
                found += self._about_processes()
            elif isinstance(ready, Connection):
                member = by_connection[ready]
                with suppress(EOFError, OSError):
                    while ready.poll():
                        found.append(Heard(member, ready.recv()))
        return found

    def restart(self) -> None:
        """Ends all processes and begins anew."""
        self.close()
        self.members.clear()
        self._unborn.clear()
        self._start()

    def close(self) -> None:
        for member in list(self.members):
            self.end(member)
        self._template.kill()  # the members are ended with it by the system
        self._template.wait()
        self._control.close()

    def _about_processes(self) -> list[Heard]:
        """What the template says about its children."""
        try:
            said = self._control.recv(4096)
        except OSError:
            said = b""
        if not said:
            raise LostError
        about = json.loads(said)
        if "ready" in about:
            self._ready = True
            for member in self.members:
                member.early = True
            return []
        if "ended" not in about:
            self._asked -= 1
        if "here" in about:
            return []
        if "forked" in about:
            member = self._unborn.popleft()
            member.pid = about["forked"]
            if member.ended:
                _signal(about["forked"], signal.SIGKILL)
            return []
        member_gone = next((m for m in self.members if m.pid == about["ended"]), None)
        if member_gone is None:
            return []
        member_gone.ended = True
        self.members.remove(member_gone)
        last: list[Heard] = []
        with suppress(EOFError, OSError):  # what it said before it ended
            while member_gone.connection.poll():
                last.append(Heard(member_gone, member_gone.connection.recv()))
        member_gone.connection.close()
        return [*last, Heard(member_gone, ("ended", about["code"]))]

    def _start(self) -> None:
        self._asked = 0
        self._ready = False
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        self._control: socket.socket = ours
        self._template = begin_template(theirs.fileno(), self._store.folder)
        theirs.close()


def begin_template(control: int, folder: Path) -> subprocess.Popen:
    """The process that others are forked from, with a socket's descriptor and the folder that the store is in."""
    environment = {**os.environ, "OPENBLAS_NUM_THREADS": "1"}
    root = str(Path(__file__).parents[2])
    environment["PYTHONPATH"] = os.pathsep.join(filter(None, [root, os.environ.get("PYTHONPATH")]))
    return subprocess.Popen(
        [sys.executable, "-m", "zuschnitt.engine.template", str(control), str(folder)],
        pass_fds=[control],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        env=environment,
    )


def _signal(pid: int, number: int) -> None:
    """To the process and those that it has forked; a process that is only just starting has no group yet."""
    for tell in (os.killpg, os.kill):
        with suppress(ProcessLookupError, PermissionError):
            tell(pid, number)
