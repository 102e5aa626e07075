"""The one kind of error meant for a person to read.

Anything a user can cause (a damaged file, an impossible number) is raised as a :class:`Problem` whose text says
what happened and what to do. The window shows it in a message, the command line prints it as one line and ends
with status 2. Any other exception is a fault of ours.
"""


class Problem(Exception):
    """Something went wrong that the person at the screen can understand and act on."""
