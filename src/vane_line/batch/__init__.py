"""Many preparations in one go: a laboratory's day, a class's hand-ins; on this machine or on a cluster."""
