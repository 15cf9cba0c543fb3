"""A crown that covers the tooth all round."""

from __future__ import annotations

from vane_line.core.kinds.kind import Kind
from vane_line.core.kinds.ring import RING

FULL_CROWN = Kind("full-crown", "full crown", RING, plan="die")
