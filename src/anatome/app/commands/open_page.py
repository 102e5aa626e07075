"""Which page about the model lies over what is picked; there is one at a time."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from anatome.app.commands.host import Host


class OpenPage(QObject):
    """``changed``: another page is wanted, or none any longer. ``name`` is the command that opened it; nothing: none."""

    changed = Signal()

    def __init__(self, host: Host) -> None:
        super().__init__()
        self._host, self._session = host, host.session
        self.name = ""
        for signal in (self._session.opened, self._session.closed):
            signal.connect(self._close)

    def toggle(self, name: str) -> None:
        """Show a page in the place of any other, or put it away."""
        self.name = "" if self.name == name else name
        if self.name:
            self._host.show_panels()
        self.changed.emit()
        self._session.picked_changed.emit()

    def _close(self) -> None:
        self.name = ""
        self.changed.emit()
