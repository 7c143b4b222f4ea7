"""Text as outlines of the program's typeface."""

from __future__ import annotations

import sys
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import numpy as np

from zuschnitt.core.plane import lettering as module
from zuschnitt.core.plane.lettering import lettering


def test_threads_that_write_at_once_write_the_same(request):
    """The window reads the typeface ahead in a thread of its own, while letters may be drawn already."""
    texts = ["Blech 0.8 mm", "Kegel", "0123456789", "äöü"]
    expected = [lettering(text, 10.0) for text in texts]
    request.addfinalizer(partial(sys.setswitchinterval, sys.getswitchinterval()))
    sys.setswitchinterval(1e-6)
    for _ in range(3):
        module._font.cache_clear()
        module._glyph.cache_clear()
        with ThreadPoolExecutor(4) as threads:
            found = list(threads.map(lambda _: [lettering(text, 10.0) for text in texts], range(4)))
        for written in found:
            for (contours, width), (others, wide) in zip(written, expected, strict=True):
                assert width == wide
                assert all(np.array_equal(a.points, b.points) for a, b in zip(contours, others, strict=True))
