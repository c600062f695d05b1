"""Packages of others that add kinds of brushes, rules, checks, formats and commands.

They are found by their entry points in the group `topion.extensions`, never in a project folder.
One that raises is named and switched off; what it made stays, drawn plainly, until it is back.
"""

from topion.extending.commands import COMMANDS, ExtraCommand
from topion.extending.door import Door
from topion.extending.extension import EXTENSIONS, Extension
from topion.extending.loading import GROUP, load_extensions

__all__ = [
    "COMMANDS",
    "EXTENSIONS",
    "GROUP",
    "Door",
    "Extension",
    "ExtraCommand",
    "load_extensions",
]
