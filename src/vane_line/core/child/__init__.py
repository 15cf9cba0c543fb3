"""A child's prefabricated crown: what the preparation must be for one to go over it, and which size does."""
