"""The demo as it ships: a rowing club's boathouse on a river bank. What generates it is in tools/."""
