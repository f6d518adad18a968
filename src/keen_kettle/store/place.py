"""Where data lies: the folder asked for, or the one that the XDG rules name."""

from pathlib import Path

from keen_kettle.store.errors import StoreFull

__all__ = ["data_dir", "database_file"]


def data_dir(asked: Path | None) -> Path:
    """The data folder, made if it is not there.

    Raises
    ------
    StoreFull
        The folder cannot be made.
    """
    if asked is None:
        from platformdirs import user_data_path

        asked = user_data_path("keen-kettle")
    folder = asked.expanduser().absolute()
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StoreFull(
            f"The data folder {folder} cannot be made ({error.strerror}). Choose another with --data-dir."
        ) from error
    return folder


def database_file(folder: Path) -> Path:
    return folder / "kettle.sqlite"
