"""Moving the slider from flat to formed: pictures a second, each with a stage of its own.

The yardstick is the same window turned about, which draws the same picture without folding anything.
"""

from __future__ import annotations

import os
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from dragging import idle, pictures_per_second

from zuschnitt.core.job.route import Job
from zuschnitt.window.start import prepared

JOBS = {
    "cone, exact": Job().added("turned_body", top="200", cylinder="0", cone="240", outlet="80").added("develop"),
    "dome, relaxed": Job().added("make_dome").added("develop", way="relaxed", triangles="4"),
}


def main() -> None:
    application, window = prepared(None, True, None)
    window.resize(1280, 800)
    window.show()
    session, stage, slider = window.session, window.form_stage, window.card.folding.slider
    print(f"{'form':>14} {'triangles':>10} {'run':>4} {'turning':>8} {'folding':>8}")
    for name, job in JOBS.items():
        session.start_job(job)
        idle(application, session)
        session.select(session.job.row(20).id)
        idle(application, session)
        slider.setValue(10)
        idle(application, session)
        folded = session.outcome(session.job.row(30)).result("folded")
        for run in range(3):
            turning = pictures_per_second(application, lambda k: stage.look_by(1.0, 0.0))
            time.sleep(0.3)
            folding = pictures_per_second(application, lambda k: slider.setValue(10 + 2 * k))
            idle(application, session)
            print(f"{name:>14} {len(folded.fine.triangles):>10,} {run + 1:>4} {turning:>8.1f} {folding:>8.1f}")
    session.close()


if __name__ == "__main__":
    main()
