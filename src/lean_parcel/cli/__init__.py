"""The command line: one module a command."""

import click

from lean_parcel.cli.damage import damage
from lean_parcel.cli.fit import fit
from lean_parcel.cli.likeness import likeness
from lean_parcel.cli.pack import pack
from lean_parcel.cli.repoint import repoint
from lean_parcel.cli.serve import serve
from lean_parcel.cli.verify import verify_command


@click.group()
@click.version_option(package_name="lean-parcel")
def main() -> None:
    """Spend bytes, see damage: photos for the web, fitted to a byte limit."""


for command in (damage, fit, likeness, pack, repoint, serve, verify_command):
    main.add_command(command)
