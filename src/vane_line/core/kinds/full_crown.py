"""A crown that covers the tooth all round."""

from __future__ import annotations

from vane_line.core.kinds.kind import Kind, Reader
from vane_line.core.kinds.ring import ring_cut, ring_line, ring_zones
from vane_line.core.survey import survey

RING = Reader("ring", trace=survey, follow=ring_line, cut=ring_cut, zones=ring_zones)
FULL_CROWN = Kind("full-crown", "full crown", RING, plan="die")
