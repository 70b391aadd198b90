"""Backups from the command line: made, looked at, brought back."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from rovask.start.named import a_database


def backup(
    to: Annotated[Path | None, typer.Option(help="folder; ROVASK_COPIES by default")] = None,
    keep: Annotated[
        int | None, typer.Option(min=1, help="how many of them stay there; ROVASK_COPIES_KEPT by default")
    ] = None,
) -> None:
    """Make one consistent copy of everything, while it runs or not. Exit status 1: it is made, and photos are missing from it."""
    from rovask.desk.copies import back_up
    from rovask.desk.door import Desk

    with a_database(made=False) as settings:
        found = back_up(Desk(settings), to, keep)
    rows = sum(table.rows for table in found.manifest.tables)
    typer.echo(f"{found.path}")
    typer.echo(
        f"{len(found.manifest.tables)} tables, {rows} rows, {len(found.manifest.photos) // 2} photos, {found.size / 1e6:.1f} MB",
        err=True,
    )
    for sha256 in found.manifest.missing:
        typer.echo(f"photo {sha256} is named by a refit, and its file is missing or damaged", err=True)
    raise typer.Exit(1 if found.manifest.missing else 0)


def restore(
    file: Path,
    check: Annotated[
        bool, typer.Option("--check", help="restore it beside, compare every table and photo, and keep nothing")
    ] = False,
) -> None:
    """Bring a backup of this or an older version back into an empty place. Exit status 1: --check found that it differs."""
    from rovask.desk.copies import check_backup
    from rovask.desk.door import Desk
    from rovask.store.backup.restore import restore as bring_back

    with a_database(made=True) as settings:
        if check:
            wrong = check_backup(Desk(settings), file)
            for words in wrong:
                typer.echo(words, err=True)
            typer.echo(
                f"{file.name}: "
                + ("every table and every photo is as it was" if not wrong else f"{len(wrong)} things differ")
            )
            raise typer.Exit(1 if wrong else 0)
        manifest = bring_back(file, settings.database_url, Desk(settings).photos)
    rows = sum(table.rows for table in manifest.tables)
    typer.echo(
        f"{rows} rows and {len(manifest.photos) // 2} photos as of {manifest.made_at}, made by {manifest.rovask}."
    )
    typer.echo(
        "Everybody signs in again: rovask link makes you one. Addresses that were withdrawn since open again: look under Yard.",
        err=True,
    )
