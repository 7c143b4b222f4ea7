"""``python -m zuschnitt``, and what the command ``zuschnitt`` calls.

Stopping by the keyboard is heard of before anything else is imported, since importing takes longer than a keypress.
"""

import os
import signal
import sys
import threading


def _stop(signum: int, frame: object) -> None:
    os.write(2, b"Stopped by you; nothing was changed.\n")
    os._exit(130)


def _open_standard_streams() -> None:
    """Where one is closed, the next file that is opened would take its number, and be written into by libraries."""
    for number in (0, 1, 2):
        try:
            os.fstat(number)
        except OSError:
            os.open(os.devnull, os.O_RDWR)


def main() -> int:
    _open_standard_streams()
    if threading.current_thread() is threading.main_thread():
        signal.signal(signal.SIGINT, _stop)
    # files are read in forked processes, and threads of a library do not live on in these
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    from .cli.main import main as run

    code = run()
    if code == 130:  # an interruption inside exec() would make the interpreter end by the signal all the same
        os._exit(code)
    return code


if __name__ == "__main__":
    sys.exit(main())
