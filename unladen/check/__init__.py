"""Does it look and work as before? And if not, which change is to blame?"""

from unladen.check.compare import Difference, compare
from unladen.check.culprit import culprits
from unladen.check.looking import Checker, Look

__all__ = ["Checker", "Difference", "Look", "compare", "culprits"]
