"""Fast fitting of sigmoids between two free plateaus: the plateaus eliminated, Newton on the rest, compiled.

`model` is the way in. It is imported where it is used: the compiler it brings takes half a second to load.
"""
