"""Paper and ink: the colours, sizes and typeface of the window."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PyQt6.QtWidgets import QApplication, QWidget

from ..core.record import record

TONES = ("quiet", "form", "blank", "broken")
"""The colours of a theme that words are written in, beside ink."""
FONTS = Path(__file__).parents[1] / "fonts"


@record
class Theme:
    """Form things are ``form`` (petrol), blank things ``blank`` (ochre), on every stage and row."""

    paper: str
    ink: str
    quiet: str
    rule: str
    form: str
    form_tint: str
    form_paper: str
    form_face: str
    blank: str
    blank_tint: str
    blank_paper: str
    blank_face: str
    grid: str
    chosen: str
    broken: str
    outside: str
    failing: str
    dark: bool
    curve: str
    body_tints: tuple[str, ...]


LIGHT = Theme(
    paper="#fffefa", ink="#22231f", quiet="#5d6064", rule="#dfd9ca",
    form="#0f5c6e", form_tint="#d3e4e8", form_paper="#edf1f0", form_face="#ffffff",
    blank="#935600", blank_tint="#f4e3c4", blank_paper="#faf5ea", blank_face="#fffaf0",
    grid="#efe6d3", chosen="#faf5e9", broken="#a13a06", outside="#8d3f86", failing="#eec3ab", dark=False,
    curve="#3f8a14",
    body_tints=("#ffffff", "#dfe6c8", "#d9dcec", "#ecd9e4", "#e7dcc9", "#cfe3d8"),
)  # fmt: skip

DARK = Theme(
    paper="#1d1f20", ink="#eceae2", quiet="#a3a6a6", rule="#3a3d3e",
    form="#74c3d4", form_tint="#24505b", form_paper="#17201f", form_face="#39494c",
    blank="#e3a750", blank_tint="#5a4420", blank_paper="#211d16", blank_face="#2d2719",
    grid="#2d271c", chosen="#292721", broken="#f08a55", outside="#d79ad1", failing="#7a3f26", dark=True,
    curve="#a4d96c",
    body_tints=("#39494c", "#4a5232", "#41455f", "#5a3f50", "#574a36", "#335447"),
)  # fmt: skip


@cache
def theme() -> Theme:
    """Dark where the desktop is dark."""
    hints = QGuiApplication.styleHints()
    if hints is None:
        return LIGHT
    return DARK if hints.colorScheme() == Qt.ColorScheme.Dark else LIGHT


def dress(application: QApplication) -> None:
    """Gives the program its typeface and its colours, and other colours when the desktop turns dark or light."""
    application.setStyle("Fusion")
    load_fonts()
    application.setFont(font(13))
    _colour(application)
    hints = application.styleHints()
    if hints is not None:
        hints.colorSchemeChanged.connect(lambda: turned(application))


def turned(application: QApplication) -> None:
    """The desktop has become dark, or light."""
    theme.cache_clear()
    _colour(application)


def _colour(application: QApplication) -> None:
    application.setPalette(palette())
    application.setStyleSheet(style_sheet())


def inked(widget: QWidget, tone: str) -> None:
    """Has a widget write in one of ``TONES``, in the scheme that there is; in ink where it has none."""
    if (widget.property("tone") or "") != tone:
        widget.setProperty("tone", tone)
        style = widget.style()
        if style is not None and widget.testAttribute(Qt.WidgetAttribute.WA_WState_Polished):
            style.unpolish(widget)
            style.polish(widget)


def side_colour(side: str) -> str:
    """The colour of a figure or value by its side; ink where it has none."""
    now = theme()
    return {"form": now.form, "blank": now.blank}.get(side, now.ink)


def load_fonts() -> None:
    for path in sorted(FONTS.glob("*.otf")):
        QFontDatabase.addApplicationFont(str(path))


def font(pixels: int = 13, bold: bool = False) -> QFont:
    """The shipped typeface; nothing is set smaller than 11 pixels."""
    made = QFont("B612")
    made.setPixelSize(max(11, pixels))
    made.setBold(bold)
    return made


def palette() -> QPalette:
    now = theme()
    made = QPalette()
    roles = QPalette.ColorRole
    for role, colour in (
        (roles.Window, now.paper), (roles.Base, now.paper), (roles.AlternateBase, now.chosen),
        (roles.WindowText, now.ink), (roles.Text, now.ink), (roles.ButtonText, now.ink),
        (roles.Button, now.paper), (roles.Highlight, now.form), (roles.HighlightedText, now.paper),
        (roles.ToolTipBase, now.paper), (roles.ToolTipText, now.ink), (roles.PlaceholderText, now.quiet),
        (roles.Link, now.form),
    ):  # fmt: skip
        made.setColor(role, QColor(colour))
    return made


def style_sheet() -> str:
    now = theme()
    tones = "\n".join(f'    *[tone="{tone}"] {{ color: {getattr(now, tone)}; }}' for tone in TONES)
    return f"""
    QWidget {{ color: {now.ink}; }}
{tones}
    QMainWindow, QDialog {{ background: {now.paper}; }}
    QToolTip {{ background: {now.paper}; color: {now.ink}; border: 1px solid {now.rule}; padding: 4px; }}
    QMenu {{ background: {now.paper}; border: 1px solid {now.rule}; padding: 4px 0; }}
    QMenu::item {{ padding: 5px 22px 5px 14px; }}
    QMenu::item:selected {{ background: {now.form_tint}; color: {now.ink}; }}
    QMenu::item:disabled {{ color: {now.quiet}; }}
    QMenu::separator {{ height: 1px; background: {now.rule}; margin: 4px 0; }}
    QLineEdit, QPlainTextEdit {{ background: {now.paper}; border: 1px solid {now.rule}; border-radius: 3px;
        padding: 2px 5px; selection-background-color: {now.form}; selection-color: {now.paper}; }}
    QLineEdit:focus, QPlainTextEdit:focus {{ border: 1px solid {now.form}; }}
    QPushButton {{ background: {now.paper}; border: 1px solid {now.rule}; border-radius: 4px; padding: 5px 12px; }}
    QPushButton:hover {{ border-color: {now.form}; }}
    QPushButton:focus {{ border: 1px solid {now.form}; }}
    QLineEdit[look="pill"] {{ border-radius: 12px; }}
    QToolButton[look="word"] {{ border: none; padding: 4px 6px; }}
    QToolButton[look="word"]:hover, QToolButton[look="word"]:focus {{ background: {now.chosen}; border-radius: 4px; }}
    QTableWidget {{ background: {now.paper}; border: 1px solid {now.rule}; }}
    QTableWidget::item:selected {{ background: {now.form_tint}; color: {now.ink}; }}
    QHeaderView::section {{ background: {now.paper}; color: {now.quiet}; border: none; padding: 4px; }}
    QScrollArea {{ border: none; background: {now.paper}; }}
    QScrollBar:vertical {{ width: 9px; background: transparent; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {now.rule}; border-radius: 4px; min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
    """
