"""Before the bur: depths, burs, the target surface and the order of work."""
