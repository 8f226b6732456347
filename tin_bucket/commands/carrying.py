"""Commands about a workspace's definitions, its vault and its folder."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, cast

import typer

from tin_bucket.core.problem import fail

from .common import PASSPHRASE, Home, Passphrase, app, open_workspace, read_json, say, unlock

if TYPE_CHECKING:
    from tin_bucket.core.interchange.bundle import ImportChoice


@app.command("export-bundle")
@say
def export_command(
    file: Annotated[Path, typer.Argument(help="File to write, or - for standard output.")],
    query: Annotated[list[str] | None, typer.Option(help="A query to take; all of them when none is named.")] = None,
    home: Home = None,
    passphrase: Passphrase = False,
) -> None:
    """Write services, queries and reports to a file, to carry them to another machine. The keys stay behind."""
    from tin_bucket.core.interchange.bundle import bundle_text
    from tin_bucket.engine.clock import Clock
    from tin_bucket.engine.workspace.transfer import export_bundle

    workspace = open_workspace(home)
    unlock(workspace, passphrase)
    text = bundle_text(export_bundle(workspace, query or None, Clock().now()))
    workspace.close()
    if str(file) == "-":
        print(text, end="")
        return
    try:
        file.write_text(text, encoding="utf-8")
    except OSError as error:
        raise fail(
            "file-unwritable", f"The file cannot be written: {error.strerror}.", where=str(file), do="Name another."
        ) from error


@app.command("import-bundle")
@say
def bring_in_command(
    file: Annotated[Path, typer.Argument(help="A file that export-bundle wrote.")],
    clash: Annotated[
        str, typer.Option(help="What to do where something of that name is here: keep, replace or beside.")
    ] = "keep",
    dry: Annotated[bool, typer.Option(help="Only say what would be done.")] = False,
    home: Home = None,
) -> None:
    """Bring services, queries and reports in from a file: all of it, or nothing."""
    from tin_bucket.engine.clock import Clock
    from tin_bucket.engine.workspace.transfer import import_bundle, preview_import

    if clash not in ("keep", "replace", "beside"):
        raise fail(
            "options-unfit", f"“{clash}” is not one of the choices.", where="--clash", do="Use keep, replace or beside."
        )
    document = read_json(file)
    workspace = open_workspace(home, create=True)
    plain = preview_import(workspace, document, {}, str(file))
    choices: dict[str, ImportChoice] = {
        f"{item.kind} {item.name}": cast("ImportChoice", clash) for item in plain.items if item.state == "clash"
    }
    if dry:
        import_plan = preview_import(workspace, document, choices, str(file))
    else:
        import_plan = import_bundle(workspace, document, choices, Clock().now(), str(file))
    workspace.close()
    words = {"add": "added", "keep": "kept as it is here", "replace": "replaced", "beside": "put beside"}
    for item in import_plan.items:
        print(f"{item.kind} {item.name}: {item.state}, {words[item.choice]}")
    for wanted in import_plan.required_keys:
        print(f"key needed: {wanted.key} of {wanted.service} ({', '.join(wanted.fields)})")
    for name in import_plan.required_sheets:
        print(f"sheet wanted: {name}")
    for title, path in import_plan.left_files:
        print(f"report {title}: not written to {path} here; choose its files on the page Reports")


@app.command()
@say
def vault(
    home: Home = None,
    key_file: Annotated[bool, typer.Option("--key-file", help="Open with the key file again.")] = False,
) -> None:
    """Seal the stored keys under a passphrase, or under the key file again."""
    workspace = open_workspace(home)
    unlock(workspace, workspace.vault.wants_passphrase and PASSPHRASE not in os.environ)
    if key_file:
        workspace.vault.set_passphrase(None)
        print("The vault opens with its key file.")
    else:
        new = typer.prompt("New passphrase", hide_input=True, confirmation_prompt=True, err=True)
        workspace.vault.set_passphrase(new)
        print("The vault opens with the passphrase. Without it the stored keys are lost.")
    workspace.close()


@app.command()
@say
def folder(
    path: Annotated[Path | None, typer.Argument(help="The folder whose files queries may read.")] = None,
    home: Home = None,
    writing: Annotated[
        list[Path] | None,
        typer.Option("--writing", help="A folder that feeds may write to; may be repeated. They replace those before."),
    ] = None,
    own_only: Annotated[
        bool, typer.Option("--own-only", help="Let feeds write to the workspace's own folder alone.")
    ] = False,
) -> None:
    """Show or choose the one folder whose files queries may read, and the folders that feeds may write to."""
    workspace = open_workspace(home, create=True)
    if path is not None:
        if not path.is_dir():
            raise fail("folder-unknown", "There is no such folder.", where=str(path), do="Make it first.")
        workspace.settings.allow_folder(path)
    for one in writing or []:
        if not one.is_dir():
            raise fail("folder-unknown", "There is no such folder.", where=str(one), do="Make it first.")
    if writing or own_only:
        workspace.settings.allow_writing(writing or [])
    print(workspace.settings.folder)
    for folder_written in [workspace.settings.own_folder, *workspace.settings.written_folders]:
        print(f"feeds may write to {folder_written}")
    workspace.close()
