"""Kinds of cut. Each says for itself what it takes away, where it is held, what it is called and how a key drawing shows it."""
