"""Does it look and work as before? And if not, which change is to blame?"""

from unladen.check.checking import Check, Verdict
from unladen.check.outcomes import ChangeOutcome, Outcomes, Standing, outcomes_of
from unladen.check.pairs import Difference, Pair

__all__ = ["ChangeOutcome", "Check", "Difference", "Outcomes", "Pair", "Standing", "Verdict", "outcomes_of"]
