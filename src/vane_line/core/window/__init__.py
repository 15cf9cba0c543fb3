"""A window in a tooth's face, as for a veneer: its path, the depth of the cut along its line, its incisal form."""
