"""How parts are joined: the thread of every port, what screws onto what, and the adapters between."""
