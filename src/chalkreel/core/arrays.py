"""The array type of all computing."""

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
