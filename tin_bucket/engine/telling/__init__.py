"""Tells people without their looking: finds what there is to tell, and sends it."""
