"""Outcome: everything the screen, the exports and the reviewer see of a run, part by part.

Every number stands here twice: in full, and as the text to show. The front end computes none of it.
"""
