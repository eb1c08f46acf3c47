"""Names for the arrays that pass between the modules of the core."""

import numpy as np
from numpy.typing import NDArray

#: 8-bit samples: pictures, shape (H, W, 3) sRGB or (H, W, 4) sRGB with straight alpha.
U8 = NDArray[np.uint8]
U16 = NDArray[np.uint16]
#: Intermediate values; each user says shape and range.
F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
