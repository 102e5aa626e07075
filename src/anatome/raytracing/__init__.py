"""Stills: the light in a picture found by following rays. Gives light for every place that is seen; the renderer lays it over."""
