"""A cavity in a tooth: what was cut out of it, its outline, floor, walls, boxes and standing cusps."""
