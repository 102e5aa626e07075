"""The generated demo: a rowing club's boathouse on a river bank."""
