"""The picture: OpenGL passes on a context that is given, in a window or without one."""
