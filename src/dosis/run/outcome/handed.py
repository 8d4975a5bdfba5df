"""What one run hands on to another: a table, and the question it is asked."""

from dataclasses import dataclass


@dataclass(frozen=True)
class HandedOn:
    """question : the id of what the new run asks. title : goes after that of this run. text : the table."""

    question: str
    title: str
    text: str
