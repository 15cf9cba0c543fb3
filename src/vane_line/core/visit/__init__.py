"""A visit at the chair: its steps, its timers, and when it will be over."""
