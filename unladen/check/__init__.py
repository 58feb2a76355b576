"""Does it look and work as before? And if not, which change is to blame?"""

from unladen.check.checking import Check, Verdict
from unladen.check.outcomes import ChangeResult, ChangeResults, Standing, outcomes_of
from unladen.check.pairs import Difference, PageCheck

__all__ = ["ChangeResult", "ChangeResults", "Check", "Difference", "PageCheck", "Standing", "Verdict", "outcomes_of"]
