"""What of an SVG is drawn: its tree without what is hidden or only defined, within bounds on what it repeats.

``display``, ``visibility``, ``switch`` and what is only defined are those of SVG 1.1, sections 5, 11.5 and 14; of style
sheets, rules for names, classes and ids are known.
"""

from __future__ import annotations

import re
from dataclasses import replace
from xml.etree import ElementTree

from ..errors import Refused
from ..record import record

Element = ElementTree.Element

DEFINITIONS = {"symbol", "clipPath", "mask", "marker", "pattern", "linearGradient", "radialGradient", "filter"}
DRAWN = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "use", "image"}
MOST_DRAWN = 100_000
"""How many shapes all uses of all groups may come to."""
DEEPEST = 200
"""How deep groups and uses may be nested."""
PIXELS = {"mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "pt": 96 / 72, "pc": 16.0, "q": 96 / 101.6}
LENGTHS = ("x", "y", "x1", "y1", "x2", "y2", "cx", "cy", "r", "rx", "ry", "width", "height", "font-size")
LENGTH = re.compile(r"^\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(mm|cm|in|pt|pc|q)\s*$", re.IGNORECASE)
RULE = re.compile(r"([^{}]+)\{([^{}]*)\}")
SELECTOR = re.compile(r"^(?:([\w-]+))?(?:\.([\w-]+)|#([\w-]+))?$")


@record
class Look:
    """Whether an element is drawn, by what it inherits and says itself."""

    shown: bool = True
    visible: bool = True

    def of(self, style: dict[str, str]) -> Look:
        display, visibility = style.get("display"), style.get("visibility")
        look = self
        if display == "none":
            look = replace(look, shown=False)
        if visibility in ("hidden", "collapse"):
            look = replace(look, visible=False)
        elif visibility == "visible":
            look = replace(look, visible=True)
        return look


def drawn_only(root: Element, name: str) -> int:
    """Takes out of the tree what is not drawn, and gives how many shapes that were.

    What is taken out can still be repeated by its id. Raises Refused for trees that repeat or nest too much.
    """
    _require_bounded(root, name)
    rules = _rules(root)
    return _cleared(root, Look(), rules)


def in_pixels(root: Element) -> None:
    """Writes lengths with a unit as pixels of 1/96 inch, exactly; the reader's own constants are good to 5e-7 only."""
    for element in root.iter():
        for key in LENGTHS:
            match = LENGTH.match(element.get(key) or "")
            if match:
                element.set(key, repr(float(match[1]) * PIXELS[match[2].lower()]))


def tag(element: Element) -> str:
    return element.tag.split("}")[-1] if isinstance(element.tag, str) else ""


def _cleared(element: Element, look: Look, rules: list[tuple[re.Match, dict[str, str]]]) -> int:
    left_out = 0
    chosen = False
    for place, child in enumerate(list(element)):
        kind = tag(child)
        if kind == "defs":
            continue
        here = look.of(_style(child, rules))
        hidden = not here.shown or (kind in DRAWN and not here.visible)
        if tag(element) == "switch":  # the first one whose conditions hold is drawn
            hidden |= chosen or not _holds(child)
            chosen |= not hidden
        if kind in DEFINITIONS or hidden:
            if hidden and kind not in DEFINITIONS:
                left_out += _shapes(child)
            namespace = child.tag[: -len(kind)] if isinstance(child.tag, str) else ""
            aside = Element(f"{namespace}defs")
            aside.append(child)
            if kind in DEFINITIONS:
                child.tag = f"{namespace}g"
            element[place] = aside
        else:
            left_out += _cleared(child, here, rules)
    return left_out


def _holds(child: Element) -> bool:
    if child.get("requiredExtensions") or child.get("requiredFeatures") == "":
        return False
    languages = child.get("systemLanguage")
    return languages is None or any(part.strip().lower().startswith("en") for part in languages.split(","))


def _shapes(element: Element) -> int:
    return sum(1 for each in element.iter() if tag(each) in DRAWN)


def _rules(root: Element) -> list[tuple[re.Match, dict[str, str]]]:
    """Selectors and declarations of all style sheets, as far as they are simple."""
    found = []
    for sheet in root.iter():
        if tag(sheet) != "style":
            continue
        text = re.sub(r"/\*.*?\*/", "", sheet.text or "", flags=re.DOTALL)
        for selectors, body in RULE.findall(text):
            for selector in selectors.split(","):
                match = SELECTOR.match(selector.strip())
                if match and selector.strip():
                    found.append((match, _declarations(body)))
    return found


def _declarations(text: str) -> dict[str, str]:
    pairs = (part.split(":", 1) for part in text.split(";") if ":" in part)
    return {key.strip().lower(): value.replace("!important", "").strip().lower() for key, value in pairs}


def _style(element: Element, rules: list[tuple[re.Match, dict[str, str]]]) -> dict[str, str]:
    style = {key: element.get(key, "").strip().lower() for key in ("display", "visibility") if element.get(key)}
    classes = (element.get("class") or "").split()
    for match, declared in rules:
        name, group, identity = match.groups()
        meant = (name is None or name == tag(element)) and (group is None or group in classes)
        if meant and (identity is None or identity == element.get("id")):
            style.update(declared)
    style.update(_declarations(element.get("style") or ""))
    return style


def _require_bounded(root: Element, name: str) -> None:
    """Counts the shapes that all uses come to, before any is made."""
    by_id = {each.get("id"): each for each in root.iter() if each.get("id")}
    counts: dict[int, int] = {}
    open_: set[int] = set()

    def count(element: Element, depth: int) -> int:
        if depth > DEEPEST:
            raise Refused(f"{name} is nested more than {DEEPEST} groups or uses deep; save it as plain, flat SVG.")
        key = id(element)
        if key in counts:
            return counts[key]
        if key in open_:
            raise Refused(f"{name} has an element that uses itself; save it as plain SVG.")
        open_.add(key)
        total = 1 if tag(element) in DRAWN else 0
        repeated = target(element)
        if repeated in by_id:
            total += count(by_id[repeated], depth + 1)
        total += sum(count(child, depth + 1) for child in element)
        open_.discard(key)
        if total > MOST_DRAWN:
            raise Refused(f"{name} repeats its shapes more than {MOST_DRAWN:,} times; save it with fewer of them.")
        counts[key] = total
        return total

    count(root, 0)


def target(element: Element) -> str | None:
    """The id of what a use repeats."""
    if tag(element) != "use":
        return None
    for key, value in element.attrib.items():
        if key.split("}")[-1] == "href" and value.strip().startswith("#"):
            return value.strip()[1:]
    return None
