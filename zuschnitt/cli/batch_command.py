"""What ``batch`` does: the files of a job, once for each row of a table."""

from __future__ import annotations

import hashlib
from argparse import Namespace
from collections.abc import Iterator

from ..core.batch.ledger import Ledger
from ..core.batch.piece import Piece, Wanted, key_of
from ..core.batch.running import at_scheduler, here, in_processes
from ..core.batch.table import TableRow, read_table
from ..core.errors import CannotBeDone, WrongCall
from ..core.files.atomic import write_whole
from ..core.files.reading import content_of
from ..core.files.report import report_bytes
from ..core.job.job_file import job_from_bytes
from ..core.progress import Progress
from ..core.wording import counted
from .terminal import say

ENDINGS = ("dxf", "svg", "step", "pdf")
SHOWN = 5
"""So many rows that were not made are named."""


def batch(options: Namespace, progress: Progress) -> None:
    wanted = Wanted(tuple(ending for ending in ENDINGS if getattr(options, f"{ending}_files")), options.row or "")
    if not wanted.endings:
        raise WrongCall("--dxf, --svg, --step and --pdf say which files are made; give one of them at least.")
    if options.workers is not None and options.scheduler is not None:
        raise WrongCall("--workers and --scheduler both say who computes; give one of them.")
    content, table = content_of(options.job), content_of(options.table)
    job = job_from_bytes(content, options.job.name)
    if wanted.row:
        job.row(wanted.row)
    rows = read_table(table, options.table.name, job)
    ledger = Ledger(options.out, [row.name for row in rows])
    digest = hashlib.sha256(content).hexdigest()
    keys = {row.name: key_of(digest, row.values, wanted) for row in rows}
    for row in rows:
        if row.wrong:
            ledger.add(Piece(row.name, reason=row.wrong), "")
    left = [row for row in rows if not row.wrong and not ledger.is_made(row.name, keys[row.name])]
    try:
        for done, piece in enumerate(_made(options, content, left, wanted), 1):
            ledger.add(piece, keys[piece.name])
            progress.step(done / len(left), f"{done:,} of {counted(len(left), 'row')}")
    finally:
        ledger.write()
    if options.report:
        write_whole(options.report, report_bytes(ledger.report()))
    said = f"{counted(len(left), 'row')} computed, {len(rows) - len(left):,} kept or refused; {options.out}"
    say([said, *(f"{name}: {ledger.reasons[name]}" for name in ledger.failed[:SHOWN] if name in ledger.reasons)])
    if ledger.failed:
        names = ", ".join(ledger.failed[:SHOWN]) + (" and others" if len(ledger.failed) > SHOWN else "")
        raise CannotBeDone(
            f"{len(ledger.failed):,} of {counted(len(rows), 'row')} were not made ({names}); "
            f"{options.out / 'report.json'} says why."
        )


def _made(options: Namespace, content: bytes, rows: list[TableRow], wanted: Wanted) -> Iterator[Piece]:
    if not rows:
        return iter(())
    if options.scheduler is not None:
        return at_scheduler(content, rows, wanted, options.scheduler)
    if options.workers is None or options.workers == 1:
        return here(content, rows, wanted)
    return in_processes(content, rows, wanted, options.workers)
