"""The made-up world: teeth from implicit functions, simulated burs, a simulated scanner.

Stands beside the product as its scanner and mill stand-in. It imports only `core.mesh`; no measure imports it.
"""
