"""Pages on a printer, which the system's dialog asks for: lines and letters, in true size where the paper is large enough."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QMarginsF, QSizeF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QWidget

from anatome.linework.page import Page
from anatome.linework.plotting import plot_page
from anatome.problems import Problem
from anatome.render.plotter import ScreenPlotter, on_paper

SLACK = 0.5
"""Mm by which a paper may be smaller than a page and still count as large enough."""


def ask_printer(parent: QWidget, paper: tuple[float, float], title: str) -> QPrinter | None:
    """Ask on which printer, offering a paper as large as the pages; None where nobody wants to print after all."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(title)
    printer.setCreator("Anatome")
    _take_paper(printer, paper)
    dialog = QPrintDialog(printer, parent)
    dialog.setWindowTitle("Print sheets")
    return printer if dialog.exec() == QPrintDialog.DialogCode.Accepted else None


def print_pages(printer: QPrinter, pages: Sequence[Page], progress: Callable[[float], bool]) -> str:
    """Print pages, and say in words what came of it. The first decides which paper is asked for; on a smaller one they are made
    to fit. Raises Problem."""
    offered = printer.pageLayout().fullRect(QPageLayout.Unit.Millimeter).size()
    painter = QPainter()
    smallest = 1.0
    for number, page in enumerate(pages):
        own = (page.width, page.height)
        if _holds(offered, pages[0]):
            _take_paper(printer, own)  # each on its own paper, as long as nobody chose another
        if not painter.isActive():
            if not painter.begin(printer):
                raise Problem("The printer did not begin. Look whether it is ready, or write a PDF and print that.")
        elif not printer.newPage():
            raise Problem("The printer gave up between two sheets. Look whether it is ready, and print the rest.")
        full = printer.pageLayout().fullRect(QPageLayout.Unit.Millimeter).size()
        fits = min(full.width() / page.width, full.height() / page.height)
        share = 1.0 if fits > 1.0 - SLACK / max(own) else fits
        smallest = min(smallest, share)
        painter.save()
        on_paper(painter, share * printer.resolution() / 25.4, page.height)
        plot_page(page, ScreenPlotter(painter))
        painter.restore()
        if not progress((number + 1) / len(pages)):
            break
    painter.end()
    count = f"{len(pages)} sheet{'s' * (len(pages) != 1)}"
    return f"Printed {count}" + (
        "" if smallest == 1.0 else f", the smallest at {100 * smallest:.0f} % of its size to fit the paper"
    )


def _take_paper(printer: QPrinter, paper: tuple[float, float]) -> None:
    size = QPageSize(QSizeF(*paper), QPageSize.Unit.Millimeter, "", QPageSize.SizeMatchPolicy.ExactMatch)
    printer.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    printer.setFullPage(True)


def _holds(offered: QSizeF, page: Page) -> bool:
    """Whether a paper is as large as was asked for."""
    return abs(offered.width() - page.width) < 1.0 and abs(offered.height() - page.height) < 1.0
