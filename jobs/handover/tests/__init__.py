"""Tests of handing over: sheets, looking again, comebacks."""
