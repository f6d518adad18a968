"""How clips come in: one, a folder, or the watched inbox."""

from collections.abc import Callable

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from keen_kettle.desk.kit.builders import button, card, label, row
from keen_kettle.desk.state.intake.inbox import Inbox

__all__ = ["InboxCard"]


class InboxCard(QWidget):
    """The ways in, and which folder is watched."""

    def __init__(
        self,
        inbox: Inbox,
        add_clip: Callable[[], None],
        add_folder: Callable[[], None],
        choose_inbox: Callable[[], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._inbox = inbox
        self.watched = label("", "small")
        self.choose = button(
            "Choose the inbox …",
            "A folder where films arrive (Ctrl+Shift+I)",
            choose_inbox,
            "download",
        )
        self.leave = button("Watch no more", "Films stay where they are", self._leave, "x", "link")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(
            card(
                label("Add clips", "lead"),
                label("Drop films on this window, or choose.", "quiet"),
                row(
                    button("A clip …", "Choose a film (Ctrl+O)", add_clip, "plus"),
                    button(
                        "A folder …",
                        "All its films, looked through in the background (Ctrl+Shift+O)",
                        add_folder,
                        "folder-open",
                    ),
                ),
                self.watched,
                row(self.choose, self.leave),
            )
        )
        inbox.changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        folder = self._inbox.folder
        self.leave.setVisible(folder is not None)
        self.choose.setText("Another …" if folder is not None else "Choose the inbox …")
        if folder is None:
            self.watched.setText(
                "Inbox: films that arrive in a folder of your choice come here by themselves."
            )
        elif self._inbox.missing:
            self.watched.setText(
                f"The inbox {folder} is not there now. It is looked for again by itself."
            )
        else:
            self.watched.setText(f"Inbox: {folder}")
        self.watched.setToolTip(str(folder or ""))

    def _leave(self) -> None:
        self._inbox.watch(None)
