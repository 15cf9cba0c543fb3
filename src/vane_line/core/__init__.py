"""Numbers only: meshes in, measurements out. Imports nothing of store, service, api or cli."""
