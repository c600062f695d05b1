"""What differs between two versions of a project: as data, in words, and as pictures."""

from topion.comparing.change import Change
from topion.comparing.trees import changes

__all__ = ["Change", "changes"]
