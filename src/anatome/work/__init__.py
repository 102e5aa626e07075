"""Many pictures as small tasks: drawn here, a share of them on each of several machines, or by the workers of an engine."""
