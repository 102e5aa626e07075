"""The generator of the demo, a rowing club's boathouse on a river: ``python -m tools.boathouse.making`` writes what ships."""
