"""The interval that every ± shown stands for."""

from typing import Final

# Half the width, in σ, of the interval that holds 19 times in 20 (95 %) of a normal distribution.
NORMAL_95: Final = 1.959964
