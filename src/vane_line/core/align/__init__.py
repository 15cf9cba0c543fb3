"""Rigid registration of scans onto the preparation scan, and how far it can be trusted."""
