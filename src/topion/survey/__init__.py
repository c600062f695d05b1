"""The survey: findings of all checks, one module a check, kept by room and revision.

Every check defined in a module of this folder is found by itself: to add one, write its module
after `outside.py`.  An extension calls `add_check`.
"""

from topion.modules import classes_in
from topion.survey.check import Check
from topion.survey.finding import Finding
from topion.survey.ledger import CHECKS, Ledger, add_check, survey

for _kind in classes_in(__name__, Check):
    if hasattr(_kind, "name"):  # what all checks share has none
        add_check(_kind())

__all__ = ["CHECKS", "Finding", "Ledger", "add_check", "survey"]
