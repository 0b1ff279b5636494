"""How bright displays are, in cd/m2."""

from __future__ import annotations

NOMINAL = 1000.0  # that which HLG is described for (ITU-R BT.2100), and PQ is taken for if unsaid
STANDARD = 100.0  # of standard range (ITU-R BT.2035)
BRIGHTEST = 10_000.0  # that PQ has a code value for (SMPTE ST 2084)
