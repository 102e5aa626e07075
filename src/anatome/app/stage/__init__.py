"""The stage: the large live picture, the handles on it, and what the hands do there."""
